"""Cutting lows into transactions: resets, presence, and which speed holds where.

Overdrive speed begins after the ROM command that turns to it, so the first eight slots
after each standard reset are read to see what follows.  It ends with the next standard
reset.
"""

import numpy as np

from pivet.decode.onewire import layout
from pivet.decode.pairs import Pulses
from pivet.frozen import FrozenObject
from pivet.sheets.onewire import Rom
from pivet.signal.trace import BoolArray, Int64Array


class Cuts(FrozenObject):
    """Where transactions begin among lows.

    Attributes:
        reset: index of each reset, int64 (n,).
        fast: the reset is one at overdrive speed, bool (n,).
        present: the low after the reset is presence, bool (n,).
        turns_fast: from the ninth slot on at overdrive speed, bool (n,).
    """

    reset: Int64Array
    fast: BoolArray
    present: BoolArray
    turns_fast: BoolArray

    def rows(self, count: int) -> "Cuts":
        """The first ``count`` transactions.

        Args:
            count: how many.
        """
        return Cuts(
            self.reset[:count], self.fast[:count], self.present[:count], self.turns_fast[:count]
        )


def find_cuts(lows: Pulses, starts_fast: bool) -> Cuts:
    """Finds the transactions among lows that begin with a reset.

    Args:
        lows: from a reset on.
        starts_fast: that reset is one at overdrive speed.
    """
    widths = lows.width_ns
    slow = _without_presence(lows, np.flatnonzero(widths >= layout.RESET_FLOOR_NS))
    if starts_fast and slow.size and slow[0] == 0:
        slow = slow[1:]
    slow_present = _present(lows, slow, fast=False)
    turns = _turns_fast(lows, slow, slow_present)
    quick = _fast_resets(lows, slow, slow_present, turns, starts_fast)
    reset = np.concatenate((slow, quick))
    order = np.argsort(reset, kind="stable")
    fast = np.concatenate((np.zeros(slow.size, bool), np.ones(quick.size, bool)))
    present = np.concatenate((slow_present, _present(lows, quick, fast=True)))
    turned = np.concatenate((turns, np.zeros(quick.size, bool)))
    return Cuts(reset[order], fast[order], present[order], turned[order])


def _without_presence(lows: Pulses, long: Int64Array) -> Int64Array:
    """Resets among long lows: one right after another is a presence pulse as long as a reset."""
    if long.size < 2:
        return long
    wait = lows.start_ns[long[1:]] - lows.start_ns[long[:-1]] - lows.width_ns[long[:-1]]
    behind = np.zeros(long.size, dtype=bool)
    behind[1:] = (np.diff(long) == 1) & (wait <= layout.PRESENCE_SOON_NS)
    behind &= lows.width_ns[long] < layout.PRESENCE_MOST_NS
    behind[1:] &= ~behind[:-1]
    return long[~behind]


def _present(lows: Pulses, reset: Int64Array, fast: bool) -> BoolArray:
    """Whether the low after each reset is presence."""
    latest = layout.FAST_PRESENCE_LATEST_NS if fast else layout.PRESENCE_LATEST_NS
    least = layout.FAST_PRESENCE_LEAST_NS if fast else layout.PRESENCE_LEAST_NS
    floor = layout.FAST_RESET_FLOOR_NS if fast else layout.PRESENCE_MOST_NS
    there = reset + 1 < lows.size
    behind = np.where(there, reset + 1, reset)
    wait = lows.start_ns[behind] - lows.start_ns[reset] - lows.width_ns[reset]
    width = lows.width_ns[behind]
    alone = behind != np.append(reset[1:], -1)
    found: BoolArray = there & alone & (wait <= latest) & (width >= least) & (width < floor)
    return found


def _turns_fast(lows: Pulses, slow: Int64Array, present: BoolArray) -> BoolArray:
    """Whether the ROM command after each standard reset turns to overdrive speed."""
    first = slow + 1 + present
    ends = np.append(slow[1:], lows.size)
    whole = first + layout.BITS_IN_BYTE <= ends
    if not whole.any():
        return whole
    command = _byte(_slots(lows, first), layout.WRITE_SPLIT_NS)
    turns: BoolArray = whole & ((command == Rom.FAST_SKIP) | (command == Rom.FAST_MATCH))
    return turns


def _fast_resets(
    lows: Pulses, slow: Int64Array, present: BoolArray, turns: BoolArray, starts_fast: bool
) -> Int64Array:
    """Resets at overdrive speed, where that speed holds."""
    spans = []
    if starts_fast:
        spans.append((0, int(slow[0]) if slow.size else lows.size))
    if turns.any():
        ends = np.append(slow[1:], lows.size)[turns]
        firsts = (slow + 1 + present + layout.BITS_IN_BYTE)[turns]
        spans.extend(zip(firsts.tolist(), ends.tolist(), strict=True))
    if not spans:
        return np.empty(0, dtype=np.int64)
    long = np.flatnonzero(
        (lows.width_ns >= layout.FAST_RESET_FLOOR_NS) & (lows.width_ns < layout.RESET_FLOOR_NS)
    )
    bounds = np.array(spans, dtype=np.int64)
    place = np.searchsorted(bounds[:, 0], long, side="right") - 1
    inside = (place >= 0) & (long < bounds[np.maximum(place, 0), 1])
    found: Int64Array = long[inside]
    return found


def begins_fast(lows: Pulses) -> bool:
    """Whether lows before any standard reset look like overdrive speed.

    There every low is short but for resets, and behind half of them or more stand presence and a
    ROM command.  A 0 at standard speed may have a 1 behind it that is as long as presence, but
    hardly a command then.

    Args:
        lows: the lows of one line, in order of time.
    """
    head = lows.part(0, layout.HEAD_LOWS)
    long = np.flatnonzero(head.width_ns >= layout.FAST_RESET_FLOOR_NS)
    if long.size and long[-1] == head.size - 1:
        long = long[:-1]
    if not long.size:
        return False
    answered = _present(head, long, fast=True)
    command = _commands(head, long)
    asked = answered & np.isin(command, [*Rom])
    told = ~answered | (command >= 0)
    return bool(asked.any()) and 2 * int(asked.sum()) >= int(told.sum())


def _commands(lows: Pulses, resets: Int64Array) -> Int64Array:
    """The byte at overdrive speed behind each reset and its presence; -1 where it is cut."""
    widths = _slots(lows, resets + 2)
    whole = (resets + 2 + layout.BITS_IN_BYTE <= lows.size) & (
        widths < layout.FAST_RESET_FLOOR_NS
    ).all(axis=1)
    found: Int64Array = np.where(whole, _byte(widths, layout.FAST_WRITE_SPLIT_NS), -1)
    return found


def _slots(lows: Pulses, first: Int64Array) -> Int64Array:
    """Widths of the eight lows from each on, (n, 8); beyond the end those of the last low."""
    index = first[:, None] + np.arange(layout.BITS_IN_BYTE)
    widths: Int64Array = lows.width_ns[np.minimum(index, lows.size - 1)]
    return widths


def _byte(widths: Int64Array, split_ns: int) -> Int64Array:
    """The byte that eight slots are, by their widths (n, 8): a low shorter than this is a 1."""
    bytes_ = np.packbits(widths < split_ns, axis=1, bitorder="little")[:, 0]
    return bytes_.astype(np.int64)
