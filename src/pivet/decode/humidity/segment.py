"""Cutting a line's edges into segments: an ask and all that follows up to the next."""

from enum import IntEnum

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import layout
from pivet.decode.humidity.columns import DecodeMark
from pivet.frozen import FrozenObject
from pivet.signal.trace import BoolArray, Int64Array, Level

NONE = np.empty(0, dtype=np.int64)


class Opening(IntEnum):
    """What is known of the way in which the first segment held in the buffer begins."""

    ASK = 0
    """With an ask, or an answer out of an idle line."""
    CAPTURE_START = 1
    """With the first edge of the capture."""
    PASSED_OVER = 2
    """In the middle of a run that is too long to be a frame."""


class Segments(FrozenObject):
    """Segments found among clean edges, and the edges themselves.

    Attributes:
        edges_ns: clean edges; even indices fall, odd ones rise; int64 (e,), ns.
        first: index of each segment's first fall, int64 (s,).
        last: index of each segment's last edge, int64 (s,).
        answer_first: the segment begins with an answer, its ask is unseen; bool (s,).
        stray: the segment is no exchange; bool (s,).
        marks: ``DecodeMark`` bits, uint8 (s,).
        known_until_ns: for an ask that is not over, ns.
    """

    edges_ns: Int64Array
    first: Int64Array
    last: Int64Array
    answer_first: BoolArray
    stray: BoolArray
    marks: npt.NDArray[np.uint8]
    known_until_ns: int


class Segmenter:
    """Finds the segments in a stream of clean edges.

    A segment begins where the line falls out of idle, and at every low too long to be
    the sensor's.  A late answer is put back behind its ask.

    Args:
        initial: level at ``start_ns``.
        start_ns: from when on the line is known, ns.
    """

    def __init__(self, initial: Level, start_ns: int) -> None:
        self._start_ns = start_ns
        self._clipped = initial is Level.LOW
        self._edges = np.array([start_ns] if self._clipped else [], dtype=np.int64)
        self._opening = Opening.CAPTURE_START

    def feed(self, edges_ns: Int64Array, known_until_ns: int, ended: bool = False) -> Segments:
        """Takes further clean edges; gives the segments that no later edge can change.

        Args:
            edges_ns: int64 (n,), ns.
            known_until_ns: the line is known up to here, ns.
            ended: nothing follows: give all there is.
        """
        edges = np.concatenate((self._edges, edges_ns)) if self._edges.size else edges_ns
        if not edges.size:
            return self._pack(edges, NONE, NONE, NONE, known_until_ns, ended)
        lows = _Lows(edges, known_until_ns)
        starts = self._starts(lows)
        starts = starts[~_late_answers(lows, starts)]
        ends = np.append(starts[1:], lows.count)
        settled = starts.size if ended else self._settled(lows, starts, ends)
        result = self._pack(edges, lows.answer_like(starts), starts, ends, known_until_ns, ended)
        passed = int(self._opening is Opening.PASSED_OVER and settled > 0)
        self._keep(lows, starts, settled)
        return _rows(result, passed, settled)

    def _starts(self, lows: "_Lows") -> Int64Array:
        before = lows.high_before_ns(self._high_before(lows.edges))
        found = (lows.widths_ns >= layout.ASK_FLOOR_NS) | (before >= layout.IDLE_NS)
        if found[0]:
            self._opening = Opening.ASK
        found[0] = True
        return np.flatnonzero(found)

    def _high_before(self, edges: Int64Array) -> int:
        if self._opening is Opening.ASK:
            return layout.IDLE_NS
        if self._opening is Opening.CAPTURE_START and not self._clipped:
            return int(edges[0]) - self._start_ns
        return 0

    def _settled(self, lows: "_Lows", starts: Int64Array, ends: Int64Array) -> int:
        """How many of the segments are certain; at least the last one may not be."""
        count = starts.size
        quiet_ns = lows.quiet_ns
        alone = bool(ends[-1] - starts[-1] == 1)
        over = quiet_ns > layout.LATE_NS if alone else quiet_ns >= layout.IDLE_NS
        if over or ends[-1] - starts[-1] > layout.MOST_LOWS:
            return count
        waits = count >= 2 and starts[-1] - starts[-2] == 1 and lows.may_be_late(int(starts[-1]))
        return count - 2 if waits else count - 1

    def _keep(self, lows: "_Lows", starts: Int64Array, settled: int) -> None:
        """Holds back what is not certain yet."""
        if settled == 0:
            self._edges = lows.edges.copy()
            return
        self._clipped = False
        if settled < starts.size:
            self._edges = lows.edges[2 * int(starts[settled]) :].copy()
            self._opening = Opening.ASK
        elif lows.quiet_ns >= layout.IDLE_NS:
            self._edges = NONE
            self._opening = Opening.ASK
        else:
            self._edges = lows.edges[2 * (lows.count - 1) :].copy()
            self._opening = Opening.PASSED_OVER

    def _pack(
        self,
        edges: Int64Array,
        answers: Int64Array | BoolArray,
        starts: Int64Array,
        ends: Int64Array,
        known_until_ns: int,
        ended: bool,
    ) -> Segments:
        marks = np.zeros(starts.size, dtype=np.uint8)
        answer_first = answers.astype(bool)
        first = 2 * starts
        last = np.minimum(2 * ends - 1, edges.size - 1)
        last = np.minimum(last, first + 2 * layout.MOST_LOWS - 1)
        stray = np.zeros(starts.size, dtype=bool)
        if starts.size:
            ask_ns = _ask_lengths(edges, first, known_until_ns)
            stray |= (ask_ns < layout.ASK_LEAST_NS) & ~answer_first
            self._mark_first(edges, ends, answer_first, stray, marks)
            resting = edges.size % 2 == 0 and known_until_ns - edges[-1] >= layout.IDLE_NS
            if ended and not resting:
                marks[-1] |= np.uint8(DecodeMark.CAPTURE_ENDED)
        marks[answer_first] |= np.uint8(DecodeMark.ASK_UNSEEN)
        return Segments(edges, first, last, answer_first, stray, marks, known_until_ns)

    def _mark_first(
        self,
        edges: Int64Array,
        ends: Int64Array,
        answer_first: BoolArray,
        stray: BoolArray,
        marks: npt.NDArray[np.uint8],
    ) -> None:
        """Says how the segment at the very start of the buffer begins."""
        if self._clipped:
            answer_first[0] = False
            marks[0] |= np.uint8(DecodeMark.ASK_CLIPPED)
            # A low at the capture's start that nobody answers need not be an ask: the supply
            # may have come up then.
            stray[0] = ends[0] == 1
        if self._opening is Opening.CAPTURE_START:
            first_lows = _Lows(edges[: 2 * int(ends[0])], int(edges[-1]))
            second = np.array([1], dtype=np.int64)
            asked = self._clipped and bool(first_lows.answer_like(second)[0])
            stray[0] = not (asked or answer_first[0])


