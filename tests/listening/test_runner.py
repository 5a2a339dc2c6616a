"""One loop, many takers: one that fails or hangs harms no other, and is said."""

import math
import threading
import time
import unittest
from collections.abc import Callable, Sequence
from unittest import mock

import numpy as np

from pivet.errors import Cancelled, OutputError
from pivet.files.benchfile.store import BenchFile
from pivet.files.captures import read_capture
from pivet.keeping.recorder import NOT_WRITTEN, Recorder
from pivet.listening import events as ev
from pivet.listening import lanes
from pivet.listening.heard_rows import heard_rows
from pivet.listening.limits import Limits
from pivet.listening.listener import Listener
from pivet.listening.runner import Runner
from pivet.listening.taker import Once, Taker
from pivet.listening.wires_of_source import recognised
from pivet.person.annotations import NOTHING, Labels
from pivet.readings.limits import Limit, LimitWatch
from pivet.readings.series import Sensor
from pivet.sources.folder import FolderSource
from pivet.sources.replay import ReplaySource
from pivet.sources.source import Piece
from pivet.standin.probe.loop import MadeClock
from tests.base import CAPTURES, PivetTest
from tests.night import demo_night
from tests.patience import PATIENCE_S

SEARCH = CAPTURES / "av_ow_search.vcd"


class Collects(Taker):
    """Keeps what it takes; may fail or hang at a given event."""

    def __init__(self, waits: bool = True, at: Callable[[ev.Event], None] = lambda _: None) -> None:
        self.waits, self._at = waits, at
        self.events: list[ev.Event] = []
        self.ticks = self.closed = 0
        self.threads: set[int] = set()

    def take(self, events: Sequence[ev.Event]) -> None:
        """Takes them."""
        self.threads.add(threading.get_ident())
        for event in events:
            self.events.append(event)
            self._at(event)

    def tick(self) -> None:
        """Counts."""
        self.ticks += 1

    def close(self) -> None:
        """Counts."""
        self.closed += 1

    @property
    def heard(self) -> list[int]:
        """Numbers of exchanges."""
        return [row.number for row in self.events if isinstance(row, ev.Heard)]

    @property
    def notes(self) -> list[str]:
        """What was said."""
        return [row.says for row in self.events if isinstance(row, ev.Note)]


def fails(event: ev.Event) -> None:
    """A taker's mistake."""
    if isinstance(event, ev.Heard):
        raise KeyError("no such thing")


