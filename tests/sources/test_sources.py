"""Replay, watched folder, GPIO lines, ports: sources beside the probe."""

import errno
import math
import os
import shutil
import time
from types import SimpleNamespace
from typing import Any

import numpy as np

from pivet.bench.demo import demo_capture
from pivet.files.captures import write_capture
from pivet.signal.trace import Level, Line, Trace
from pivet.sources import gpio
from pivet.sources.ask import Ask
from pivet.sources.folder import FolderSource
from pivet.sources.gpio import GpioSource
from pivet.sources.link import messages as msg
from pivet.sources.link.frames import FrameReader, frame_bytes
from pivet.sources.port import Port, refusal
from pivet.sources.probe import ProbeSource
from pivet.sources.registry import make_source
from pivet.sources.replay import ReplaySource
from pivet.sources.source import Batch, SourceEnded, SourceError, SourceLost
from pivet.standin.live.cave import make_cave
from pivet.standin.probe.loop import Loop, MadeClock
from tests.base import CAPTURES, PivetTest


def edges_of(batches: list[Batch], line: str) -> np.ndarray:
    """All edges that came of a line."""
    pieces = [row.edges_ns for batch in batches for row in batch.pieces if row.line == line]
    return np.concatenate(pieces)


class Replay(PivetTest):
    """A capture played again."""

    def test_as_fast_as_it_goes(self) -> None:
        """Every edge comes once, in order, and then it is over."""
        trace = demo_capture().trace
        source = ReplaySource("night", trace, math.inf)
        source.open()
        names = [line.name for line in trace.lines]
        source.listen(names)
        batches = []
        with self.assertRaises(SourceEnded):
            while True:
                batches.append(source.read(0.0))
        for line in trace.lines:
            np.testing.assert_array_equal(
                line.edges_ns - trace.start_ns, edges_of(batches, line.name)
            )

    def test_at_a_pace(self) -> None:
        """Four times as fast: after a second, four seconds of it."""
        clock = MadeClock()
        line = Line("a", Level.HIGH, np.arange(1, 11, dtype=np.int64) * 10**9)
        source = ReplaySource("a", Trace((line,), 0, 11 * 10**9, 100), 4.0, clock.seconds)
        source.open()
        source.listen(["a"])
        batches = [source.read(0.0)]
        clock.now_ns += 10**9
        batches.append(source.read(0.0))
        self.assertEqual(4, edges_of(batches, "a").size)
        self.assertEqual(4 * 10**9, source.now_ns())

    def test_wrong_wishes(self) -> None:
        """A pace of nothing, a line that is not there."""
        trace = demo_capture().trace
        with self.assertRaisesRegex(SourceError, "pace"):
            ReplaySource("night", trace, 0)
        with self.assertRaisesRegex(SourceError, "no line 'x'"):
            ReplaySource("night", trace).listen(["x"])


class Folder(PivetTest):
    """A folder into which an instrument drops captures."""

    def setUp(self) -> None:
        super().setUp()
        self.clock = MadeClock()
        self.source = FolderSource(self.folder, clock=self.clock.seconds)

    def later(self) -> Batch:
        """A look, a second later."""
        self.source.read(0.0)
        self.clock.now_ns += 10**9
        return self.source.read(0.0)

    def test_only_finished_files(self) -> None:
        """Old, hidden and growing files are left alone; a finished one is taken once."""
        shutil.copy(CAPTURES / "av_dht22.vcd", self.folder / "old.vcd")
        self.source.open()
        self.assertTrue(self.later().empty)
        growing = self.folder / "new.vcd"
        text = (CAPTURES / "av_dht22.vcd").read_text()
        growing.write_text(text[:500])
        self.source.read(0.0)
        self.clock.now_ns += 5 * 10**8
        growing.write_text(text)
        self.assertTrue(self.source.read(0.0).empty)
        self.clock.now_ns += 5 * 10**8
        self.assertTrue(self.source.read(0.0).empty)
        self.clock.now_ns += 5 * 10**8
        batch = self.source.read(0.0)
        self.assertTrue(batch.pieces)
        self.assertEqual(("new.vcd was taken in.",), batch.notes)
        self.assertTrue(self.later().empty)

    def test_second_capture_stands_behind_the_first(self) -> None:
        """With a gap between; a line keeps its name."""
        self.source.open()
        self.source.listen(["data"])
        trace = Trace((Line("top.data", Level.HIGH, np.array([5, 9])),), 0, 10**9, 1)
        write_capture(trace, self.folder / "a.vcd")
        first = self.later().pieces[0]
        write_capture(trace, self.folder / "b.vcd")
        second = self.later().pieces[0]
        self.assertEqual(("data", "data"), (first.line, second.line))
        assert second.gap is not None
        self.assertEqual(first.known_until_ns, second.gap.start_ns)
        self.assertGreater(int(second.edges_ns[0]), first.known_until_ns)

    def test_unreadable(self) -> None:
        """One sentence, and watching goes on."""
        self.source.open()
        (self.folder / "bad.csv").write_text("nothing at all\n")
        self.assertIn("bad.csv", self.later().notes[0])
        shutil.copy(CAPTURES / "av_dht22.vcd", self.folder / "good.vcd")
        self.assertTrue(self.later().pieces)

    def test_gone(self) -> None:
        """A folder that is not there, or goes away."""
        with self.assertRaisesRegex(SourceError, "no folder"):
            FolderSource(self.folder / "none").open()
        inner = self.folder / "in"
        inner.mkdir()
        source = FolderSource(inner)
        source.open()
        inner.rmdir()
        with self.assertRaises(SourceLost):
            source.read(0.0)


