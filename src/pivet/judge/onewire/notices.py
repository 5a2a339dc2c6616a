"""What can be noticed about a 1-Wire transaction, as bits and as codes."""

from functools import cached_property

from pivet.judge.notices import NoticeBit, order, weigh
from pivet.judge.verdict import Verdict


class Notice(NoticeBit):
    """One bit a kind of finding."""

    LINE_HELD_LOW = 1 << 0
    NO_PRESENCE = 1 << 1
    RESET_TOO_SHORT = 1 << 2
    ALL_ONES = 1 << 3
    ALL_ZEROS = 1 << 4
    CRC_WRONG = 1 << 5
    DEVICE_LEFT = 1 << 6
    POWER_ON_VALUE = 1 << 7
    READ_TOO_EARLY = 1 << 8
    PARASITE_DISTURBED = 1 << 9
    IMPOSSIBLE_VALUE = 1 << 10
    SEARCH_STOPPED = 1 << 11
    PULSE_OUTSIDE = 1 << 12
    CAPTURE_BEGAN = 1 << 13
    CAPTURE_ENDED = 1 << 14
    TOO_COARSE = 1 << 15
    SEVERAL_ANSWER = 1 << 16
    UNKNOWN_COMMAND = 1 << 17
    DEVICE_JOINED = 1 << 18
    ORDER_SHIFTED = 1 << 19
    SEARCH_CUT = 1 << 20
    MAYBE_POWER_ON = 1 << 21
    PULSE_NEAR = 1 << 22
    TOO_MANY_SLOTS = 1 << 23
    NOT_CONVERTED = 1 << 24
    ENDED_EARLY = 1 << 25
    NO_ALARM = 1 << 26
    PARASITE_POWERED = 1 << 27
    SPIKE_REMOVED = 1 << 28
    TOO_DOUBTFUL = 1 << 29
    SLOW_RISE = 1 << 30
    BROKEN_OFF = 1 << 31
    SCATTER = 1 << 32
    REFLECTIONS = 1 << 33
    SPLIT_SLOTS = 1 << 34

    @cached_property
    def weight(self) -> Verdict:
        """The verdict that this notice alone calls for."""
        return WEIGHTS[self]


UNSOUND = (
    Notice.LINE_HELD_LOW,
    Notice.NO_PRESENCE,
    Notice.RESET_TOO_SHORT,
    Notice.ALL_ONES,
    Notice.ALL_ZEROS,
    Notice.CRC_WRONG,
    Notice.DEVICE_LEFT,
    Notice.POWER_ON_VALUE,
    Notice.READ_TOO_EARLY,
    Notice.PARASITE_DISTURBED,
    Notice.IMPOSSIBLE_VALUE,
    Notice.SEARCH_STOPPED,
    Notice.PULSE_OUTSIDE,
    Notice.BROKEN_OFF,
    Notice.SPLIT_SLOTS,
)
UNKNOWN = (
    Notice.CAPTURE_BEGAN,
    Notice.CAPTURE_ENDED,
    Notice.TOO_COARSE,
    Notice.TOO_DOUBTFUL,
)
NEAR = (
    Notice.SEVERAL_ANSWER,
    Notice.SLOW_RISE,
    Notice.SCATTER,
    Notice.REFLECTIONS,
    Notice.UNKNOWN_COMMAND,
    Notice.DEVICE_JOINED,
    Notice.ORDER_SHIFTED,
    Notice.SEARCH_CUT,
    Notice.MAYBE_POWER_ON,
    Notice.PULSE_NEAR,
    Notice.TOO_MANY_SLOTS,
)
WEIGHTS = weigh(Notice, UNSOUND, UNKNOWN, NEAR)

MISREAD = (
    Notice.ALL_ZEROS
    | Notice.CRC_WRONG
    | Notice.IMPOSSIBLE_VALUE
    | Notice.TOO_DOUBTFUL
    | Notice.SEARCH_STOPPED
)
STRAY = Notice.PULSE_OUTSIDE | Notice.PULSE_NEAR
DISTURBED = (
    MISREAD
    | STRAY
    | Notice.RESET_TOO_SHORT
    | Notice.BROKEN_OFF
    | Notice.UNKNOWN_COMMAND
    | Notice.NO_PRESENCE
    | Notice.SEARCH_CUT
    | Notice.TOO_MANY_SLOTS
    | Notice.ALL_ONES
    | Notice.DEVICE_LEFT
)
EXPLAINS = {
    Notice.RESET_TOO_SHORT: Notice.NO_PRESENCE,
    Notice.SLOW_RISE: MISREAD | STRAY,
    Notice.SEVERAL_ANSWER: MISREAD,
    Notice.REFLECTIONS: DISTURBED | Notice.SPLIT_SLOTS,
    Notice.SPLIT_SLOTS: DISTURBED,
    Notice.SCATTER: DISTURBED | Notice.SPLIT_SLOTS,
    Notice.BROKEN_OFF: Notice.CRC_WRONG,
    Notice.TOO_COARSE: MISREAD | STRAY,
}
"""What each cause brings with it."""

