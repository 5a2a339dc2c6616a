"""What needs attention first, at the start of a day."""

import unittest
from typing import ClassVar
from unittest import mock

import numpy as np

from pivet.history.attention import SensorState, Urgency, states
from pivet.history.open import open_readings
from pivet.history.reliability import reliabilities, reliability
from pivet.history.sentences import worst_hour
from pivet.history.wire import WireHistory, by_wire
from pivet.person.roles import NO_ROLES
from pivet.readings.limits import Crossing, Limit, LimitWatch, Side
from pivet.readings.series import Sensor, Series
from pivet.readings.statistics import usual_interval_ns
from pivet.standin.long_night import NIGHT_S, WET_TO_S
from tests.base import PivetTest
from tests.night import BEGAN_NS, night_file

SHELF = Sensor("shelf_A", "", "humidity")
S = 10**9


class Morning(PivetTest):
    """The demo night, looked at when it is over, and before."""

    histories: ClassVar[list[WireHistory]]
    series: ClassVar[list[Series]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        with open_readings(night_file(), NO_ROLES) as found:
            cls.histories, cls.series = found.histories, found.series()

    def seen(
        self, until_s: float = NIGHT_S, crossed: dict[Sensor, Crossing] | None = None
    ) -> dict[str, SensorState]:
        """The sensors as they stood at a moment of the night, in their order."""
        end = BEGAN_NS + round(until_s * S)
        histories = [row.between(0, end) for row in self.histories]
        series = [row.between(0, end) for row in self.series]
        found = states(histories, series, crossed or {}, True, reliabilities(histories, True))
        return {row.name: row for row in found}

    def test_the_worst_stands_first(self) -> None:
        """A probe that is gone, then the wire with a bad hour; the sound ones last."""
        found = list(self.seen().values())
        self.assertEqual("wheels, wheel 3, core", found[0].name)
        self.assertEqual(Urgency.NOW, found[0].urgency)
        self.assertEqual("wash_room", found[1].name)
        self.assertEqual(Urgency.LOOK, found[1].urgency)
        weights = [row.urgency for row in found]
        self.assertEqual(sorted(weights, reverse=True), weights)
        self.assertEqual("", found[-1].says)

    def test_a_silent_device_has_no_health(self) -> None:
        """Its last value is told with its time, and nobody calls it sound; its wire is."""
        found = self.seen()
        gone, brine = found["wheels, wheel 3, core"], found["wheels, brine"]
        self.assertTrue(gone.silent)
        self.assertIn("No reading since", gone.says)
        self.assertTrue(np.isnan(gone.health) or gone.health == 0)
        self.assertEqual(1.0, brine.health)
        self.assertLess(gone.last_ns, BEGAN_NS + 3600 * S)

    def test_hours_begin_by_the_local_clock(self) -> None:
        """Where the zone is half an hour off, too; the same hour as in the figures."""
        half = mock.patch("pivet.history.reliability.zone_ns", return_value=1800 * S)
        with half:
            says = self.seen()["wash_room"].says
            told = reliability(by_wire(self.histories)["wash_room"], clock=True)
        self.assertEqual(1800 * S, int(told.hours.begin_ns[1]) % (3600 * S))
        self.assertTrue(says.startswith(worst_hour(told, True)), says)

    def test_while_it_happens(self) -> None:
        """In the wet hour the wash room is told by its last hour."""
        state = self.seen(WET_TO_S - 60)["wash_room"]
        self.assertLess(state.health, 0.5)
        self.assertGreaterEqual(state.urgency, Urgency.LOOK)
        if not state.silent:
            self.assertIn("of the last hour unsound: no answer", state.says)

    def test_a_crossed_limit(self) -> None:
        """Comes before all that only was bad."""
        (series,) = [row for row in self.series if row.sensor == SHELF]
        watch = LimitWatch(Limit(high=50.0))
        watch.feed(series.times_ns, series.values)
        state = self.seen(crossed={SHELF: watch.open[Side.ABOVE]})["shelf_A"]
        self.assertEqual(Urgency.NOW, state.urgency)
        self.assertIn("Humidity above its limit since 2026", state.says)

    def test_before_anything_was_heard(self) -> None:
        """Nothing is known, and nothing is wrong with that."""
        for state in self.seen(-1).values():
            self.assertEqual("never read", state.silent)
            self.assertIsNone(state.last_ns)
            self.assertTrue(np.isnan(state.health))


class Interval(unittest.TestCase):
    """The usual interval is learnt from a sample."""

    def test_all_over_a_long_series(self) -> None:
        """The half of a series that was asked more slowly counts as such, wherever it stands."""
        steps = np.repeat([2, 7], [40_000, 60_000]) * S
        for turned in (steps, steps[::-1]):
            times = np.cumsum(turned)
            self.assertEqual(float(np.median(np.diff(times))), usual_interval_ns(times))
        self.assertEqual(float("inf"), usual_interval_ns(np.array([5])))