class FakeKernel:
    """The few calls of the gpiod package that are used, on made-up lines."""

    def __init__(self) -> None:
        names = ("Direction", "Drive", "Bias", "Edge", "Clock", "Value")
        words = ("INPUT OUTPUT", "OPEN_DRAIN PUSH_PULL", "PULL_UP AS_IS", "BOTH", "MONOTONIC")
        values = (*words, "ACTIVE INACTIVE")
        self.line = SimpleNamespace(
            **{
                name: SimpleNamespace(**{word: word for word in row.split()})
                for name, row in zip(names, values, strict=True)
            }
        )
        self.events: list[Any] = []
        self.did: list[Any] = []
        self.error: OSError | None = None

    def is_gpiochip_device(self, _path: str) -> bool:
        return True

    def LineSettings(self, **settings: Any) -> SimpleNamespace:
        return SimpleNamespace(**settings)

    def Chip(self, _path: str) -> Any:
        if self.error is not None:
            raise self.error
        lines = [("DQ", False, ""), ("", False, ""), ("LED", True, "led0")]
        infos = [
            SimpleNamespace(name=name, offset=number, used=used, consumer=user)
            for number, (name, used, user) in enumerate(lines)
        ]

        class Chip:
            def __enter__(self) -> "Chip":
                return self

            def __exit__(self, *_: object) -> None:
                pass

            def get_info(self) -> SimpleNamespace:
                return SimpleNamespace(num_lines=len(infos))

            def get_line_info(self, offset: int) -> SimpleNamespace:
                return infos[offset]

        return Chip()

    def request_lines(self, _path: str, **wishes: Any) -> "FakeKernel":
        self.did.append(("request", wishes["config"]))
        return self

    def get_value(self, _offset: int) -> str:
        return "ACTIVE"

    def set_value(self, offset: int, value: str) -> None:
        self.did.append((offset, value, time.monotonic_ns()))

    def reconfigure_lines(self, config: dict[int, SimpleNamespace]) -> None:
        self.did.append(("reconfigure", config[0].direction))

    def wait_edge_events(self, _timeout: object) -> bool:
        if self.error is not None:
            raise self.error
        return bool(self.events)

    def read_edge_events(self) -> list[Any]:
        events, self.events = self.events, []
        return events

    def release(self) -> None:
        self.did.append(("release",))

    def edge(self, rising: bool, at_ns: int, number: int) -> None:
        """An event of the first line."""
        kinds = SimpleNamespace(RISING_EDGE="up", FALLING_EDGE="down")
        self.events.append(
            SimpleNamespace(
                line_offset=0,
                Type=kinds,
                event_type="up" if rising else "down",
                timestamp_ns=at_ns,
                line_seqno=number,
            )
        )