class Takers(PivetTest):
    """A replay with several takers."""

    def run_with(self, *takers: Taker) -> Listener:
        """Plays a capture for some takers."""
        source = ReplaySource("search", read_capture(SEARCH), math.inf)
        listener = Listener(source, lambda _: recognised(source))
        runner = Runner(listener)
        for taker in takers:
            runner.add(taker)
        opened = listener.open()
        runner.say(opened)
        runner.run(lambda: False)
        return listener

    def test_all_get_the_same(self) -> None:
        """In the same order, whether by a thread or not, and each is ended once."""
        takers = [Collects(waits) for waits in (True, False, True)]
        self.run_with(*takers)
        self.assertEqual([*range(1, 10)], takers[0].heard)
        for taker in takers:
            self.assertEqual(
                [type(row) for row in takers[0].events], [type(row) for row in taker.events]
            )
            self.assertIsInstance(taker.events[0], ev.Opened)
            self.assertIsInstance(taker.events[-1], ev.Total)
            self.assertEqual(1, taker.closed)
            self.assertEqual(taker.waits, threading.get_ident() not in taker.threads)
        # One with a thread may get all there is at once, and its end.
        self.assertGreater(takers[1].ticks, 0)

    def test_last_words(self) -> None:
        """What one says when it ends is heard by those that end after it."""
        source = ReplaySource("search", read_capture(SEARCH), math.inf)
        runner = Runner(Listener(source, lambda _: recognised(source)))

        class Says(Collects):
            def close(self) -> None:
                self.say(ev.Note("these are my last words", ""))

        last = Collects(False)
        for taker in (last, Says(True)):
            runner.add(taker)
        runner.say(runner.listener.open())
        with mock.patch.object(source, "close", wraps=source.close) as closed:
            runner.run(lambda: False)
        self.assertEqual("these are my last words", last.notes[-1])
        closed.assert_called()

    def test_one_fails(self) -> None:
        """Others have all; the failure is said once, however often it happens."""
        for waits in (True, False):
            good, bad = Collects(False), Collects(waits, fails)
            bad.what = "the bad one"
            self.run_with(bad, good)
            self.assertEqual([*range(1, 10)], good.heard)
            said = [row for row in good.notes if "the bad one" in row]
            self.assertEqual(1, len(said), good.notes)
            self.assertEqual(1, bad.closed)

    def test_one_hangs(self) -> None:
        """Others go on; that it hangs is said, and that it goes on."""
        free = threading.Event()
        good, slow = Collects(True), Collects(True, lambda _: bool(free.wait(PATIENCE_S)))
        slow.what = "the slow one"
        said: list[ev.Event] = []
        with mock.patch.object(lanes, "SLOW_S", 0.1):
            ways = [lanes.Threaded(row, said.append) for row in (slow, good)]
            events = [ev.Note(f"{number}") for number in range(5)]
            until = time.monotonic() + PATIENCE_S
            while not said and time.monotonic() < until:
                for way in ways:
                    way.put(events)
                time.sleep(0.02)
            self.assertIn("the slow one hangs", said[0].says)  # type: ignore[union-attr]
            self.assertGreater(len(good.events), len(slow.events))
            free.set()
            while len(said) < 2 and time.monotonic() < until:
                ways[0].put(())
                time.sleep(0.02)
            self.assertIn("goes on", said[1].says)  # type: ignore[union-attr]
        for way in ways:
            way.close()
        self.assertEqual(len(good.events), len(slow.events))
        self.assertEqual((1, 1), (good.closed, slow.closed))

    def crowded(self, event: ev.Event) -> tuple[list[str], Collects]:
        """Of one that hangs with the first, while three hundred wait: what is said of it."""
        free, hangs = threading.Event(), threading.Event()

        def hang(_: ev.Event) -> None:
            hangs.set()
            free.wait(PATIENCE_S)

        slow, said = Collects(True, hang), list[str]()
        way = lanes.Threaded(slow, lambda row: said.append(row.says))  # type: ignore[union-attr]
        way.put([event])
        hangs.wait(PATIENCE_S)
        for _ in range(300):
            way.put([event])
        free.set()
        way.close()
        return said, slow

    def test_too_much_waits(self) -> None:
        """The older half is given up, of events or edges, and that is said."""
        edges = ev.Edges((Piece("q", np.arange(3), 9), Piece("r", np.arange(4), 9)))
        for name, most, event in (
            ("MOST_EVENTS", 100, ev.Note("")),
            ("MOST_EDGES", 7 * 100, edges),
        ):
            with mock.patch.object(lanes, name, most):
                said, slow = self.crowded(event)
            self.assertEqual(["a taker hangs: 50 events were not taken by it."] * 4, said)
            self.assertEqual((101, 1), (len(slow.events), slow.closed))

    def test_a_step_that_fails(self) -> None:
        """Whatever happens in the loop, takers have what was heard, and are ended."""
        source = ReplaySource("search", read_capture(SEARCH), math.inf)
        listener = Listener(source, lambda _: recognised(source))
        runner, taker = Runner(listener), Collects()
        runner.add(taker)
        listener.open()
        runner.step()
        with (
            mock.patch.object(listener, "step", side_effect=MemoryError),
            self.assertRaises(MemoryError),
        ):
            runner.run(lambda: False)
        self.assertEqual([*range(1, 10)], taker.heard)
        self.assertEqual(1, taker.closed)

    def test_added_and_removed(self) -> None:
        """Between two steps; what was told before is not told again."""
        source = ReplaySource("search", read_capture(SEARCH), math.inf)
        listener = Listener(source, lambda _: recognised(source))
        runner, first, second = Runner(listener), Collects(), Collects()
        stays = Collects(False)
        for taker in (first, stays):
            runner.add(taker)
        listener.open()
        runner.step()
        runner.add(second)
        runner.remove(first)
        runner.step()
        self.assertEqual((1, 0, 0), (first.closed, second.closed, stays.closed))
        runner.run(lambda: False)
        late = Collects(False)
        runner.add(late)
        runner.close()
        closed = [row.closed for row in (first, second, stays, late)]
        self.assertEqual([1, 1, 1, 1], closed)
        self.assertEqual([*range(1, 10)], stays.heard)
        self.assertEqual([], [row for row in second.heard if row in first.heard])


