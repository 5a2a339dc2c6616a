"""The decoder of 1-Wire transactions: spikes out, lows, resets, slots, commands."""

from typing import Any

import numpy as np

from pivet.decode.interface import ABSENT, WIDEST_NS
from pivet.decode.onewire import columns, layout
from pivet.decode.onewire.columns import DecodeMark, OneWireExchanges, positions
from pivet.decode.onewire.grammar import Slots, make_sense
from pivet.decode.onewire.resets import Cuts, begins_fast, find_cuts
from pivet.decode.pairs import EMPTY, Pairs, Pulses
from pivet.frozen import replace
from pivet.signal.spikes import Cleaned, SpikeFilter
from pivet.signal.trace import Int64Array, Level


class OneWireDecoder:
    """Finds every transaction, from reset to next reset; see ``decode.interface.Decoder``.

    Args:
        initial: level of the line at ``start_ns``.
        start_ns: from when on the line is known, ns.
    """

    def __init__(self, initial: Level, start_ns: int) -> None:
        self._spikes = SpikeFilter(layout.SPIKE_NS)
        self._pairs = Pairs(Level.LOW, initial, start_ns)
        self._known_until_ns = start_ns
        self._held = EMPTY
        self._begun = False
        self._fast = False
        self._strays = _Strays()

    def feed(self, lines: tuple[Int64Array, ...], known_until_ns: int) -> OneWireExchanges:
        """Takes the edges of the one line since the last call; gives what is now certain.

        Args:
            lines: int64 (n,), ns.
            known_until_ns: the lines are known up to here, ns.
        """
        self._known_until_ns = known_until_ns
        clean = self._spikes.feed(lines[0], known_until_ns)
        return self._take(clean, ended=False)

    def finish(self) -> OneWireExchanges:
        """Gives what was still open: nothing follows."""
        return self._take(self._spikes.finish(), ended=True)

    def _take(self, clean: Cleaned, ended: bool) -> OneWireExchanges:
        lows = self._held.then(self._pairs.feed(clean.edges_ns))
        if ended and self._pairs.open_ns is not None:
            lows = lows.then(_unended(self._pairs.open_ns, self._known_until_ns))
        if not self._begun:
            lows = self._begin(lows, ended)
        found = columns.made()
        if self._begun and lows.size:
            found, lows = self._transactions(lows, ended)
        self._held = lows
        return replace(
            found,
            spike_start_ns=clean.spike_start_ns,
            spike_width_ns=clean.spike_width_ns,
            **self._strays.told(),
        )

    def _begin(self, lows: Pulses, ended: bool) -> Pulses:
        """Passes over what stands before the first reset; finds the speed there."""
        resets = np.flatnonzero(lows.width_ns >= layout.RESET_FLOOR_NS)
        first = int(resets[0]) if resets.size else lows.size
        if not resets.size and first < layout.HEAD_LOWS and not ended:
            return lows
        ahead = lows.part(0, first)
        if not self._strays.open and begins_fast(ahead):
            start = int(np.argmax(ahead.width_ns >= layout.FAST_RESET_FLOOR_NS))
            self._strays.add(ahead.part(0, start))
            self._strays.close()
            self._begun = self._fast = True
            return lows.part(start)
        self._strays.add(ahead)
        self._begun = bool(resets.size)
        if self._begun or ended:
            self._strays.close()
        return lows.part(first)

    def _transactions(self, lows: Pulses, ended: bool) -> tuple[OneWireExchanges, Pulses]:
        """The transactions that are certain, and the lows that are not."""
        cuts = find_cuts(lows, self._fast)
        ends = np.append(cuts.reset[1:], lows.size)
        first = cuts.reset + 1 + cuts.present
        settled = cuts.reset.size if ended else cuts.reset.size - 1
        if not settled:
            return columns.made(), self._shortened(lows, int(first[0]))
        kept = cuts.rows(settled)
        quiet_ns = self._known_until_ns - int(lows.end_ns[-1])
        found = _columns(lows, kept, ends[:settled], ended and quiet_ns < layout.QUIET_NS)
        self._pass_over(lows, first[:settled], ends[:settled], found)
        if ended:
            return found, EMPTY
        self._fast = bool(cuts.fast[settled])
        begin = int(cuts.reset[settled])
        return found, self._shortened(lows.part(begin), int(first[settled]) - begin)

    def _pass_over(
        self, lows: Pulses, first: Int64Array, ends: Int64Array, found: OneWireExchanges
    ) -> None:
        """Counts the slots that are more than a transaction can have."""
        for number in np.flatnonzero(ends - first > layout.MOST_SLOTS).tolist():
            self._strays.add(lows.part(int(first[number]) + layout.MOST_SLOTS, int(ends[number])))
            found.marks[number] |= np.uint8(DecodeMark.CUT)
            if number:
                self._strays.close()
        if self._strays.open:
            found.marks[0] |= np.uint8(DecodeMark.CUT)
            self._strays.close()

    def _shortened(self, lows: Pulses, first: int) -> Pulses:
        """What is held back of a transaction that is not over."""
        self._strays.add(lows.part(first + layout.MOST_SLOTS))
        return lows.part(0, first + layout.MOST_SLOTS)


