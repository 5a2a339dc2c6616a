"""Rows that are made for neighbours at once."""

import gc
import unittest
from weakref import ref

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.frozen import FrozenObject
from pivet.judge.neighbours import FEW, MANY, Neighbours


class Owner(FrozenObject):
    """Columns of a wire."""

    values: np.ndarray


class Rows(unittest.TestCase):
    """Of two wires."""

    def setUp(self) -> None:
        self.rows: Neighbours[tuple[float, ...]] = Neighbours()
        self.owners = [Owner(np.arange(1000)), Owner(np.arange(1000) + 5000)]
        self.made: list[int] = []

    def look(self, owner: int, index: int, *more: float, most: int = MANY) -> tuple[float, ...]:
        """The row of an exchange; it is noted how many were made for it."""
        values = self.owners[owner].values

        def make(first: int, last: int) -> list[tuple[float, ...]]:
            self.made.append(last - first)
            return [(value, *more) for value in values[first:last].tolist()]

        return self.rows.row(self.owners[owner], index, make, *more, most=most)

    @given(
        st.lists(
            st.tuples(st.integers(0, 1), st.integers(0, 999), st.sampled_from([(), (1.0,), (2.0,)]))
        )
    )
    def test_any_order(self, looks: list[tuple[int, int, tuple[float, ...]]]) -> None:
        """Each look gets its own row, whatever was looked at before."""
        for owner, index, more in looks:
            self.assertEqual((owner * 5000 + index, *more), self.look(owner, index, *more))

    def test_how_many(self) -> None:
        """Few at a jump, ever more while it goes on, up or down, and never more than is said."""
        for index in range(1000):
            self.look(0, index)
        self.assertEqual([FEW, 16, 64, MANY], self.made[:4])
        self.assertEqual({MANY}, set(self.made[4:]))
        self.assertLess(len(self.made), 10)
        self.made.clear()
        for index in (500, 100, 900):
            self.look(0, index)
        self.assertEqual([FEW] * 3, self.made)
        self.made.clear()
        for index in range(903, 700, -1):
            self.look(1, index)
        self.assertEqual([FEW, 16, 64], self.made[:3])
        self.made.clear()
        for index in range(5):
            self.look(0, index, most=1)
        self.assertEqual([1] * 5, self.made)

    def test_columns_are_not_kept(self) -> None:
        """A capture that was closed gives its memory back."""
        self.look(1, 3)
        gone = ref(self.owners.pop())
        gc.collect()
        self.assertIsNone(gone())
        self.assertEqual((3,), self.look(0, 3))