class Gpio(PivetTest):
    """Lines of the computer itself."""

    def setUp(self) -> None:
        super().setUp()
        self.kernel = FakeKernel()
        self.source = GpioSource("gpiochip0", kernel=self.kernel)
        self.addCleanup(self.source.close)

    def test_lines(self) -> None:
        """By name, or by chip and number; those in use say by whom."""
        about = self.source.open()
        self.assertEqual(["DQ", "gpiochip0.1", "LED"], [row.name for row in about.lines])
        with self.assertRaisesRegex(SourceError, "used by led0"):
            self.source.listen(["LED"])

    def test_edges_with_the_kernel_s_times(self) -> None:
        """Both edges, by their stamps; a missing number is a gap with its count."""
        self.source.open()
        self.source.listen(["DQ"])
        zero = self.source._zero
        now = time.monotonic_ns()
        for number, (rising, at) in enumerate(((False, 10), (True, 30), (False, 50)), 1):
            self.kernel.edge(rising, now + at * 1000, number)
        self.kernel.edge(True, now + 900_000, 6)
        batch = self.source.read(0.0)
        edges = edges_of([batch], "DQ") + zero - now
        self.assertEqual([10_000, 30_000, 50_000, 900_000], edges.tolist())
        gaps = [row.gap for row in batch.pieces if row.gap is not None and row.gap.why]
        self.assertEqual([2], [gap.lost for gap in gaps])
        self.assertEqual(Level.HIGH, batch.pieces[0].gap.level if batch.pieces[0].gap else None)

    def test_asks_are_measured(self) -> None:
        """An ask is driven by hand; how late its end came is told."""
        self.source.open()
        self.source.listen(["DQ"])
        self.source.read(0.0)
        self.source.ask(Ask("DQ", (2000,)))
        batch = self.source.read(0.0)
        (done,) = batch.asked
        self.assertGreaterEqual(done.end_ns - done.begin_ns, 2_000_000)
        self.assertGreaterEqual(done.late_us, 0.0)
        self.assertEqual([done.begin_ns, done.end_ns], edges_of([batch], "DQ").tolist())
        kinds = [row[1] for row in self.kernel.did if row[0] == "reconfigure"]
        self.assertEqual(["OUTPUT", "INPUT"], kinds)

    def test_lateness_is_told(self) -> None:
        """An ask whose end came late is told, and again only when it gets twice as bad."""
        self.source.open()
        self.source.listen(["DQ"])
        told = []
        for late_us in (10.0, 150.0, 160.0, 400.0):
            self.source._worst_us = late_us
            told.append(self.source.read(0.0).notes)
        self.assertEqual([0, 1, 0, 1], [len(row) for row in told])
        self.assertIn("400 µs later", told[3][0])

    def test_an_answer_that_began_unseen(self) -> None:
        """Edges missed while the computer drove are told as that, not as a full memory."""
        self.source.open()
        self.source.listen(["DQ"])
        self.source.read(0.0)
        self.kernel.edge(False, time.monotonic_ns(), 7)
        self.kernel.edge(True, time.monotonic_ns() + 1000, 8)
        self.source.read(0.0)
        self.source.ask(Ask("DQ", (1000,)))
        self.kernel.edge(True, time.monotonic_ns() + 100_000, 1)
        gaps = [row.gap for row in self.source.read(0.0).pieces if row.gap is not None]
        self.assertEqual([gpio.BLIND], [gap.why for gap in gaps])
        self.assertEqual([None], [gap.lost for gap in gaps])

    def test_slots_are_refused(self) -> None:
        """1-Wire slots are beyond a scheduler; it is said."""
        self.source.open()
        self.source.listen(["DQ"])
        with self.assertRaisesRegex(SourceError, "scheduler"):
            self.source.ask(Ask("DQ", (480, 500, 6, 64)))

    def test_no_right_and_no_chip(self) -> None:
        """One sentence each, with the group to join."""
        self.kernel.error = PermissionError(errno.EACCES, "Permission denied")
        with self.assertRaisesRegex(SourceError, "join the group"):
            self.source.open()
        real = GpioSource("gpiochip-none")
        with self.assertRaisesRegex(SourceError, "no GPIO chip"):
            real.open()

    def test_the_real_package(self) -> None:
        """What is asked of the package is there, with no chip to try it on."""
        import gpiod

        self.source._kernel = gpiod
        for output in (False, True):
            settings = self.source._settings(output)
            self.assertIn(
                settings.direction, (gpiod.line.Direction.INPUT, gpiod.line.Direction.OUTPUT)
            )
        for name in ("Chip", "request_lines", "is_gpiochip_device"):
            self.assertTrue(hasattr(gpiod, name))
        for name in ("set_value", "get_value", "reconfigure_lines", "wait_edge_events", "release"):
            self.assertTrue(hasattr(gpiod.LineRequest, name))


class FakePort:
    """A port with something else at its other end."""

    def __init__(self, answer: Any) -> None:
        self._answer, self._out, self.reader = answer, b"", FrameReader()

    def read(self, timeout_s: float) -> bytes:
        out, self._out = self._out, b""
        if not out:
            time.sleep(min(timeout_s, 0.01))
        return out

    def write(self, data: bytes) -> None:
        for frame in self.reader.feed(data):
            self._out += self._answer(frame)

    def close(self) -> None:
        pass


