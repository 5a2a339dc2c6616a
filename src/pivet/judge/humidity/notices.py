"""What can be noticed about a humidity exchange, as bits and as codes."""

from pivet.judge.notices import NoticeBit, weigh
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
    TOO_DOUBTFUL = 1 << 21

    @property
    def weight(self) -> Verdict:
        """The verdict that this notice alone calls for."""
        return WEIGHTS[self]


UNSOUND = (
    Notice.NO_ANSWER,
    Notice.LINE_HELD_LOW,
    Notice.CUT_SHORT,
    Notice.EXTRA_PULSES,
    Notice.SUM_WRONG,
    Notice.ALL_ZEROS,
    Notice.WRONG_TYPE,
    Notice.IMPOSSIBLE_VALUE,
    Notice.ASK_TOO_SHORT,
    Notice.LATE_ANSWER,
    Notice.PULSE_OUTSIDE,
)
UNKNOWN = (
    Notice.CAPTURE_ENDED,
    Notice.CAPTURE_BEGAN,
    Notice.TOO_COARSE,
    Notice.TOO_DOUBTFUL,
)
NEAR = (
    Notice.TOO_SOON,
    Notice.OUT_OF_RANGE,
    Notice.SCALE_EDGE,
    Notice.PULSE_NEAR,
)
WEIGHTS = weigh(Notice, UNSOUND, UNKNOWN, NEAR)
"""The windows that a slow clock or rise breaks are noticed by themselves."""

HEADLINES = {
    Notice.NO_ANSWER.code: "no answer",
    Notice.LINE_HELD_LOW.code: "the line is held low",
    Notice.CUT_SHORT.code: "the answer is cut short",
    Notice.EXTRA_PULSES.code: "too many pulses",
    Notice.SUM_WRONG.code: "the sum is wrong",
    Notice.ALL_ZEROS.code: "all bytes are zero",
    Notice.WRONG_TYPE.code: "wrong sensor type chosen",
    Notice.IMPOSSIBLE_VALUE.code: "impossible value",
    Notice.ASK_TOO_SHORT.code: "the start pulse is too short",
    Notice.LATE_ANSWER.code: "the answer is late",
    Notice.PULSE_OUTSIDE.code: "a pulse is outside its window",
    Notice.CAPTURE_ENDED.code: "the capture ends here",
    Notice.CAPTURE_BEGAN.code: "the capture begins here",
    Notice.TOO_COARSE.code: "the capture is too coarse",
    Notice.TOO_DOUBTFUL.code: "too doubtful",
    Notice.TOO_SOON.code: "asked too soon",
    Notice.OUT_OF_RANGE.code: "out of the sheet's range",
    Notice.SCALE_EDGE.code: "at the edge of the scale",
    Notice.CLOCK_OFF.code: "the sensor's clock is off",
    Notice.SLOW_RISE.code: "the line rises slowly",
}
"""A few words for each notice that can head an exchange."""
