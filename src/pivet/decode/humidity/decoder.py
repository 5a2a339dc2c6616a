"""The decoder of humidity exchanges: spikes out, segments, frames, bits."""

from collections.abc import Iterator

import numpy as np

from pivet.decode.humidity import columns, layout
from pivet.decode.humidity.bits import pack_bits, split_widths
from pivet.decode.humidity.columns import HumidityExchanges
from pivet.decode.humidity.segment import Segmenter, Segments
from pivet.decode.interface import ABSENT, WIDEST_NS
from pivet.signal.spikes import Cleaned, SpikeFilter
from pivet.signal.trace import Int64Array, Level

BLOCK = 2048
"""Frames worked on at once: their widths stay in the processor's cache."""


class HumidityDecoder:
    """Finds every ask and its answer; see ``pivet.decode.interface.Decoder``.

    Args:
        initial: level of the line at ``start_ns``.
        start_ns: from when on the line is known, ns.
    """

    def __init__(self, initial: Level, start_ns: int) -> None:
        self._spikes = SpikeFilter(layout.SPIKE_NS)
        self._segmenter = Segmenter(initial, start_ns)
        self._known_until_ns = start_ns

    def feed(self, lines: tuple[Int64Array, ...], known_until_ns: int) -> HumidityExchanges:
        """Takes the edges of the one line since the last call; gives what is now certain.

        Args:
            lines: int64 (n,), ns.
            known_until_ns: the lines are known up to here, ns.
        """
        self._known_until_ns = known_until_ns
        clean = self._spikes.feed(lines[0], known_until_ns)
        return self._exchanges(clean, self._spikes.settled_until(known_until_ns), ended=False)

    def finish(self) -> HumidityExchanges:
        """Gives what was still open: nothing follows."""
        return self._exchanges(self._spikes.finish(), self._known_until_ns, ended=True)

    def _exchanges(self, clean: Cleaned, known_until_ns: int, ended: bool) -> HumidityExchanges:
        segments = self._segmenter.feed(clean.edges_ns, known_until_ns, ended)
        batches = list(_frames(segments))
        batches.append(_around(segments, clean))
        return columns.join(batches)


def _around(segments: Segments, clean: Cleaned) -> HumidityExchanges:
    """No exchange, only what was found beside them."""
    first, last = segments.first[segments.stray], segments.last[segments.stray]
    nothing = columns.empty()
    kept = {name: getattr(nothing, name) for name in columns.EXCHANGE_COLUMNS}
    return HumidityExchanges(
        **kept,
        spike_start_ns=clean.spike_start_ns,
        spike_width_ns=clean.spike_width_ns,
        stray_start_ns=segments.edges_ns[first],
        stray_end_ns=segments.edges_ns[last],
        stray_edges=last - first + 1,
    )


def _frames(segments: Segments) -> Iterator[HumidityExchanges]:
    rows = np.flatnonzero(~segments.stray)
    for start in range(0, rows.size, BLOCK):
        yield _frame_block(segments, rows[start : start + BLOCK])


def _frame_block(segments: Segments, rows: Int64Array) -> HumidityExchanges:
    edges = segments.edges_ns
    first, last = segments.first[rows], segments.last[rows]
    unseen = segments.answer_first[rows]
    base = np.where(unseen, first - 1, first + 1)
    count = np.clip(last - base, 0, 2 * layout.MOST_LOWS).astype(np.int32)
    index = base + np.arange(layout.PULSES + 1)[:, None]
    if int(base.min()) < 0 or int(base.max()) + layout.PULSES >= edges.size:
        index = np.clip(index, 0, edges.size - 1)
    times = edges[index]
    widths = np.empty((layout.PULSES, rows.size), dtype=np.int32)
    np.minimum(times[1:] - times[:-1], WIDEST_NS, out=widths, casting="unsafe")
    if (count < layout.PULSES).any():
        widths[np.arange(layout.PULSES)[:, None] >= count] = ABSENT
    widths[layout.RELEASE, unseen] = ABSENT
    bit_count = np.clip((count - layout.FIRST_LOW) // 2, 0, layout.BITS).astype(np.int8)
    lows = widths[layout.FIRST_LOW : layout.END_LOW : 2]
    highs = widths[layout.FIRST_HIGH : layout.END_LOW : 2]
    split = split_widths(lows, highs, bit_count)
    bodies = _bodies(segments, first, last, unseen)
    nothing = columns.empty()
    return HumidityExchanges(
        start_ns=edges[first],
        body_ns=bodies,
        end_ns=np.maximum(edges[last], bodies),
        widths_ns=widths,
        pulse_count=count,
        bit_count=bit_count,
        split_ns=split,
        packed=pack_bits(highs, split, bit_count),
        marks=segments.marks[rows],
        **{name: getattr(nothing, name) for name in columns.LINE_COLUMNS},
    )


def _bodies(
    segments: Segments, first: Int64Array, last: Int64Array, unseen: np.ndarray
) -> Int64Array:
    """Rise of each ask; an ask that is not over lasts as long as the line is known."""
    rise = segments.edges_ns[np.minimum(first + 1, last)]
    rise = np.where(last > first, rise, segments.known_until_ns)
    return np.where(unseen, segments.edges_ns[first], rise)