class _Lows:
    """The lows among clean edges, with what stands around them."""

    def __init__(self, edges: Int64Array, known_until_ns: int) -> None:
        self.edges = edges
        self.count = (edges.size + 1) // 2
        self.complete = edges.size // 2
        closed = edges if edges.size % 2 == 0 else np.append(edges, known_until_ns)
        self.widths_ns = closed[1::2] - closed[0::2]
        self.quiet_ns = known_until_ns - int(edges[-1]) if edges.size % 2 == 0 else -1

    def high_before_ns(self, before_first_ns: int) -> Int64Array:
        """High before each low, int64 (count,), ns."""
        highs = np.empty(self.count, dtype=np.int64)
        highs[0] = before_first_ns
        highs[1:] = self.edges[2::2] - self.edges[1:-1:2]
        return highs

    def answer_like(self, at: Int64Array) -> BoolArray:
        """Whether the low at each index, the high and the low after it make an answer."""
        fits = at + 1 < self.complete
        here = np.where(fits, at, 0)
        following = np.minimum(here + 1, self.count - 1)
        low, next_low = self.widths_ns[here], self.widths_ns[following]
        high = self.edges[2 * following] - self.edges[np.minimum(2 * here + 1, self.edges.size - 1)]
        fits &= (low >= layout.ANSWER_LOW_NS[0]) & (low <= layout.ANSWER_LOW_NS[1])
        fits &= (high >= layout.ANSWER_HIGH_NS[0]) & (high <= layout.ANSWER_HIGH_NS[1])
        fits &= low >= layout.ANSWER_OVER_BIT * next_low
        return fits

    def may_be_late(self, at: int) -> bool:
        """Whether the low at index ``at`` > 0 comes soon enough to answer the ask before."""
        return bool(self.edges[2 * at] - self.edges[2 * at - 1] <= layout.LATE_NS)


def _late_answers(lows: _Lows, starts: Int64Array) -> BoolArray:
    """Which segments are nothing but the late answer to the lone ask before them."""
    late = np.zeros(starts.size, dtype=bool)
    if starts.size > 1:
        here = starts[1:]
        gap_ns = lows.edges[2 * here] - lows.edges[2 * here - 1]
        alone = np.diff(starts) == 1
        asked = lows.widths_ns[starts[:-1]] >= layout.ASK_LEAST_NS
        late[1:] = alone & asked & (gap_ns <= layout.LATE_NS) & lows.answer_like(here)
    return late


def _ask_lengths(edges: Int64Array, first: Int64Array, known_until_ns: int) -> Int64Array:
    closed = np.append(edges, known_until_ns)
    lengths: Int64Array = closed[first + 1] - closed[first]
    return lengths


def _rows(segments: Segments, start: int, end: int) -> Segments:
    """The segments ``start`` up to ``end``."""
    return Segments(
        segments.edges_ns,
        segments.first[start:end],
        segments.last[start:end],
        segments.answer_first[start:end],
        segments.stray[start:end],
        segments.marks[start:end],
        segments.known_until_ns,
    )