class Skipped(PivetTest):
    """What a recorder could not take in time."""

    def test_edges_become_a_gap(self) -> None:
        """With their number; exchanges are kept."""
        source = ReplaySource("search", read_capture(SEARCH), math.inf)
        listener = Listener(source, lambda _: recognised(source))
        opened = listener.open()
        events: list[ev.Event] = []
        while not listener.over:
            events += listener.step(0.0)
        bench = BenchFile.create(self.folder / "a.pivet")
        self.addCleanup(bench.close)
        recorder = Recorder(bench, opened.about, "made up", listener.calendar)
        recorder.take(list(recorder.skip(events)))
        recorder.close()
        (line,) = bench.lines(1)
        (gap,) = bench.gaps(1, line)
        heard = sum(
            piece.edges_ns.size
            for event in events
            if isinstance(event, ev.Edges)
            for piece in event.pieces
        )
        self.assertEqual((heard, NOT_WRITTEN), (gap.lost, gap.why))
        self.assertEqual(9, bench.count(1))


class LimitsOverReadings(PivetTest):
    """Limits, without a file and without a window."""

    def test_crossed_and_back(self) -> None:
        """Told once, at once; under other limits anew; without any nothing is looked at."""
        capture = demo_night()
        wire = next(row for row in capture.wires if "shelf_A" in row.label)
        sensor = Sensor("shelf", "", "temperature")
        given = [NOTHING]
        limits = Limits(lambda t_ns: t_ns, lambda: Labels(annotations=given[0]))
        said: list[ev.Event] = []
        limits.say = said.append
        events = [ev.Heard("shelf", index + 1, wire, index, 1) for index in range(len(wire))]
        limits.take(events)
        self.assertEqual([], said)
        track = next(row for row in wire.tracks if row.quantity == "temperature")
        values = track.values[track.given]
        line = float(np.median(values))
        given[0] = NOTHING.limited(sensor, Limit(None, line, 0.05))
        for first in range(0, len(events), 7):
            limits.take(events[first : first + 7])
        watch = LimitWatch(Limit(None, line, 0.05))
        times = wire.exchanges.start_ns[track.at[track.given]]
        wanted = watch.feed(times, values)
        self.assertEqual(wanted, [row.told.crossing for row in said])  # type: ignore[union-attr]
        self.assertGreater(len(said), 0)
        limits.take([ev.Heard("shelf", 1, wire, 0, 1, True), ev.Note("")])
        self.assertEqual(len(wanted), len(said))
        other = Limit(None, line + 0.3, 0.05)
        given[0] = NOTHING.limited(sensor, other)
        limits.take(events)
        wanted += LimitWatch(other).feed(times, values)
        self.assertEqual(wanted, [row.told.crossing for row in said])  # type: ignore[union-attr]

    def test_of_what(self) -> None:
        """What follows from readings has limits too, and each device its own."""
        for name, device, quantity in (
            ("shelf_A", "", "dew point"),
            ("brine_vat", "", "fill"),
            ("wheels", "28-0000061b2c7d", "temperature"),
        ):
            wire = next(row for row in demo_night().wires if name in row.label)
            events = [ev.Heard(name, index + 1, wire, index, 1) for index in range(len(wire))]
            rows = [row for event in events for row in heard_rows(event, 0, Labels(), True)]
            values = [
                cell.value
                for row in rows
                for cell in row.cells
                if (row.device, cell.quantity) == (device, quantity) and cell.value is not None
            ]
            given = NOTHING.limited(Sensor(name, device, quantity), Limit(None, np.median(values)))
            limits = Limits(lambda t_ns: t_ns, lambda given=given: Labels(annotations=given))
            with mock.patch.object(limits, "say") as said:
                limits.take(events)
            said.assert_called()


class SaidOnce(unittest.TestCase):
    """A trouble is said once until it changes."""

    def test_of_a_taker(self) -> None:
        """Whatever it does wrong."""
        said: list[ev.Event] = []
        guard = lanes.Guard(Collects(), said.append)
        for error in [OutputError("no room", "make some")] * 3 + [KeyError("a")] * 3:
            guard.call(mock.Mock(side_effect=error))
        says = ["no room: make some.", "a taker made a mistake (KeyError: 'a')."]
        self.assertEqual([ev.Note(row) for row in says], said)

    def test_once(self) -> None:
        """A short success does not make it new; a long one is told."""
        clock = MadeClock()
        once = Once(clock.seconds)
        self.assertFalse(once.worked())
        self.assertEqual("full", once.failed("full"))
        self.assertEqual("", once.failed("full"))
        self.assertFalse(once.worked())
        clock.sleep(5.0)
        self.assertFalse(once.worked())
        self.assertEqual("", once.failed("full"))
        self.assertEqual("gone", once.failed("gone"))
        self.assertFalse(once.worked())
        clock.sleep(9.0)
        self.assertFalse(once.worked())
        clock.sleep(1.0)
        self.assertTrue(once.worked())
        self.assertFalse(once.worked())
        self.assertEqual("gone", once.failed("gone"))


