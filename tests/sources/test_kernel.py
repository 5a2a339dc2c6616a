"""Sensors that the kernel reads, on a made tree."""

import os
import time
from pathlib import Path

from pivet.decode.checks import crc8_of
from pivet.listening import events as ev
from pivet.listening.listener import Listener
from pivet.listening.wires_of_source import everything
from pivet.sources.kernel import KernelSource
from pivet.sources.registry import make_source
from pivet.sources.source import SourceError
from tests.base import PivetTest

WHEEL_1, WHEEL_2 = "28-0000051b2c7d", "28-0000061b2c7d"


class KernelTest(PivetTest):
    """Has a tree as the kernel makes it."""

    def setUp(self) -> None:
        super().setUp()
        self.root = self.folder / "bus"
        (self.root / "w1" / "devices").mkdir(parents=True)
        (self.root / "iio" / "devices").mkdir(parents=True)

    def put(self, code: str, celsius: float, spoiled: bool = False, pad: bytes = b"") -> Path:
        """A thermometer under its bus, with the kernel's two lines."""
        real = self.folder / "devices" / "w1_bus_master1" / code
        real.mkdir(parents=True, exist_ok=True)
        link = self.root / "w1" / "devices" / code
        if not link.exists():
            link.symlink_to(real)
        raw = round(celsius * 16) & 0xFFFF
        data = pad or bytes((raw & 255, raw >> 8, 0x4B, 0x46, 0x7F, 0xFF, 0x0C, 0x10))
        data = data if len(data) == 9 else data + bytes((crc8_of(data) ^ spoiled,))
        text, says = data.hex(" "), "NO" if spoiled else "YES"
        path = real / "w1_slave"
        path.write_text(f"{text} : crc={data[8]:02x} {says}\n{text} t={round(celsius * 1000)}\n")
        return path

    def put_humidity(self, damp: str, warm: str) -> Path:
        """A humidity sensor of industrial I/O."""
        path = self.root / "iio" / "devices" / "iio:device0"
        path.mkdir(exist_ok=True)
        (path / "name").write_text("dht11@4\n")
        (path / "in_humidityrelative_input").write_text(damp)
        (path / "in_temp_input").write_text(warm)
        return path

    def listen(self, seconds: float = 0.6) -> list[ev.Event]:
        """What is told of all of it."""
        source = KernelSource(str(self.root), 0.1)
        self.addCleanup(source.close)
        listener = Listener(source, lambda about: everything(about, None))
        told: list[ev.Event] = [listener.open()]
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            told += listener.step(0.02)
        return [*told, *listener.finish()]

    def heard(self, told: list[ev.Event], wire: str) -> list[ev.Heard]:
        """Exchanges of a wire, each once."""
        rows = [row for row in told if isinstance(row, ev.Heard) and row.wire == wire]
        return [row for row in rows if not row.revised]


