"""All that is known of readings at one moment."""

from itertools import groupby
from typing import ClassVar
from unittest import mock

import numpy as np

from pivet.errors import Cancelled
from pivet.frozen import replace
from pivet.history.agree import against_series, compared
from pivet.history.attention import states
from pivet.history.open import open_readings
from pivet.history.readings_set import ReadingsSet, readings_set
from pivet.history.reliability import HOUR_NS, reliability
from pivet.history.series import derived_series
from pivet.history.table import table_rows
from pivet.history.watching import Watching
from pivet.history.wire import WireHistory, by_wire
from pivet.person.annotations import NOTHING, Reference
from pivet.person.roles import NO_ROLES
from pivet.progress import Progress, silent
from pivet.readings.correction import by_offset
from pivet.readings.limits import Limit
from pivet.readings.series import Sensor
from pivet.readings.sound import Vessel
from tests.base import PivetTest
from tests.night import BEGAN_NS, night_file

SHELF, WASH = Sensor("shelf_A", "", "humidity"), Sensor("wash_room", "", "humidity")
HALF_NS = 4 * 3600 * 10**9
DEW = Sensor("wash_room", "", "dew point")


class Sets(PivetTest):
    """Of the night."""

    histories: ClassVar[tuple[WireHistory, ...]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        with open_readings(night_file(), NO_ROLES) as found:
            cls.histories = tuple(found.histories)

    def made(
        self,
        histories: tuple[WireHistory, ...] | None = None,
        watching: Watching | None = None,
        wanted: tuple[Sensor, ...] = (),
    ) -> ReadingsSet:
        """The set under a limit that shelf A crosses, and a correction."""
        given = NOTHING.limited(SHELF, Limit(high=96.0)).corrected(WASH, by_offset(5.0))
        rows = self.histories if histories is None else histories
        return readings_set(rows, NO_ROLES, given, watching or Watching(), True, wanted)

    def test_stops_before_limits_are_told(self) -> None:
        """It can be stopped between its parts; what was crossed is told by the next one then."""
        given = NOTHING.limited(SHELF, Limit(high=96.0))
        watching, told = Watching(), mock.Mock()

        def made(progress: Progress) -> ReadingsSet:
            return readings_set(self.histories, NO_ROLES, given, watching, True, (), progress)

        whole = readings_set(self.histories, NO_ROLES, given, Watching(), True, (), told)
        self.assertTrue(whole.crossed)
        self.assertEqual({1.0}, {call.args[0] for call in told.call_args_list})
        self.assertGreater(told.call_count, 1)
        for calls in range(told.call_count):
            with self.assertRaises(Cancelled):
                made(mock.Mock(side_effect=[None] * calls + [Cancelled]))
        self.assertEqual(whole.crossed, made(silent).crossed)

    def test_what_is_there(self) -> None:
        """Every sensor once, by quantity; the time from the first to the last exchange."""
        found = self.made()
        self.assertEqual(sum(len(row) for row in self.histories), len(found))
        sensors = found.sensors
        self.assertEqual(len(set(sensors)), len(sensors))
        measured = {row.sensor for row in found.series}
        self.assertEqual(set(sensors), measured | set(found.derivable))
        self.assertIn(DEW, found.derivable)
        self.assertNotIn(DEW, measured)
        quantities = [row.quantity for row in sensors]
        self.assertEqual(len(set(quantities)), len(list(groupby(quantities))))
        times = [int(t) for row in self.histories for t in (row.times_ns[0], row.times_ns[-1])]
        self.assertEqual((min(times), max(times)), found.span_ns)
        self.assertIsNone(ReadingsSet().span_ns)
        self.assertIsNone(ReadingsSet(tuple(row.between(0, 0) for row in self.histories)).span_ns)

    def test_a_table_of_nothing(self) -> None:
        """Has no rows, and one of everything as many as there are exchanges with readings."""
        self.assertEqual([], list(table_rows([], True)))
        rows = list(table_rows(self.made().series, True))
        self.assertEqual(sorted(row.time for row in rows), [row.time for row in rows])

    def test_derived_when_asked_for(self) -> None:
        """Made once, from what was corrected; or at once, when it is sure to be wanted."""
        found = self.made()
        self.assertTrue(found.is_made(SHELF))
        self.assertFalse(found.is_made(DEW))
        series = found.series_of(DEW)
        self.assertTrue(found.is_made(DEW))
        self.assertIs(series, found.series_of(DEW))
        assert series is not None
        (wanted,) = derived_series(found.series, found.histories, DEW)
        self.assertEqual(wanted.values.tobytes(), series.values.tobytes())
        self.assertTrue(series.correction)
        self.assertTrue(self.made(wanted=(DEW,)).is_made(DEW))
        self.assertIsNone(found.series_of(Sensor("attic", "", "humidity")))

    def test_what_a_vessel_holds(self) -> None:
        """Level, share and volume follow from a distance; what is below the bottom is empty."""
        found = self.made()
        shelf = next(row for row in found.series if row.sensor == SHELF)
        far = np.where(np.arange(len(shelf)) % 2, 0.4, 1.5)
        row = replace(shelf, sensor=Sensor("brine_vat", "", "distance"), values=far)
        history = replace(self.histories[0], name="brine_vat", vessel=Vessel(1.2, 1.0, 0.5))
        made = {one.sensor.quantity: one.values for one in derived_series([row], [history])}
        self.assertEqual(
            {"level": 0.8, "fill": 80.0, "volume": 400.0},
            {name: round(float(values[1]), 9) for name, values in made.items()},
        )
        self.assertEqual({0.0}, {float(values[0]) for values in made.values()})

    def test_the_last_hour_of_several_captures(self) -> None:
        """Is of the last one, however short that is."""
        wash = next(row for row in self.histories if row.name == "wash_room")
        end = int(wash.times_ns[-1])
        wet = wash.between(end - 3 * HOUR_NS, end - 2 * HOUR_NS)
        calm = wash.between(end - HOUR_NS // 2, end)
        health = [
            next(state.health for state in self.made(rows).states if state.wire == "wash_room")
            for rows in ((wet,), (calm,), (wet, calm))
        ]
        self.assertLess(health[0], 0.5)
        self.assertEqual([1.0, 1.0], health[1:])

    def test_as_each_by_itself(self) -> None:
        """Reliability and states are those that are made one by one."""
        found = self.made()
        for name, rows in by_wire(self.histories).items():
            one, other = reliability(rows, True), found.reliability[name]
            self.assertEqual(one.counts.tolist(), other.counts.tolist())
            self.assertEqual((one.reasons, one.advice), (other.reasons, other.advice))
        again = states(found.histories, found.series, found.open_crossings, True, found.reliability)
        told = [(row.name, row.urgency, row.says) for row in again]
        self.assertEqual(told, [(row.name, row.urgency, row.says) for row in found.states])

    def test_compared(self) -> None:
        """With another sensor or a reference; nothing where one of them was not read."""
        found = self.made()
        series, other = found.series_of(WASH), found.series_of(SHELF)
        assert series is not None and other is not None
        one, same = compared(found.series_of, WASH, SHELF), against_series(series, other)
        assert one is not None and one.found is not None and same.found is not None
        self.assertEqual((same.name, same.found.offset), (one.name, one.found.offset))
        wall = Reference("wall", "humidity", other.times_ns[:9], other.values[:9], 1.0)
        two = compared(found.series_of, WASH, wall)
        assert two is not None
        self.assertEqual("wall", two.name)
        attic = Sensor("attic", "", "humidity")
        for sensor, reference in ((attic, SHELF), (WASH, attic), (attic, wall)):
            self.assertIsNone(compared(found.series_of, sensor, reference))

    def test_crossings_are_told_once(self) -> None:
        """The watch goes on from set to set, whatever else has changed."""
        watching = Watching()
        middle = tuple(row.between(0, BEGAN_NS + HALF_NS) for row in self.histories)
        first, second = self.made(middle, watching), self.made(None, watching)
        both = [row.crossing for row in (*first.crossed, *second.crossed)]
        self.assertEqual([row.crossing for row in self.made().crossed], both)
        self.assertTrue(both)
        self.assertEqual((), self.made(None, watching).crossed)