class OneCalendar(PivetTest):
    """The calendar beside a source's clock."""

    def test_a_replay_has_one_zero(self) -> None:
        """At any pace, and whatever the computer's calendar does meanwhile."""
        for pace in (0.5, 1.0, 40.0, math.inf):
            clock, wall = MadeClock(), MadeClock()
            source = ReplaySource("a", read_capture(SEARCH), pace, clock.seconds, clock.sleep)
            listener = Listener(
                source,
                lambda _, s=source: recognised(s),
                clock.seconds,
                clock.sleep,
                lambda w=wall: w.now_ns,
            )
            wall.now_ns += 10**9
            listener.open()
            zero = listener.calendar.zero_ns
            self.assertEqual(wall.now_ns, zero)
            while not listener.over:
                clock.sleep(0.07)
                wall.now_ns += 3_600 * 10**9
                list(listener.step(0.0))
                self.assertEqual(zero, listener.calendar.zero_ns)

    def test_a_live_source_follows(self) -> None:
        """Its zero follows the calendar."""
        wall = MadeClock()
        listener = Listener(FolderSource(self.folder), lambda _: [], calendar=wall)
        listener.open()
        before = listener.calendar.zero_ns
        wall.now_ns += 10**12
        self.assertEqual([], list(listener.step(0.0)))
        self.assertGreater(listener.calendar.zero_ns, before + 10**12 - 10**10)

    def test_the_file_tells_the_same(self) -> None:
        """`bench info`, the table `clock` and the documented question agree."""
        source = ReplaySource("a", read_capture(SEARCH), math.inf)
        listener = Listener(source, lambda _: recognised(source))
        opened = listener.open()
        bench = BenchFile.create(self.folder / "a.pivet")
        self.addCleanup(bench.close)
        recorder = Recorder(bench, opened.about, "made up", listener.calendar)
        while not listener.over:
            recorder.take(list(listener.step(0.0)))
            recorder.keep(now=True)
        recorder.close()
        (capture,) = bench.captures()
        for at, wall_ns in bench.rows("SELECT t_ns, wall_ns FROM clock"):
            self.assertEqual(capture.began_ns + at, wall_ns)


class Folders(PivetTest):
    """A watched folder, listened to."""

    def test_it_pauses_and_ends(self) -> None:
        """Between any two pieces of work; told to end, it searches no longer, and keeps edges."""
        clock, ends, calls = MadeClock(), [False], list[float]()

        def between(share: float) -> None:
            calls.append(share)
            if ends[0]:
                raise Cancelled

        source = FolderSource(self.folder, clock.seconds)
        listener = Listener(source, lambda _: [], clock.seconds, clock.sleep, between=between)
        listener.open()

        def heard(name: str) -> list[str]:
            (self.folder / f"{name}.vcd").write_bytes((CAPTURES / f"{name}.vcd").read_bytes())
            pauses.clear()
            told = []
            for _ in range(6):
                clock.sleep(0.5)
                calls.clear()
                new = [type(row).__name__ for row in listener.step(0.0)]
                told += new
                pauses.append((calls.count(0.0) - new.count("Heard"), max(calls)))
            return told

        pauses: list[tuple[int, float]] = []
        for wires, name in enumerate(("av_ow_search", "av_dht22", "iv_echo_range"), 1):
            self.assertIn("Heard", heard(name))
            # For each exchange, to begin with, and for each wire when it hears, is told of, ends,
            # and is told of then.
            self.assertEqual(
                ((1 + 4 * wires, 1.0), (1 + 2 * wires, 0.0)), (max(pauses), pauses[-1])
            )
        wires = len(listener.wires)
        ends[0] = True
        told = heard("iv_dht22_cave")
        self.assertEqual((True, False), ("Edges" in told, "Heard" in told))
        self.assertEqual(wires, len(listener.wires))