TOLD = (
    Notice.LINE_HELD_LOW,
    Notice.REFLECTIONS,
    Notice.SCATTER,
    Notice.SPLIT_SLOTS,
    Notice.RESET_TOO_SHORT,
    Notice.SLOW_RISE,
    Notice.SEVERAL_ANSWER,
    Notice.BROKEN_OFF,
    Notice.NO_PRESENCE,
    Notice.DEVICE_LEFT,
    Notice.SEARCH_STOPPED,
    Notice.CRC_WRONG,
    Notice.ALL_ONES,
    Notice.ALL_ZEROS,
    Notice.POWER_ON_VALUE,
    Notice.READ_TOO_EARLY,
    Notice.PARASITE_DISTURBED,
    Notice.IMPOSSIBLE_VALUE,
    Notice.PULSE_OUTSIDE,
    Notice.CAPTURE_BEGAN,
    Notice.CAPTURE_ENDED,
    Notice.TOO_COARSE,
    Notice.TOO_DOUBTFUL,
    Notice.UNKNOWN_COMMAND,
    Notice.DEVICE_JOINED,
    Notice.ORDER_SHIFTED,
    Notice.SEARCH_CUT,
    Notice.MAYBE_POWER_ON,
    Notice.PULSE_NEAR,
    Notice.TOO_MANY_SLOTS,
    Notice.NOT_CONVERTED,
    Notice.ENDED_EARLY,
    Notice.NO_ALARM,
    Notice.PARASITE_POWERED,
    Notice.SPIKE_REMOVED,
)
"""In the order in which findings of the same weight are told: causes before their symptoms."""

order(Notice, EXPLAINS, TOLD)

HEADLINES = {
    Notice.LINE_HELD_LOW.code: "the line is held low",
    Notice.NO_PRESENCE.code: "nobody answered the reset",
    Notice.RESET_TOO_SHORT.code: "the reset is too short",
    Notice.ALL_ONES.code: "nobody answered",
    Notice.ALL_ZEROS.code: "all bytes are zero",
    Notice.CRC_WRONG.code: "the CRC is wrong",
    Notice.DEVICE_LEFT.code: "a device has left",
    Notice.POWER_ON_VALUE.code: "85 °C from power-on",
    Notice.READ_TOO_EARLY.code: "read before it was converted",
    Notice.PARASITE_DISTURBED.code: "no quiet line to convert",
    Notice.IMPOSSIBLE_VALUE.code: "impossible value",
    Notice.SEARCH_STOPPED.code: "the search lost its devices",
    Notice.PULSE_OUTSIDE.code: "a pulse is outside its window",
    Notice.CAPTURE_BEGAN.code: "the capture begins here",
    Notice.CAPTURE_ENDED.code: "the capture ends here",
    Notice.TOO_COARSE.code: "the capture is too coarse",
    Notice.TOO_DOUBTFUL.code: "too doubtful",
    Notice.SCATTER.code: "widths scatter",
    Notice.REFLECTIONS.code: "reflections on the line",
    Notice.SPLIT_SLOTS.code: "pulses that nobody sent",
    Notice.SLOW_RISE.code: "the line rises slowly",
    Notice.BROKEN_OFF.code: "broken off in the middle",
    Notice.SEVERAL_ANSWER.code: "several devices may answer",
    Notice.UNKNOWN_COMMAND.code: "unknown ROM command",
    Notice.DEVICE_JOINED.code: "a device has joined",
    Notice.ORDER_SHIFTED.code: "the search order has shifted",
    Notice.SEARCH_CUT.code: "the search was cut short",
    Notice.MAYBE_POWER_ON.code: "85 °C may be from power-on",
    Notice.TOO_MANY_SLOTS.code: "too many slots",
}
"""A few words for each notice that can head an exchange."""