class _Strays:
    """Pulses that belong to no transaction, in stretches."""

    def __init__(self) -> None:
        self._open: list[int] = []
        self._over: list[list[int]] = []

    @property
    def open(self) -> bool:
        """Whether a stretch is not over."""
        return bool(self._open)

    def add(self, lows: Pulses) -> None:
        """Passes over further lows of a stretch."""
        if not lows.size:
            return
        edges = 2 * lows.size - int(lows.clipped)
        end_ns = int(lows.end_ns[-1])
        if self._open:
            self._open[1] = end_ns
            self._open[2] += edges
        else:
            self._open = [int(lows.start_ns[0]), end_ns, edges]

    def close(self) -> None:
        """The stretch is over."""
        if self._open:
            self._over.append(self._open)
            self._open = []

    def told(self) -> dict[str, Any]:
        """The stretches that are over, as columns."""
        rows = np.array(self._over, dtype=np.int64).reshape(-1, 3)
        self._over = []
        return dict(zip(("stray_start_ns", "stray_end_ns", "stray_edges"), rows.T, strict=True))


def _unended(fall_ns: int, known_until_ns: int) -> Pulses:
    """A low that lasts to the capture's end; only one as long as a reset says something."""
    width = known_until_ns - fall_ns
    if width < layout.RESET_FLOOR_NS:
        return EMPTY
    return Pulses(np.array([fall_ns], dtype=np.int64), np.array([width], dtype=np.int64))


def _columns(lows: Pulses, cuts: Cuts, ends: Int64Array, restless: bool) -> OneWireExchanges:
    reset, present = cuts.reset, cuts.present
    first = reset + 1 + present
    count = np.minimum(ends - first, layout.MOST_SLOTS)
    place = positions(count)
    inside = place + np.repeat(first, count)
    low = lows.width_ns[inside]
    own_first = np.cumsum(count) - count
    fast = np.repeat(cuts.fast, count)
    if cuts.turns_fast.any():
        fast |= np.repeat(cuts.turns_fast, count) & (place >= layout.BITS_IN_BYTE)
    sense = make_sense(Slots(low, fast, own_first, count, place))
    behind = np.minimum(reset + 1, lows.size - 1)
    rise = lows.end_ns
    last = first + count - 1
    marks = np.zeros(reset.size, dtype=np.uint8)
    if lows.clipped and reset[0] == 0:
        marks[0] |= np.uint8(DecodeMark.RESET_CLIPPED)
    if restless:
        marks[-1] |= np.uint8(DecodeMark.CAPTURE_ENDED)
    return columns.made(
        start_ns=lows.start_ns[reset],
        end_ns=rise[last],
        reset_ns=lows.width_ns[reset],
        wait_ns=np.where(present, lows.start_ns[behind] - rise[reset], ABSENT).astype(np.int32),
        presence_ns=np.where(present, lows.width_ns[behind], ABSENT).astype(np.int32),
        fast=cuts.fast,
        turns_fast=cuts.turns_fast,
        slot_count=count,
        command=sense.command,
        function=sense.function,
        function_at=sense.function_at,
        rom=sense.rom,
        has_rom=sense.has_rom,
        steps=sense.steps,
        forks=sense.forks,
        nobody_at=sense.nobody_at,
        marks=marks,
        fall_ns=lows.start_ns[inside],
        low_ns=np.minimum(low, WIDEST_NS).astype(np.int32),
        bit=sense.bit,
        speaker=sense.speaker,
    )
