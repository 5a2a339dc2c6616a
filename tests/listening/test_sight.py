"""The edges of a line that are in sight: levels stay right, whatever is forgotten."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.listening.sight import Sight
from pivet.signal.trace import Level


def edges_of(sight: Sight) -> list[int]:
    """What is in sight."""
    return sight.line("x").edges_ns.tolist()


def sight_of(*times: int) -> Sight:
    """A line that begins low."""
    found = Sight(Level.LOW)
    found.add(np.array(times, dtype=np.int64))
    return found


class Sights(unittest.TestCase):
    """One line."""

    def test_jump(self) -> None:
        """After a gap there is an edge where the line stands otherwise, and else none."""
        sight = sight_of(10)
        sight.jump(40, Level.HIGH)
        self.assertEqual(([10], Level.HIGH), (edges_of(sight), sight.level))
        sight.jump(50, Level.LOW)
        self.assertEqual(([10, 50], Level.LOW, 50), (edges_of(sight), sight.level, sight.end_ns))

    def test_undone(self) -> None:
        """An edge at the moment of the last takes it back; the others come after."""
        sight = sight_of(10, 20)
        sight.add(np.array([20, 30, 40]))
        self.assertEqual(([10, 30, 40], Level.HIGH), (edges_of(sight), sight.level))

    @given(st.sets(st.integers(1, 99), max_size=30), st.integers(0, 100))
    def test_cut(self, times: set[int], at: int) -> None:
        """What stays has the levels that it had."""
        sight, rows = sight_of(*sorted(times)), sorted(times)
        sight.cut(at)
        line = sight.line("x")
        self.assertEqual([row for row in rows if row >= at], line.edges_ns.tolist())
        self.assertEqual(len([row for row in rows if row < at]) % 2, int(line.initial))
        self.assertEqual(len(rows) % 2, int(sight.level))

    @given(st.sets(st.integers(1, 99), max_size=40), st.integers(0, 100), st.integers(-9, 3))
    def test_thin(self, times: set[int], after: int, more: int) -> None:
        """An even number goes, right behind the moment, and about the newest half stays."""
        rows = sorted(times)
        sight, behind = sight_of(*rows), [row for row in rows if row > after]
        most = max(len(behind) + more, 0)
        sight.thin(after, most)
        kept = edges_of(sight)
        self.assertEqual(rows[: len(rows) - len(behind)], kept[: len(rows) - len(behind)])
        newest = kept[len(rows) - len(behind) :]
        self.assertEqual(behind[len(behind) - len(newest) :], newest)
        self.assertEqual(0, (len(behind) - len(newest)) % 2)
        if len(behind) > most:
            self.assertIn(len(newest), (most // 2, most // 2 + 1))
        else:
            self.assertEqual(behind, newest)
