"""Traces, changes and spikes."""

from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.signal.level_changes import turns
from pivet.signal.spikes import SpikeFilter
from pivet.signal.trace import Level, Line, Trace
from tests.base import PivetTest


class Lines(PivetTest):
    """Names and levels of lines."""

    def setUp(self) -> None:
        super().setUp()
        self.line = Line("tb.hall.dq", Level.HIGH, np.array([10, 20, 30]), ("tb.s.data",))
        self.other = Line("tb.dq", Level.HIGH, np.array([5]))
        self.trace = Trace((self.line, self.other), 0, 100, 1)

    def test_level_at(self) -> None:
        """The level turns over at each edge."""
        levels = [self.line.level_at(t) for t in (0, 10, 19, 20, 30, 99)]
        self.assertEqual([1, 0, 0, 1, 0, 0], levels)

    def test_last_part_of_a_name_is_enough(self) -> None:
        """A line answers to its name, an alias and their last parts."""
        self.assertEqual((self.line,), self.trace.find("data"))
        self.assertEqual((self.line,), self.trace.find("hall.dq"))
        self.assertEqual((self.line, self.other), self.trace.find("dq"))
        self.assertEqual((self.other,), self.trace.find("tb.dq"))
        self.assertEqual((), self.trace.find("q"))

    def test_edges_cannot_be_written_to(self) -> None:
        """A line's edges stay as they are."""
        with self.assertRaises(ValueError):
            self.line.edges_ns[0] = 3


class Changes(PivetTest):
    """Time-stamped levels become edges."""

    @given(st.lists(st.tuples(st.integers(0, 40), st.integers(0, 1)), min_size=1))
    def test_level_after_each_stamp(self, rows: list[tuple[int, int]]) -> None:
        """Between stamps the line has the level of the last stamp before."""
        rows.sort(key=lambda row: row[0])
        times = np.array([t for t, _ in rows])
        levels = np.array([level for _, level in rows], dtype=np.uint8)
        found = turns(times, levels)
        line = Line("a", found.initial, found.edges_ns)
        for t_ns in range(int(times[0]), 42):
            last = [level for t, level in rows if t <= t_ns][-1]
            self.assertEqual(last, line.level_at(t_ns))
        self.assertTrue((np.diff(found.edges_ns) > 0).all())

    def test_change_there_and_back_is_counted(self) -> None:
        """A change of no duration is left out and counted."""
        found = turns(np.array([0, 5, 5, 9]), np.array([1, 0, 1, 0], dtype=np.uint8))
        self.assertEqual(([9], 1), (found.edges_ns.tolist(), found.instant))


class Spikes(PivetTest):
    """Spikes go, the rest stays."""

    @given(st.lists(st.integers(1, 5000), max_size=60), st.lists(st.integers(0, 60), max_size=6))
    def test_no_short_pulse_is_left(self, widths: list[int], cuts: list[int]) -> None:
        """What remains holds no run of short pulses, keeps the parity, and any cut is the same."""
        edges = np.cumsum(np.array(widths, dtype=np.int64))
        whole = self.filtered(edges, [])
        self.assertTrue(set(whole.tolist()) <= set(edges.tolist()))
        self.assertEqual(edges.size % 2, whole.size % 2)
        bounds = sorted({min(cut, edges.size) for cut in cuts})
        np.testing.assert_array_equal(whole, self.filtered(edges, bounds))

    def filtered(self, edges: np.ndarray, cuts: list[int]) -> np.ndarray:
        """Feeds edges in pieces; nothing is known beyond the piece."""
        spikes, found = SpikeFilter(2000), []
        bounds = [0, *cuts, edges.size]
        for first, last in pairwise(bounds):
            piece = edges[first:last]
            if piece.size:
                found.append(spikes.feed(piece, int(piece[-1])).edges_ns)
        found.append(spikes.finish().edges_ns)
        return np.concatenate(found)

    def test_even_and_odd(self) -> None:
        """Two close edges are a spike, three are a bounce of which the first counts."""
        spikes = SpikeFilter(2000)
        clean = spikes.feed(np.array([10_000, 11_000, 50_000, 50_500, 51_900, 90_000]), 99_000)
        self.assertEqual([50_000, 90_000], clean.edges_ns.tolist())
        self.assertEqual([10_000, 50_000], clean.spike_start_ns.tolist())
        self.assertEqual([1000, 1900], clean.spike_width_ns.tolist())
