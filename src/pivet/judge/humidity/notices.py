"""What can be noticed about a humidity exchange, as bits and as codes."""

from pivet.judge.notices import NoticeBit
from pivet.judge.verdict import Verdict


class Notice(NoticeBit):
    """One bit a kind of finding."""

    NO_ANSWER = 1 << 0
    LINE_HELD_LOW = 1 << 1
    CUT_SHORT = 1 << 2
    EXTRA_PULSES = 1 << 3
    SUM_WRONG = 1 << 4
    ALL_ZEROS = 1 << 5
    WRONG_TYPE = 1 << 6
    IMPOSSIBLE_VALUE = 1 << 7
    ASK_TOO_SHORT = 1 << 8
    LATE_ANSWER = 1 << 9
    PULSE_OUTSIDE = 1 << 10
    CAPTURE_ENDED = 1 << 11
    CAPTURE_BEGAN = 1 << 12
    TOO_COARSE = 1 << 13
    TOO_SOON = 1 << 14
    OUT_OF_RANGE = 1 << 15
    SCALE_EDGE = 1 << 16
    PULSE_NEAR = 1 << 17
    CLOCK_OFF = 1 << 18
    SLOW_RISE = 1 << 19
    SPIKE_REMOVED = 1 << 20

    @property
    def weight(self) -> Verdict:
        """The verdict that this notice alone calls for."""
        return WEIGHTS[self]


WEIGHTS: dict[NoticeBit, Verdict] = {
    Notice.NO_ANSWER: Verdict.UNSOUND,
    Notice.LINE_HELD_LOW: Verdict.UNSOUND,
    Notice.CUT_SHORT: Verdict.UNSOUND,
    Notice.EXTRA_PULSES: Verdict.UNSOUND,
    Notice.SUM_WRONG: Verdict.UNSOUND,
    Notice.ALL_ZEROS: Verdict.UNSOUND,
    Notice.WRONG_TYPE: Verdict.UNSOUND,
    Notice.IMPOSSIBLE_VALUE: Verdict.UNSOUND,
    Notice.ASK_TOO_SHORT: Verdict.UNSOUND,
    Notice.LATE_ANSWER: Verdict.UNSOUND,
    Notice.PULSE_OUTSIDE: Verdict.UNSOUND,
    Notice.CAPTURE_ENDED: Verdict.UNKNOWN,
    Notice.CAPTURE_BEGAN: Verdict.UNKNOWN,
    Notice.TOO_COARSE: Verdict.UNKNOWN,
    Notice.TOO_SOON: Verdict.NEAR,
    Notice.OUT_OF_RANGE: Verdict.NEAR,
    Notice.SCALE_EDGE: Verdict.NEAR,
    Notice.PULSE_NEAR: Verdict.NEAR,
    Notice.CLOCK_OFF: Verdict.SOUND,
    Notice.SLOW_RISE: Verdict.SOUND,
    Notice.SPIKE_REMOVED: Verdict.SOUND,
}
"""The windows that a slow clock or rise breaks are noticed by themselves."""
