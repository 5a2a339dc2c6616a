"""Traces, changes and spikes."""

from collections.abc import Iterable
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

    def test_no_short_pulse_is_left(self) -> None:
        """What remains keeps the parity; cut anywhere, whatever is known then, it is the same."""
        random = np.random.default_rng(4)
        for _ in range(6):
            edges = np.cumsum(random.choice([200, 1999, 2000, 2001, 9000], 40))
            whole = self.filtered(edges, [], 0)
            self.assertTrue(set(whole.tolist()) <= set(edges.tolist()))
            self.assertEqual(edges.size % 2, whole.size % 2)
            for cuts in (*([at] for at in range(1, 40)), range(1, 40), range(1, 40, 3)):
                for wait_ns in (0, 1999, 2000):
                    np.testing.assert_array_equal(whole, self.filtered(edges, cuts, wait_ns))

    def filtered(self, edges: np.ndarray, cuts: Iterable[int], wait_ns: int) -> np.ndarray:
        """Feeds edges in pieces, behind each of which nothing comes for a while."""
        spikes, found, settled_ns = SpikeFilter(2000), [], 0
        for first, last in pairwise([0, *cuts, edges.size]):
            known_ns = int(edges[last - 1]) + wait_ns
            if last < edges.size:
                known_ns = min(known_ns, int(edges[last]) - 1)
            found.append(spikes.feed(edges[first:last], known_ns).edges_ns)
            self.assertTrue((found[-1] >= settled_ns).all())
            settled_ns = spikes.settled_until(known_ns)
        found.append(spikes.finish().edges_ns)
        self.assertTrue((found[-1] >= settled_ns).all())
        return np.concatenate(found)

    def test_even_and_odd(self) -> None:
        """Two close edges are a spike, three are a bounce of which the first counts."""
        spikes = SpikeFilter(2000)
        clean = spikes.feed(np.array([10_000, 11_000, 50_000, 50_500, 51_900, 90_000]), 99_000)
        self.assertEqual([50_000, 90_000], clean.edges_ns.tolist())
        self.assertEqual([10_000, 50_000], clean.spike_start_ns.tolist())
        self.assertEqual([1000, 1900], clean.spike_width_ns.tolist())
