"""Listening as a piece of work: orders, news, what is recorded, what is refused."""

import itertools
import threading
from collections.abc import Callable, Iterator, Sequence
from types import SimpleNamespace
from unittest import mock

from pivet.bench.live_bench import LiveBench, Mailbox, News, Window
from pivet.errors import OutputError
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.keeping.kept import kept_captures
from pivet.listening import events as ev
from pivet.listening.listener import Listener
from pivet.listening.setup import WireSetup
from pivet.sources.source import About, LineInfo, SourceError
from tests.base import PivetTest
from tests.listening.cave import CaveTest, wire
from tests.patience import PATIENCE_S


class At:
    """Gives orders at moments of the made clock, one of them to stop."""

    def __init__(self, test: "ListeningTest", orders: Sequence[tuple[float, Callable[[], None]]]):
        self.test, self.orders = test, list(orders)
        self.began = test.clock.seconds()

    def __call__(self, *_: object) -> None:
        now = self.test.clock.seconds() - self.began
        while self.orders and now >= self.orders[0][0]:
            self.orders.pop(0)[1]()


class ListeningTest(CaveTest):
    """Runs a piece of listening on the made clock, in this thread."""

    def setUp(self) -> None:
        super().setUp()
        self.bench = BenchFile.create(self.folder / "night.pivet")
        self.addCleanup(self.bench.close)
        self.news: list[News] = []
        self.at: Callable[[], None] = lambda: None

    def prepare(self, *setups: WireSetup) -> LiveBench:
        """Not yet begun."""
        self.listener = Listener(self.source, lambda _: setups, self.clock.seconds, self.sleep)
        self.listening = LiveBench(self.listener, self.bench, "made up", lambda: None)
        return self.listening

    def sleep(self, seconds: float) -> None:
        """Time passes while the source is away, too."""
        self.clock.sleep(seconds)
        self.at()

    def run_for(self, seconds: float, *orders: tuple[float, Callable[[], None]]) -> None:
        """Runs so long; gives orders meanwhile."""
        at = At(self, [*orders, (seconds, self.listening.stop)])
        put = self.listening.mailbox.put

        def heard(news: News) -> None:
            self.news.append(news)
            put(news)

        with (
            mock.patch.object(self.listening.mailbox, "put", heard),
            mock.patch("pivet.keeping.recorder.KEEP_S", 0.0),
        ):
            self.listening.begin()
            step = self.listener.step

            def stepped(timeout_s: float) -> Iterator[ev.Event]:
                yield from step(timeout_s)
                self.at()

            self.at = at
            with mock.patch.object(self.listener, "step", stepped):
                self.listening.run()

    def told(self, kind: type[ev.Event]) -> list[ev.Event]:  # type: ignore[valid-type]
        """Events of a kind, in order."""
        return [event for news in self.news for event in news.events if isinstance(event, kind)]

    def notes(self) -> str:
        """What went wrong."""
        return " | ".join(event.says for event in self.told(ev.Note))


class Orders(ListeningTest):
    """What a person can have done while it listens."""

    def test_add_rest_wake(self) -> None:
        """A wire more, one less, the same again: numbers go on, others do not notice."""
        self.prepare(wire("shelf_A", "dht22"))
        order = self.listening.order
        self.run_for(
            24.0,
            (4.0, lambda: order(lambda to: to.add(wire("wash_room", "dht11")))),
            (10.0, lambda: order(lambda to: to.rest("wash_room", True))),
            (16.0, lambda: order(lambda to: to.rest("wash_room", False))),
        )
        self.assertEqual("", self.notes())
        heard = [event for event in self.told(ev.Heard) if event.wire == "wash_room"]
        numbers = [event.number for event in heard if not event.revised]
        self.assertEqual(list(range(1, len(numbers) + 1)), numbers)
        starts = [int(row.shown.exchanges.start_ns[row.index]) / 1e9 for row in heard]
        pauses = [b - a for a, b in itertools.pairwise(starts)]
        self.assertGreater(max(pauses), 5.5)
        self.assertEqual(1, len(self.bench.gaps(1, "cave.wash_room")))
        self.assertEqual([], self.bench.gaps(1, "cave.shelf_A"))
        (capture,) = kept_captures(self.bench)
        ends = {row.title: row.end for row in capture.wires}
        self.assertEqual(numbers[-1], ends["wash_room"])

    def test_refused_orders(self) -> None:
        """Each is a note; listening goes on as it was."""
        self.prepare(wire("shelf_A", "dht22"))
        order = self.listening.order
        self.run_for(
            8.0,
            (1.0, lambda: order(lambda to: to.add(wire("shelf_A", "dht22")))),
            (1.0, lambda: order(lambda to: to.add(WireSetup("x", ("no_such_line",))))),
            (1.0, lambda: order(lambda to: to.change("shelf_A", 0.5, 1))),
            (1.0, lambda: order(lambda to: to.rest("cellar", True))),
            (2.0, self.loop.crash),
            (2.5, lambda: order(lambda to: to.add(wire("wash_room", "dht11")))),
        )
        said = self.notes()
        for part in (
            "two wires are called 'shelf_A'",
            "no line 'no_such_line'",
            "2 s or more",
            "no wire is called 'cellar'",
        ):
            self.assertIn(part, said)
        self.assertEqual(["shelf_A"], [row.name for row in self.news[-1].wires])

    def test_pace(self) -> None:
        """Asked more seldom, only listened to, asked again."""
        self.prepare(wire("shelf_A", "dht22"))
        order = self.listening.order
        self.run_for(
            40.0,
            (10.0, lambda: order(lambda to: to.change("shelf_A", 5.0, 0))),
            (22.0, lambda: order(lambda to: to.change("shelf_A", None, 0))),
            (34.0, lambda: order(lambda to: to.change("shelf_A", 0.0, 0))),
        )
        starts = [
            int(row.shown.exchanges.start_ns[row.index]) / 1e9
            for row in self.told(ev.Heard)
            if not row.revised
        ]

        def between(first: float, last: float) -> int:
            return sum(first <= row < last for row in starts)

        self.assertGreaterEqual(between(0, 10), 4)
        self.assertEqual(3, between(10.1, 22))
        self.assertEqual(0, between(23, 34))
        self.assertGreaterEqual(between(34, 40), 2)

    def test_look(self) -> None:
        """What is on a line is found out without making a wire of it, or disturbing others."""
        self.prepare(wire("shelf_A", "dht22"))
        guests = [
            WireSetup("? wheels", ("wheels",), None, 0.0),
            WireSetup("? spare", ("spare",), None, 0.0),
            WireSetup("? cellar_door", ("cellar_door",), None, 0.0),
        ]
        orders = [
            (1.0, lambda row=row: self.listening.order(lambda to: to.look(row))) for row in guests
        ]
        self.run_for(20.0, *orders)
        found = {event.wire: event.found for event in self.told(ev.Known)}
        self.assertEqual(4, len(found["? wheels"].codes))
        self.assertIsNone(found["? spare"].sheet)
        self.assertIn("somebody else", found["? cellar_door"].says)
        self.assertEqual({"shelf_A"}, {event.wire for event in self.told(ev.Heard)})
        self.assertEqual(["shelf_A"], [row.name for row in self.news[-1].wires])
        self.assertEqual([], self.bench.gaps(1, "cave.shelf_A"))


