"""GPIO lines of the kernel as a source."""

import errno
import time
from types import SimpleNamespace
from typing import Any

from pivet.signal.trace import Level
from pivet.sources import gpio
from pivet.sources.ask import Ask
from pivet.sources.gpio import GpioSource
from pivet.sources.source import SourceError
from tests.base import PivetTest
from tests.sources.heard import edges_of


class FakeKernel:
    """The few calls of the gpiod package that are used, on made-up lines."""

    def __init__(self) -> None:
        names = ("Direction", "Drive", "Bias", "Edge", "Clock", "Value")
        words = (
            "INPUT OUTPUT",
            "OPEN_DRAIN PUSH_PULL",
            "PULL_UP AS_IS DISABLED",
            "BOTH",
            "MONOTONIC",
        )
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
