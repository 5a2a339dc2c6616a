"""What was noticed about one transaction, in plain sentences with evidence and advice."""

from collections.abc import Callable, Iterator

from pivet.judge.finding import Finding
from pivet.judge.onewire import tell_bus, tell_bytes
from pivet.judge.onewire.case import Case
from pivet.judge.onewire.notices import TOLD, Notice

TELL: dict[Notice, Callable[[Case], Iterator[Finding]]] = {
    Notice.LINE_HELD_LOW: tell_bus.held_low,
    Notice.RESET_TOO_SHORT: tell_bus.reset_short,
    Notice.NO_PRESENCE: tell_bus.no_presence,
    Notice.DEVICE_LEFT: tell_bus.left,
    Notice.SEARCH_STOPPED: tell_bus.search_stopped,
    Notice.CRC_WRONG: tell_bytes.crc_wrong,
    Notice.ALL_ONES: tell_bytes.all_ones,
    Notice.ALL_ZEROS: tell_bytes.all_zeros,
    Notice.POWER_ON_VALUE: tell_bytes.power_on,
    Notice.READ_TOO_EARLY: tell_bytes.read_early,
    Notice.PARASITE_DISTURBED: tell_bytes.parasite_disturbed,
    Notice.IMPOSSIBLE_VALUE: tell_bytes.impossible,
    Notice.PULSE_OUTSIDE: tell_bus.outside,
    Notice.CAPTURE_BEGAN: tell_bus.capture_began,
    Notice.CAPTURE_ENDED: tell_bus.capture_ended,
    Notice.TOO_COARSE: tell_bus.too_coarse,
    Notice.TOO_DOUBTFUL: tell_bytes.too_doubtful,
    Notice.SEVERAL_ANSWER: tell_bus.several,
    Notice.SLOW_RISE: tell_bus.slow_rise,
    Notice.SCATTER: tell_bus.scatter,
    Notice.REFLECTIONS: tell_bus.reflections,
    Notice.SPLIT_SLOTS: tell_bus.split_slots,
    Notice.BROKEN_OFF: tell_bytes.broken_off,
    Notice.UNKNOWN_COMMAND: tell_bus.unknown_command,
    Notice.DEVICE_JOINED: tell_bus.joined,
    Notice.ORDER_SHIFTED: tell_bus.order_shifted,
    Notice.SEARCH_CUT: tell_bus.search_cut,
    Notice.MAYBE_POWER_ON: tell_bytes.maybe_power_on,
    Notice.PULSE_NEAR: tell_bus.near,
    Notice.TOO_MANY_SLOTS: tell_bus.too_many,
    Notice.NOT_CONVERTED: tell_bytes.not_converted,
    Notice.ENDED_EARLY: tell_bytes.ended_early,
    Notice.NO_ALARM: tell_bus.no_alarm,
    Notice.PARASITE_POWERED: tell_bytes.parasite_powered,
    Notice.SPIKE_REMOVED: tell_bus.spikes,
}
TELLERS = {notice: TELL[notice] for notice in TOLD}
"""What tells each notice, in the order in which they are told."""