class Probe(PivetTest):
    """What can be wrong with a probe, each in a sentence."""

    def refused(self, answer: Any) -> str:
        """Why a probe that answers so cannot be opened."""
        source = ProbeSource("/dev/x", 115_200, lambda _url, _baud: FakePort(answer))
        with self.assertRaises(SourceError) as caught:
            source.open()
        return str(caught.exception)

    def test_other_devices(self) -> None:
        """Silence, another protocol, another version."""
        self.assertIn("nobody there answers", self.refused(lambda _: b""))
        self.assertIn("no probe link", self.refused(lambda _: b"ready\r\n\0ok\0"))
        newer = msg.IAm(2, 3, 1, 1000, 1, 1, 1, 1, "x")
        says = self.refused(lambda _: frame_bytes(newer.KIND, 0, newer.pack()[:2]))
        self.assertIn("version 2", says)
        self.assertIn("newer Pivet", says)

    def test_falls_silent(self) -> None:
        """A probe that says nothing for 3 s is gone."""
        clock = MadeClock()
        loop = Loop(list(make_cave().circuits.values()), clock)
        source = ProbeSource("loop", None, loop.open_port, clock)
        source.open()
        loop.spoil = lambda _: b""
        with self.assertRaisesRegex(SourceLost, "not spoken for 3 s"):
            for _ in range(200):
                source.read(0.05)

    def test_restarts_unseen(self) -> None:
        """A probe that starts anew without leaving its port no longer listens: that is seen."""
        clock = MadeClock()
        loop = Loop(list(make_cave().circuits.values()), clock)
        source = ProbeSource("loop", None, loop.open_port, clock)
        source.open()
        source.listen(["shelf_A"])
        for _ in range(20):
            source.read(0.05)
        beat = msg.ProbeBeat(10**9, 0, {})
        loop.spoil = lambda _: frame_bytes(beat.KIND, 0, beat.pack())
        with self.assertRaisesRegex(SourceLost, "has restarted"):
            for _ in range(20):
                source.read(0.05)

    def test_refused_asks(self) -> None:
        """A second ask on a busy line is refused; the first goes on and is told once."""
        clock = MadeClock()
        loop = Loop(list(make_cave().circuits.values()), clock)
        source = ProbeSource("loop", None, loop.open_port, clock)
        source.open()
        source.listen(["shelf_A"])
        first = source.ask(Ask("shelf_A", (1000,)))
        second = source.ask(Ask("shelf_A", (1000,)))
        done = {row.ident: row.refused for _ in range(20) for row in source.read(0.02).asked}
        self.assertEqual({first, second}, set(done))
        self.assertEqual("", done[first])
        self.assertIn("busy", done[second])
        self.assertEqual({}, source._asks)

    def test_lines_that_cannot(self) -> None:
        """Driving high what must not be; lines that are not there; asks that are too long."""
        clock = MadeClock()
        loop = Loop(list(make_cave().circuits.values()), clock)
        source = ProbeSource("loop", None, loop.open_port, clock)
        source.open()
        with self.assertRaisesRegex(SourceError, "driven high"):
            source.ask(Ask("shelf_A", (10,), Level.HIGH))
        with self.assertRaisesRegex(SourceError, "no line 'moon'"):
            source.listen(["moon"])
        long = Ask("wheels", tuple(range(1, 700)))
        self.assertFalse(source.fits(long))
        with self.assertRaisesRegex(SourceError, "too long"):
            source.ask(long)

    def test_ports(self) -> None:
        """No port, no right, taken, nobody there."""
        with self.assertRaisesRegex(SourceError, "no port"):
            Port("/dev/no-such-port", 115_200)
        with self.assertRaisesRegex(SourceError, "nobody answers"):
            Port("socket://127.0.0.1:9", 115_200)
        told = str(refusal("/dev/null", PermissionError(errno.EACCES, "x")))
        self.assertIn("join the group", told)
        self.assertIn("taken", str(refusal("/dev/x", OSError(errno.EBUSY, "x"))))
        with self.assertRaisesRegex(SourceError, "names no source"):
            make_source("moonshine")

    def test_taken_port(self) -> None:
        """Two programs cannot use one port."""
        master, slave = os.openpty()
        self.addCleanup(os.close, master)
        path = os.ttyname(slave)
        first = Port(path, 115_200)
        self.addCleanup(os.close, slave)
        self.addCleanup(first.close)
        with self.assertRaisesRegex(SourceError, "taken"):
            Port(path, 115_200)
