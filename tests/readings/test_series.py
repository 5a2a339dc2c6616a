"""Values over time: parts of them, the nearest, reasons; and marks where there is room for few."""

import unittest

import numpy as np

from pivet.frozen import replace
from pivet.readings.series import Sensor, Series
from pivet.readings.thinning import ticks

SERIES = Series(
    Sensor("shelf_A", "", "humidity"),
    "shelf_A",
    "dht22",
    np.array([10, 20, 30, 41]),
    np.array([92.0, np.nan, 91.5, 91.0]),
    np.array([0, 1, 0, 0], dtype=np.int16),
    ("", "no answer"),
    np.arange(4),
    np.zeros(4, dtype=np.int32),
    np.zeros(4, dtype=np.uint8),
)


class Rows(unittest.TestCase):
    """Of four readings, one in vain."""

    def test_what_it_is(self) -> None:
        """Its quantity, what was given, why not, and that it follows from nothing else."""
        self.assertEqual((4, "humidity"), (len(SERIES), SERIES.quantity))
        self.assertEqual([True, False, True, True], SERIES.given.tolist())
        self.assertEqual(["", "no answer"], [SERIES.why_text(row) for row in (0, 1)])
        self.assertEqual((1, False), (SERIES.decimals, SERIES.derived))

    def test_between(self) -> None:
        """Both ends count; the other way round there is nothing."""
        for first, last, wanted in (
            (10, 30, [10, 20, 30]),
            (11, 29, [20]),
            (0, 9, []),
            (42, 99, []),
            (30, 10, []),
        ):
            self.assertEqual(wanted, SERIES.between(first, last).times_ns.tolist())
        part = replace(SERIES, raw=SERIES.values + 1).between(30, 41)
        assert part.raw is not None
        self.assertEqual(([91.5, 91.0], [92.5, 92.0]), (part.values.tolist(), part.raw.tolist()))
        self.assertEqual(([2, 3], [0, 0]), (part.number.tolist(), part.why.tolist()))

    def test_nearest(self) -> None:
        """Half way the earlier; nothing in nothing."""
        found = [SERIES.nearest(now) for now in (-5, 10, 15, 16, 35, 36, 41, 99)]
        self.assertEqual([0, 0, 0, 1, 2, 3, 3, 3], found)
        self.assertIsNone(SERIES.rows(0, 0).nearest(10))


class Ticks(unittest.TestCase):
    """Which moments are seen."""

    def test_few_and_many(self) -> None:
        """All while there is a column for each; else the first of each column."""
        times = np.arange(0, 1000, 10)
        self.assertEqual([*range(10, 21)], ticks(times, 100, 200, 11).tolist())
        self.assertEqual([10, 12, 14, 16, 18, 20], ticks(times, 100, 200, 5).tolist())
        self.assertEqual([], ticks(times, 101, 109, 5).tolist())
        self.assertEqual(100, ticks(times, -50, 2000, 1000).size)
