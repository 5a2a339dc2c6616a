"""What can be noticed about an echo measurement, as bits and as codes."""

from functools import cached_property

from pivet.judge.notices import NoticeBit, order, weigh
from pivet.judge.verdict import Verdict


class Notice(NoticeBit):
    """One bit a kind of finding."""

    RETRIGGERED = 1 << 0
    NO_ECHO = 1 << 1
    NOTHING_IN_RANGE = 1 << 2
    TOO_NEAR = 1 << 3
    TOO_FAR = 1 << 4
    TRIGGER_SHORT = 1 << 5
    PULSE_OUTSIDE = 1 << 6
    CAPTURE_ENDED = 1 << 7
    TOO_COARSE = 1 << 8
    TOO_SOON = 1 << 9
    JUMPED = 1 << 10
    LATE_RISE = 1 << 11
    PULSE_NEAR = 1 << 12
    TRIGGER_UNSEEN = 1 << 13
    FIXED_SPEED = 1 << 14
    AIR_ASSUMED = 1 << 15
    SPIKE_REMOVED = 1 << 16
    ECHO_BROKEN = 1 << 17
    ECHO_RAGGED = 1 << 18
    SEVERAL_ECHOES = 1 << 19
    STRAY_PULSES = 1 << 20
    NOBODY_ASKED = 1 << 21
    SWAPPED = 1 << 22
    STUCK_HIGH = 1 << 23

    @cached_property
    def weight(self) -> Verdict:
        """The verdict that this notice alone calls for."""
        return WEIGHTS[self]


UNSOUND = (
    Notice.RETRIGGERED,
    Notice.NO_ECHO,
    Notice.NOTHING_IN_RANGE,
    Notice.TOO_NEAR,
    Notice.TOO_FAR,
    Notice.TRIGGER_SHORT,
    Notice.SEVERAL_ECHOES,
    Notice.PULSE_OUTSIDE,
    Notice.SWAPPED,
    Notice.STUCK_HIGH,
)
UNKNOWN = (Notice.CAPTURE_ENDED, Notice.TOO_COARSE, Notice.ECHO_RAGGED, Notice.NOBODY_ASKED)
NEAR = (
    Notice.TOO_SOON,
    Notice.JUMPED,
    Notice.LATE_RISE,
    Notice.ECHO_BROKEN,
    Notice.STRAY_PULSES,
    Notice.PULSE_NEAR,
)
WEIGHTS = weigh(Notice, UNSOUND, UNKNOWN, NEAR)

EXPLAINS = {
    Notice.SWAPPED: (
        Notice.TOO_NEAR
        | Notice.TRIGGER_SHORT
        | Notice.LATE_RISE
        | Notice.RETRIGGERED
        | Notice.NO_ECHO
        | Notice.NOBODY_ASKED
    ),
    Notice.STUCK_HIGH: Notice.RETRIGGERED | Notice.NOTHING_IN_RANGE | Notice.CAPTURE_ENDED,
    Notice.TRIGGER_SHORT: Notice.NO_ECHO,
    Notice.ECHO_BROKEN: Notice.ECHO_RAGGED,
}
"""What each cause brings with it."""

TOLD = (
    Notice.SWAPPED,
    Notice.STUCK_HIGH,
    Notice.RETRIGGERED,
    Notice.TRIGGER_SHORT,
    Notice.NO_ECHO,
    Notice.SEVERAL_ECHOES,
    Notice.NOTHING_IN_RANGE,
    Notice.TOO_NEAR,
    Notice.TOO_FAR,
    Notice.PULSE_OUTSIDE,
    Notice.CAPTURE_ENDED,
    Notice.ECHO_RAGGED,
    Notice.NOBODY_ASKED,
    Notice.TOO_COARSE,
    Notice.TOO_SOON,
    Notice.JUMPED,
    Notice.LATE_RISE,
    Notice.ECHO_BROKEN,
    Notice.STRAY_PULSES,
    Notice.PULSE_NEAR,
    Notice.TRIGGER_UNSEEN,
    Notice.FIXED_SPEED,
    Notice.AIR_ASSUMED,
    Notice.SPIKE_REMOVED,
)
"""In the order in which findings of the same weight are told: causes before their symptoms."""

order(Notice, EXPLAINS, TOLD)

HEADLINES = {
    Notice.RETRIGGERED.code: "triggered while the echo was up",
    Notice.NO_ECHO.code: "no echo",
    Notice.NOTHING_IN_RANGE.code: "nothing in range",
    Notice.TOO_NEAR.code: "nearer than the sensor can tell",
    Notice.TOO_FAR.code: "beyond the range",
    Notice.TRIGGER_SHORT.code: "the trigger is too short",
    Notice.PULSE_OUTSIDE.code: "a pulse is outside its window",
    Notice.CAPTURE_ENDED.code: "the capture ends here",
    Notice.TOO_COARSE.code: "the capture is too coarse",
    Notice.TOO_SOON.code: "triggered too soon",
    Notice.JUMPED.code: "a jump that is no movement",
    Notice.LATE_RISE.code: "the echo rises late",
    Notice.ECHO_BROKEN.code: "gaps in the echo",
    Notice.ECHO_RAGGED.code: "an end of the echo is not clear",
    Notice.SEVERAL_ECHOES.code: "several echoes on one trigger",
    Notice.SWAPPED.code: "trigger and echo are swapped",
    Notice.STUCK_HIGH.code: "the echo line is stuck high",
    Notice.NOBODY_ASKED.code: "no trigger asked for it",
    Notice.STRAY_PULSES.code: "stray pulses on the echo line",
}
"""A few words for each notice that can head an exchange."""
