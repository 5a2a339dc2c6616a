"""The readings behind the views: when they are read, what becomes of what was asked meanwhile."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any
from unittest import mock

import numpy as np

from pivet.errors import Cancelled, InputError, OutputError
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.history.watching import LimitEvent
from pivet.keeping.kept import kept_captures
from pivet.person.annotations import NOTHING, Mark, read_annotations, read_crossings
from pivet.progress import silent
from pivet.readings.correction import by_offset
from pivet.readings.limits import Crossing, Limit, Side
from pivet.readings.series import Sensor
from pivet.ui.readings import store as module
from pivet.ui.readings.store import ReadingsStore
from pivet.ui.session.session import Session
from pivet.ui.work.turns import turns
from tests.night import copy_of_sparse_night, demo_night
from tests.ui.base import WindowTest

SHELF, WASH = Sensor("shelf_A", "", "humidity"), Sensor("wash_room", "", "humidity")


@dataclass
class Started:
    """A job that somebody started, and that goes on when the test says so."""

    label: str
    work: Callable[..., Any]
    done: Callable[[Any], object]
    over: Callable[[], object]

    def finish(self) -> None:
        """All goes well."""
        self.done(self.work(silent))
        self.over()


class Jobs:
    """Takes jobs and does nothing by itself."""

    def __init__(self) -> None:
        self.started: list[Started] = []

    def start(self, *row: Any) -> None:
        """Notes a job."""
        self.started.append(Started(*row))

    def finish(self) -> str:
        """Does the only job there is."""
        (job,) = self.started
        self.started.clear()
        job.finish()
        return job.label


class StoreTest(WindowTest):
    """A store of its own, beside that of the window."""

    def setUp(self) -> None:
        super().setUp()
        self.own = Session(self.window)
        self.jobs = Jobs()
        self.bench: BenchFile | None = None
        self.store = ReadingsStore(self.own, self.jobs, lambda: self.bench)  # type: ignore[arg-type]
        self.addCleanup(self.store.close)
        self.addCleanup(self.store.background.wait)
        self.addCleanup(self.own.reading.wait)
        self.told: list[bool] = []
        self.refused: list[str] = []
        self.store.changed.connect(self.told.append)
        self.own.refuse = self.refused.append

    def show_bench(self) -> BenchFile:
        """The night is open."""
        self.bench = bench = BenchFile.open(copy_of_sparse_night(self.folder))
        self.addCleanup(bench.close)
        for capture in kept_captures(bench):
            self.own.add_capture(capture)
        return bench

    def rest(self) -> None:
        """Whatever is made beside the window is made."""
        for _ in range(4):
            self.app.processEvents()
            self.wait_for(lambda: not self.store.background.busy, "it is made")
            self.wait_for(lambda: not self.own.reading.busy, "it is read")
            self.wait_for(lambda: not turns().busy, "all have had their turn")


class Reading(StoreTest):
    """When what is open is read."""

    def test_only_for_somebody(self) -> None:
        """Nothing is read while nobody looks; then once; again only when it is another."""
        little = mock.patch.object(module, "AT_ONCE", 10**6)
        little.start()
        self.addCleanup(little.stop)
        self.own.add_capture(demo_night())
        self.assertEqual([], self.told)
        self.store.need(self, True)
        self.assertEqual(([True], []), (self.told, self.jobs.started))
        self.assertIn(SHELF, self.store.sensors)
        self.assertFalse(self.store.clock or self.store.live)
        self.own.choose_wire((0, 1))
        self.store.need(self, True)
        self.assertEqual([True], self.told)
        self.store.need(self, False)
        self.own.close_capture(0)
        self.assertEqual([True], self.told)
        self.store.need(self, True)
        self.assertEqual([True, True], self.told)
        self.assertEqual([], self.store.sensors)

    def test_other_names(self) -> None:
        """Readings are made once under names that change at once, and not for the same names."""
        with mock.patch.object(module, "AT_ONCE", 10**6):
            self.own.add_capture(demo_night())
            self.store.need(self, True)
            roles = self.own.roles.named("28-00000a41d9b2", "door wheel")
            self.own.put_roles(self.own.roles.named("28-00000a41d9b2", "other wheel"))
            self.own.put_roles(roles)
            self.assertEqual([True], self.told)
            self.rest()
            self.assertEqual([True, False], self.told)
            self.assertIn("door wheel", {sensor.who for sensor in self.store.sensors})
            self.own.put_roles(roles)
            self.rest()
            self.assertEqual([True, False], self.told)

    def test_much_is_a_job(self) -> None:
        """More than a thousand exchanges are looked through beside the window."""
        little = sum(map(len, demo_night().wires)) + module.OF_A_WIRE * len(demo_night().wires)
        with mock.patch.object(module, "AT_ONCE", little - 1):
            self.own.add_capture(demo_night())
            self.store.need(self, True)
            self.assertEqual(f"Looking through {demo_night().name}", self.jobs.finish())
            self.assertIn(SHELF, self.store.sensors)
            self.assertFalse(self.store.is_little)
            dew = Sensor("shelf_A", "", "dew point")
            self.assertTrue(self.store.is_derived(dew))
            self.assertIsNone(self.store.series(dew))
            self.rest()
            self.assertEqual([True, False], self.told)
            self.assertIsNotNone(self.store.series(dew))
        with mock.patch.object(module, "AT_ONCE", little):
            self.assertTrue(self.store.is_little)

    def test_once(self) -> None:
        """Runs when the readings are there, and keeps nobody waiting for more."""
        ran: list[int] = []
        self.show_bench()
        self.store.once(lambda: ran.append(len(self.store.sensors)))
        self.assertEqual([], ran)
        self.assertIn("Reading ", self.jobs.finish())
        self.assertEqual(1, len(ran))
        self.assertGreater(ran[0], 5)
        self.assertTrue(self.store.clock)
        self.assertFalse(self.store._viewers)
        self.store.once(lambda: ran.append(0))
        self.assertEqual(2, len(ran))

    def test_cancelled(self) -> None:
        """Nobody waits any more; who asks next makes it begin anew."""
        ran: list[int] = []
        self.show_bench()
        self.store.once(lambda: ran.append(1))
        (job,) = self.jobs.started
        job.over()
        self.jobs.started.clear()
        self.store.need(self, True)
        self.assertEqual(1, len(self.jobs.started))
        self.jobs.finish()
        self.assertEqual([], ran)
        job.over()
        self.assertIsNotNone(self.store._subject)

    def test_closed_while_it_is_read(self) -> None:
        """Its job ends as if cancelled, and what it gives comes to nothing."""
        bench = self.show_bench()
        self.store.need(self, True)
        (job,) = self.jobs.started
        broken = mock.patch.object(
            self.store._kept, "read", side_effect=InputError("gone", "see the disk")
        )
        with broken, self.assertRaises(InputError):
            job.work(silent)
        self.assertIs(bench, self.store._subject)
        readings = job.work(silent)
        kept = self.store._kept
        self.bench = None
        self.own.close_capture(0)
        job.done(readings)
        self.assertEqual([], self.store.sensors)
        with (
            mock.patch.object(kept, "read", side_effect=InputError("gone", "see the disk")),
            self.assertRaises(Cancelled),
        ):
            job.work(silent)

    def test_unreadable(self) -> None:
        """One sentence each; it begins anew when it is asked for again."""
        self.show_bench()
        failing = mock.patch.object(module, "BenchReader", side_effect=InputError("no", "look"))
        with failing:
            self.store.need(self, True)
        self.assertEqual((["no: look."], []), (self.refused, self.jobs.started))
        with mock.patch.object(module, "read_annotations", side_effect=InputError("bad", "mend")):
            self.store.need(self, True)
        self.assertEqual(["no: look.", "bad: mend."], self.refused)
        self.jobs.finish()
        self.assertIn(WASH, self.store.sensors)

    def test_what_is_new(self) -> None:
        """Is read while it goes on, as often as it is worth; an error is told, and it goes on."""
        self.show_bench()
        self.store.need(self, True)
        self.jobs.finish()
        with mock.patch.object(ReadingsStore, "live", True):
            for took, interval in ((0.02, 700), (2.0, 40_000)):
                before = len(self.told)
                with mock.patch.object(module, "time") as clock:
                    clock.monotonic.side_effect = [0.0, took]
                    self.store._go_on()
                    self.store._go_on()
                    self.rest()
                self.assertEqual(before + 1, len(self.told))
                self.assertEqual(interval, self.store._timer.interval())
            failing = mock.patch.object(
                self.store._kept, "read", side_effect=InputError("gone", "wait")
            )
            with failing:
                self.store._go_on()
                self.rest()
            self.assertEqual(1, len(self.refused))
            before = len(self.told)
            self.store._go_on()
            self.rest()
            self.assertEqual(before + 1, len(self.told))

    def test_made_anew_while_it_is_read(self) -> None:
        """Other names do not bring back what stood there before the last read."""
        self.show_bench()
        self.store.need(self, True)
        self.jobs.finish()
        assert self.store._kept is not None
        newer = self.store.readings.histories[1:]
        with (
            mock.patch.object(self.store._kept, "read", return_value=newer),
            mock.patch.object(ReadingsStore, "is_little", False),
        ):
            self.store._go_on()
            self.own.put_roles(self.own.roles.named("28-00000a41d9b2", "door wheel"))
            self.rest()
        self.assertEqual(list(newer), list(self.store.readings.histories))

    def test_more_was_read_meanwhile(self) -> None:
        """However little is shown: what is much is made beside the window."""
        little = sum(map(len, demo_night().wires)) + module.OF_A_WIRE * len(demo_night().wires)
        with mock.patch.object(module, "AT_ONCE", little):
            self.own.add_capture(demo_night())
            self.store.need(self, True)
            more = self.store.readings.histories * 2
            self.assertTrue(self.store.is_little)
            self.store._latest = None, more
            self.store._renew()
            self.assertEqual([True, False], self.told)
            self.store._latest = self.store._subject, more
            self.store._renew()
            self.assertEqual([True, False], self.told)
            self.rest()
            self.assertEqual([True, False, False], self.told)
            self.assertEqual(more, self.store.readings.histories)

    def test_what_was_asked_before_counts(self) -> None:
        """Names that change while it is read: the readings are made under the last ones."""
        self.show_bench()
        self.store.need(self, True)
        (job,) = self.jobs.started
        readings = job.work(silent)
        self.own.put_roles(self.own.roles.named("28-00000a41d9b2", "door wheel"))
        job.done(readings)
        self.rest()
        self.assertIn("door wheel", {sensor.who for sensor in self.store.sensors})


class Given(StoreTest):
    """What a person gives to readings."""

    def setUp(self) -> None:
        super().setUp()
        self.show_bench()
        self.store.need(self, True)
        self.jobs.finish()
        self.told.clear()
        self.changes: list[int] = []
        self.store.annotations_changed.connect(lambda: self.changes.append(1))

    def put(self, **parts: Any) -> bool:
        """Gives something to the night."""
        return self.store.put_annotations(self.bench, self.with_(**parts))

    def with_(self, **parts: Any) -> Any:
        """What is given now, with something else."""
        return replace(self.store.annotations, **parts)

    def test_kept_and_shown(self) -> None:
        """A correction makes other values, a limit other crossings, a mark neither."""
        before, version = self.store.series(WASH), self.store.version
        assert before is not None
        self.assertTrue(self.put(marks=(*self.store.annotations.marks, Mark(7, "door"))))
        self.rest()
        self.assertEqual([], self.told)
        self.assertGreater(self.store.version, version)
        self.assertTrue(self.put(corrections={WASH: by_offset(1.5)}))
        self.rest()
        after = self.store.series(WASH)
        assert after is not None
        np.testing.assert_allclose(after.values, before.values + 1.5)
        self.assertEqual({WASH: by_offset(1.5)}, dict(self.own.shown.corrections))
        self.assertTrue(self.put(limits={WASH: Limit(high=before.values[before.given].min())}))
        self.rest()
        self.assertEqual(2, len(self.told))
        self.assertEqual({WASH}, {sensor for sensor, _ in self.store.crossings})
        self.assertEqual(3, len(self.changes))
        self.assertGreater(self.store.version, version)
        assert self.bench is not None
        kept = read_annotations(self.bench)
        self.assertEqual({WASH}, set(kept.limits) & set(kept.corrections))
        self.assertEqual(len(self.store.crossings), len(read_crossings(self.bench)))

    def test_refused(self) -> None:
        """What cannot be written stays as it was; a bench that is only shown keeps its file."""
        given = self.store.annotations
        failing = mock.patch.object(
            module, "write_annotations", side_effect=OutputError("full", "make room")
        )
        with failing:
            self.assertFalse(self.put(marks=()))
        self.assertEqual(["full: make room."], self.refused)
        self.assertEqual((given, []), (self.store.annotations, self.changes))
        assert self.bench is not None
        self.bench.read_only = True
        self.assertTrue(self.put(marks=()))
        self.assertEqual((), self.store.annotations.marks)
        self.assertEqual(given.marks, read_annotations(self.bench).marks)

    def test_of_another(self) -> None:
        """What is given to what is not shown is there when it is."""
        other = NOTHING.marked(Mark(1, "elsewhere"))
        self.assertTrue(self.store.put_annotations("another", other))
        self.assertEqual([], self.changes)
        self.assertNotEqual(other, self.store.annotations)
        self.store.owner = "another"
        self.assertEqual(other, self.store.annotations)

    def test_the_same_crossing(self) -> None:
        """Told again it takes its own place; another begin, side or sensor is another."""
        self.store.crossings = []
        rows = (
            (WASH, Side.ABOVE, 10, 96.0),
            (WASH, Side.ABOVE, 10, 97.0),
            (WASH, Side.BELOW, 10, 40.0),
            (WASH, Side.ABOVE, 50, 98.0),
            (SHELF, Side.ABOVE, 10, 99.0),
        )
        for sensor, side, since, worst in rows:
            crossing = Crossing(side, since, since + 1, 95.0, worst, None)
            self.store._tell_crossing(LimitEvent(sensor, Limit(high=95.0), crossing))
        self.assertEqual([97.0, 40.0, 98.0, 99.0], [row.worst for _, row in self.store.crossings])

    def test_places(self) -> None:
        """From a reading to its exchange, and from the exchange to its moment."""
        series = self.store.series(WASH)
        assert series is not None
        found = self.store.place_of(series, 40)
        assert found is not None
        place, number = found
        self.assertEqual(int(series.number[40]), number)
        self.own.choose_wire(place)
        self.own.choose_number(number)
        self.rest()
        self.assertEqual("wash_room", self.own.wire_name)
        self.assertEqual(int(series.times_ns[40]), self.store.chosen_ns)
        beyond = mock.patch.object(Session, "number", int(series.number[-1]) + 50)
        with beyond:
            self.assertIsNone(self.store.chosen_ns)
            with mock.patch.object(ReadingsStore, "live", True):
                last = max(
                    int(row.times_ns[-1])
                    for row in self.store.readings.histories
                    if row.name == "wash_room"
                )
                self.assertEqual(last, self.store.chosen_ns)
        self.assertIsNone(self.store.reliability("nowhere"))
        found_of = self.store.reliability("wash_room")
        assert found_of is not None
        self.assertGreater(found_of.count, 100)