class Told(ListeningTest):
    """What is told, and recorded."""

    def test_state(self) -> None:
        """Asks, edges, silence and its reason, and that the source is away."""
        self.prepare(wire("shelf_A", "dht22"), wire("wheels", "onewire"))
        code = f"28-{0x061B2C7D:012x}"
        self.run_for(
            20.0,
            (5.0, lambda: self.cave.plug("wheel_2", False, self.now_us)),
            (14.0, self.loop.crash),
        )
        states = [news for news in self.news if news.here]
        wheels = {row.name: row for row in states[-1].wires}["wheels"]
        self.assertEqual({code}, {*wheels.silent})
        self.assertIn("rests high, as it should", wheels.look)
        self.assertEqual(2.0, wheels.every_s)
        asks = [next(row.asks for row in news.wires if row.name == "shelf_A") for news in states]
        self.assertEqual(sorted(asks), asks)
        self.assertGreaterEqual(asks[-1], 6)
        self.assertTrue(any(not news.here for news in self.news))
        self.assertTrue(self.news[-1].over)

    def test_how_often(self) -> None:
        """At once while something moves, or is to be told; four times a second else."""
        wire_row = SimpleNamespace(asks=1, heard_edges=2)
        listener = mock.Mock(wires=[wire_row])
        told: list[float] = []
        now = 100.0
        with (
            mock.patch("pivet.bench.live_bench.time") as clock,
            mock.patch.object(Window, "_put", lambda *_, **__: told.append(now)),
        ):
            window = Window(listener, mock.Mock())
            for step in range(1, 200):
                now = 100 + step / 100
                clock.monotonic.return_value = now
                if 50 <= step < 70:
                    wire_row.heard_edges += 1
                    wire_row.asks += 1
                window.tick()
        idle = [now for now in told if now < 100.5]
        busy = [now for now in told if 100.5 <= now < 100.7]
        self.assertEqual(2, len(idle))
        self.assertIn(len(busy), range(4, 8))
        self.assertIn(len(told) - len(busy) - len(idle), range(5, 7))

    def test_a_full_disk(self) -> None:
        """Said once; listening goes on, and what waited is written when there is room again."""
        self.prepare(wire("shelf_A", "dht22"))
        tried = threading.Event()

        def refused() -> None:
            tried.set()
            raise OutputError("full", "wait")

        def has_room() -> None:
            # The thread that writes has its own pace, whatever the made clock says.
            self.assertTrue(tried.wait(PATIENCE_S))
            full.stop()

        full = mock.patch.object(self.bench, "writing", side_effect=refused)
        self.run_for(20.0, (5.0, full.start), (12.0, has_room))
        self.assertEqual("full: wait.", self.notes())
        (capture,) = kept_captures(self.bench)
        told = [row for row in self.told(ev.Heard) if not row.revised]
        self.assertEqual(len(told), capture.wires[0].end)

    def test_not_there(self) -> None:
        """A source that cannot be opened is refused, and nothing stands in the bench."""
        self.loop.plugged = False
        with self.assertRaises(SourceError):
            self.prepare(wire("shelf_A", "dht22")).begin()
        self.assertEqual([], self.bench.captures())


class Post(PivetTest):
    """The box between two threads."""

    def test_nothing_is_lost(self) -> None:
        """News that nobody has taken are joined; the bell rings once for all of them."""
        rung: list[int] = []
        box = Mailbox(lambda: rung.append(1))
        about = About("a", (LineInfo("x"),), 1)
        for number in range(3):
            opened = ev.Opened(replace(about, name=str(number)), again=False)
            box.put(News((opened,), (), True, False, 0, number))
        self.assertEqual([1], rung)
        news = box.take()
        assert news is not None
        self.assertEqual(["0", "1", "2"], [event.about.name for event in news.events])
        self.assertEqual(2, news.now_ns)
        self.assertIsNone(box.take())
