"""Marks, corrections, limits and references: changed one at a time, written and read again."""

import unittest

import numpy as np

from pivet.files.benchfile.store import BenchFile
from pivet.person.annotations import (
    NOTHING,
    Annotations,
    Mark,
    Reference,
    read_annotations,
    read_crossings,
    write_annotations,
    write_crossing,
)
from pivet.readings.correction import Correction
from pivet.readings.limits import Crossing, Limit, Side
from pivet.readings.series import Sensor
from tests.base import PivetTest

VAT, SHELF = Sensor("vat", "", "distance"), Sensor("shelf_A", "", "humidity")
DOOR, WHEEL = Mark(5, "the door stood open"), Mark(2, "wheel 3 turned", "cave.wheels")
TIMES = np.array([1, 4, 9], dtype=np.int64)
DAMP = Reference("logger", "humidity", TIMES, np.array([84.0, 85.5, 83.0]), 2.0)
WARM = Reference("logger", "temperature", TIMES, np.array([11.0, 11.5, 12.0]))
ALL = (
    NOTHING.marked(DOOR)
    .marked(WHEEL)
    .corrected(VAT, Correction(1.01, -0.2, ((1.0, 1.1), (2.0, 2.2))))
    .corrected(SHELF, Correction(1.0, 0.5, ()))
    .limited(VAT, Limit(0.2, 1.5, 0.05, 30.0))
    .limited(SHELF, Limit(None, 95.0, 1.0, 0.0))
    .referred(DAMP)
    .referred(WARM)
)


def plain(one: Annotations) -> tuple[object, ...]:
    """What can be compared."""
    references = [
        (row.name, row.quantity, row.times_ns.tolist(), row.values.tolist(), row.accuracy)
        for row in one.references
    ]
    return one.marks, dict(one.corrections), dict(one.limits), references


class Changes(unittest.TestCase):
    """Each change touches what it names, and nothing beside."""

    def test_each_by_itself(self) -> None:
        """One goes, the other stays as it was."""
        self.assertEqual((WHEEL, DOOR), ALL.marks)
        self.assertEqual((WHEEL,), ALL.unmarked(DOOR).marks)
        self.assertEqual({SHELF}, set(ALL.corrected(VAT, None).corrections))
        self.assertEqual({VAT}, set(ALL.limited(SHELF, None).limits))
        self.assertEqual((WARM,), ALL.without(DAMP).references)
        self.assertEqual((DAMP, WARM), ALL.references)

    def test_put_anew(self) -> None:
        """What is given again is there once, with what was given last."""
        limit, correction = Limit(0.1, 1.0, 0.0, 0.0), Correction(2.0, 0.0, ())
        again = Reference("logger", "humidity", TIMES, np.zeros(3))
        self.assertEqual(limit, ALL.limited(VAT, limit).limits[VAT])
        self.assertEqual(correction, ALL.corrected(VAT, correction).corrections[VAT])
        self.assertEqual((WARM, again), ALL.referred(again).references)


class Kept(PivetTest):
    """In a bench file."""

    def setUp(self) -> None:
        super().setUp()
        self.bench = BenchFile.create(self.folder / "night.pivet")
        self.addCleanup(self.bench.close)

    def test_every_change_is_read_again(self) -> None:
        """Each part is written where it changed, from any state to any other."""
        states = (
            ALL,
            ALL.unmarked(DOOR),
            ALL.corrected(VAT, None),
            ALL.limited(SHELF, None),
            ALL.without(WARM),
            NOTHING,
            ALL,
        )
        before = NOTHING
        for state in states:
            write_annotations(self.bench, before, state)
            self.assertEqual(plain(state), plain(read_annotations(self.bench)))
            before = state

    def test_crossings(self) -> None:
        """In order of time; one that goes on is put in place of itself."""
        late = Crossing(Side.ABOVE, 50, 60, 96.0, 97.0, None)
        early = Crossing(Side.BELOW, 5, 6, 0.1, 0.05, 9)
        write_crossing(self.bench, SHELF, late)
        write_crossing(self.bench, VAT, early)
        ended = Crossing(Side.ABOVE, 50, 60, 96.0, 98.0, 70)
        write_crossing(self.bench, SHELF, ended)
        self.assertEqual([(VAT, early), (SHELF, ended)], read_crossings(self.bench))