class Reading(KernelTest):
    """What stands in the files is read, judged, told."""

    def test_thermometers(self) -> None:
        """Two on a bus, by their codes; verdicts by their bytes."""
        self.put(WHEEL_1, 11.25)
        self.put(WHEEL_2, -4.5)
        heard = self.heard(self.listen(), "w1_bus_master1")
        values = {(row.rom, row.value) for one in heard for row in one.report().readings}
        self.assertEqual({(WHEEL_1, 11.25), (WHEEL_2, -4.5)}, values)
        self.assertEqual({"sound"}, {one.report().verdict.word for one in heard})

    def test_pulses_are_the_sheets(self) -> None:
        """What is drawn has its typical pulses, each of them."""
        self.put(WHEEL_1, 11.25)
        self.put_humidity("65300", "11800")
        told = self.listen()
        for wire in ("w1_bus_master1", "iio_device0"):
            report = self.heard(told, wire)[-1].report()
            for use in report.windows.values():
                if use.window.key == "phase":
                    self.assertGreaterEqual(use.min_us, use.window.typ_us - 0.1)
                else:
                    self.assertAlmostEqual(use.window.typ_us, use.min_us, delta=0.1, msg=use)
            self.assertGreaterEqual(len(report.windows), 6)

    def test_wrong_bytes(self) -> None:
        """A wrong CRC, a value from power-on, and a wire held low are told as such."""
        self.put(WHEEL_1, 11.25, spoiled=True)
        self.put(WHEEL_2, 85.0)
        self.put("28-0000071b2c7d", 0.0, pad=bytes(9))
        told = self.listen()
        found = {}
        for one in self.heard(told, "w1_bus_master1"):
            report = one.report()
            found[report.device] = {finding.code for finding in report.findings}
            self.assertEqual((), report.readings)
        self.assertIn("crc-wrong", found[WHEEL_1])
        self.assertIn("power-on-value", found[WHEEL_2])
        self.assertIn("all-zeros", found["28-0000071b2c7d"])

    def test_what_cannot_be_read(self) -> None:
        """Files that end early or make no sense, and errors: gaps, said with the device."""
        self.put(WHEEL_1, 11.25).write_text("72 01 4b 46 7f ff 0c 10 57 : crc=57 YES\n"[:35])
        self.put(WHEEL_2, 12.5)
        self.put("28-0000081b2c7d", 1.0).write_text("x" * 80)
        path = self.put("28-0000091b2c7d", 1.0)
        path.unlink()
        path.mkdir()
        told = self.listen()
        notes = " ".join(row.says for row in told if isinstance(row, ev.Note))
        for words in (
            f"could not read {WHEEL_1}: its file ends early",
            "could not read 28-0000081b2c7d: its file makes no sense",
            "could not read 28-0000091b2c7d: Is a directory",
        ):
            self.assertIn(words, notes)
        heard = self.heard(told, "w1_bus_master1")
        values = {row.value for one in heard for row in one.report().readings}
        self.assertEqual({12.5}, values)
        gaps = [
            piece.gap.why
            for row in told
            if isinstance(row, ev.Edges)
            for piece in row.pieces
            if piece.gap is not None and piece.gap.why
        ]
        self.assertTrue(any("ends early" in why for why in gaps))

    def test_humidity(self) -> None:
        """Thousandths; of the type that has such steps; below zero; what cannot be."""
        for damp, warm, values, sheet in (
            ("65300\n", "11800\n", [65.3, 11.8], "dht22"),
            ("55000\n", "21000\n", [55, 21], "dht11"),
            ("80100\n", "-3400\n", [80.1, -3.4], "dht22"),
        ):
            self.put_humidity(damp, warm)
            heard = self.heard(self.listen(), "iio_device0")
            self.assertTrue(heard, warm)
            report = heard[-1].report()
            self.assertEqual(values, [row.value for row in report.readings])
            self.assertEqual(sheet, report.sheet.id)
        self.put_humidity("655350\n", "0\n")
        says = [row.says for row in self.listen() if isinstance(row, ev.Note)]
        self.assertIn("655.35 %RH and 0 °C cannot be", says[0])

    def test_what_it_is(self) -> None:
        """That only bytes are judged is said; without sensors, what to do."""
        source = make_source(f"kernel:{self.root}")
        with self.assertRaisesRegex(SourceError, "reads no sensor below"):
            source.open()
        self.put(WHEEL_1, 11.25)
        about = source.open()
        self.assertIn("judged are bytes", dict(about.facts)["pulses"])
        self.assertEqual("kernel:/sys/bus", make_source("kernel:").name)

    def test_it_ends(self) -> None:
        """A file in which nobody writes holds up only the thread that reads it."""
        path = self.put(WHEEL_1, 11.25)
        path.unlink()
        os.mkfifo(path)
        source = KernelSource(str(self.root), 0.1)
        about = source.open()
        source.listen([about.lines[0].name])
        began = time.monotonic()
        source.read(0.1)
        source.close()
        self.assertLess(time.monotonic() - began, 1.0)
        with path.open("w") as stream:
            stream.write("\n")
