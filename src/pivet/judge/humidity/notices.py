"""What can be noticed about a humidity exchange, as bits and as codes."""

from functools import cached_property

from pivet.judge.notices import NoticeBit, order, weigh
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
    REFLECTIONS = 1 << 22
    TWO_ANSWER = 1 << 23
    INTERRUPTED = 1 << 24
    COPY_HABITS = 1 << 25
    OTHER_SIGN = 1 << 26
    SCATTER = 1 << 27

    @cached_property
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
    Notice.TWO_ANSWER,
    Notice.INTERRUPTED,
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
    Notice.COPY_HABITS,
    Notice.SCATTER,
)
WEIGHTS = weigh(Notice, UNSOUND, UNKNOWN, NEAR)
"""The windows that a slow clock or rise breaks are noticed by themselves."""

STRAY = Notice.PULSE_OUTSIDE | Notice.PULSE_NEAR
BROKEN = (
    STRAY
    | Notice.CUT_SHORT
    | Notice.EXTRA_PULSES
    | Notice.SUM_WRONG
    | Notice.ALL_ZEROS
    | Notice.IMPOSSIBLE_VALUE
    | Notice.TOO_DOUBTFUL
)
EXPLAINS = {
    Notice.WRONG_TYPE: STRAY | Notice.IMPOSSIBLE_VALUE | Notice.ASK_TOO_SHORT,
    Notice.TWO_ANSWER: BROKEN,
    Notice.REFLECTIONS: BROKEN,
    Notice.SLOW_RISE: BROKEN | Notice.NO_ANSWER | Notice.ASK_TOO_SHORT | Notice.INTERRUPTED,
    Notice.CLOCK_OFF: STRAY,
    Notice.SCATTER: BROKEN,
    Notice.ASK_TOO_SHORT: Notice.NO_ANSWER,
    Notice.TOO_SOON: Notice.NO_ANSWER | Notice.LATE_ANSWER,
    Notice.INTERRUPTED: Notice.CUT_SHORT | Notice.PULSE_OUTSIDE | Notice.TOO_SOON,
    Notice.TOO_COARSE: BROKEN,
    Notice.COPY_HABITS: Notice.PULSE_NEAR,
    Notice.SPIKE_REMOVED: STRAY | Notice.CUT_SHORT | Notice.EXTRA_PULSES | Notice.SUM_WRONG,
}
"""What each cause brings with it."""

TOLD = (
    Notice.WRONG_TYPE,
    Notice.TWO_ANSWER,
    Notice.REFLECTIONS,
    Notice.SLOW_RISE,
    Notice.INTERRUPTED,
    Notice.CLOCK_OFF,
    Notice.SCATTER,
    Notice.SPIKE_REMOVED,
    Notice.LINE_HELD_LOW,
    Notice.ASK_TOO_SHORT,
    Notice.TOO_SOON,
    Notice.TOO_COARSE,
    Notice.NO_ANSWER,
    Notice.LATE_ANSWER,
    Notice.CUT_SHORT,
    Notice.EXTRA_PULSES,
    Notice.SUM_WRONG,
    Notice.ALL_ZEROS,
    Notice.IMPOSSIBLE_VALUE,
    Notice.PULSE_OUTSIDE,
    Notice.CAPTURE_ENDED,
    Notice.CAPTURE_BEGAN,
    Notice.TOO_DOUBTFUL,
    Notice.OUT_OF_RANGE,
    Notice.SCALE_EDGE,
    Notice.COPY_HABITS,
    Notice.PULSE_NEAR,
    Notice.OTHER_SIGN,
)
"""In the order in which findings of the same weight are told: causes before their symptoms."""

order(Notice, EXPLAINS, TOLD)

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
    Notice.REFLECTIONS.code: "reflections on the line",
    Notice.TWO_ANSWER.code: "two sensors answer at once",
    Notice.INTERRUPTED.code: "another ask cuts into the answer",
    Notice.SCATTER.code: "widths scatter",
    Notice.COPY_HABITS.code: "a copy's timing",
}
"""A few words for each notice that can head an exchange."""
