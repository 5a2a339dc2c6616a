"""1-Wire transactions judged: values, checks, what carries over, who left or joined."""

from typing import Any

import numpy as np

from pivet.captures.wire import Wire
from pivet.families import FAMILIES
from pivet.judge.onewire.detail import Transaction
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.readings.thermometer import explain
from pivet.sheets.onewire import CONVERSION_US, Function, code_text
from pivet.signal.trace import Level, Line
from pivet.standin.onewire import Conditions, Host, Thermometer, make_code
from pivet.standin.onewire.host import bits_of
from pivet.standin.onewire.thermometer import pad_bytes
from tests.base import PivetTest, detail_of, transactions_of, wire_of
from tests.decode.slots import RESET, edges_of, read, written

ONE, TWO, OLD = make_code(0x28, 0x51B2C7D), make_code(0x28, 0x61B2C7D), make_code(0x10, 0x2B3A1C4)
THERMOMETERS = (0x28, 0x22, 0x10, 0x3B, 0x42)


def host_of(*codes: int, **options: Any) -> Host:
    """A host with thermometers at 10, 11, ... °C."""
    courses = [lambda _, at=at: 10.0 + at for at in range(len(codes))]
    return Host(
        [Thermometer(code, row) for code, row in zip(codes, courses, strict=True)], **options
    )


def judged(host: Host) -> Wire:
    """What was said on the line."""
    return wire_of(FAMILIES["one-wire"], (host.line("dq"),))


def codes(report: Report) -> list[str]:
    """Codes of the findings."""
    return [finding.code for finding in report.findings]


def ask(host: Host, code: int, wait_s: float | None = None) -> None:
    """A conversion of all, and the scratchpad of one."""
    host.skip()
    host.convert(wait_s)
    host.match(code)
    host.read_scratchpad()


WORKED = {
    0x07D0: 125.0,
    0x0550: 85.0,
    0x0191: 25.0625,
    0x00A2: 10.125,
    0x0008: 0.5,
    0xFFF8: -0.5,
    0xFF5E: -10.125,
    0xFE6F: -25.0625,
    0xFC90: -55.0,
}


class Values(PivetTest):
    """Bytes to °C and back."""

    def test_worked(self) -> None:
        """The figures of the domain page."""
        for raw, value in WORKED.items():
            pad = explain(bytes([raw & 0xFF, raw >> 8, 0x4B, 0x46, 0x7F]), 0x28)
            self.assertEqual((value, 12), (pad.value, pad.resolution))

    def test_every_code_of_every_family_and_resolution(self) -> None:
        """Each temperature that a thermometer can send comes back over the wire."""
        sixteenths = np.arange(-55 * 16, 125 * 16 + 1)
        for family in THERMOMETERS:
            for resolution in (12,) if family == 0x10 else (9, 10, 11, 12):
                # Those of one family all, of its relatives some: their codes are the same.
                step = (1 if family == THERMOMETERS[0] else 13) << 12 - resolution
                with self.subTest(family=family, resolution=resolution):
                    self.check_all(sixteenths[::step], family, resolution)

    def check_all(self, sixteenths: np.ndarray, family: int, resolution: int) -> None:
        """Every scratchpad as slots: value, resolution, CRC."""
        device = Thermometer(make_code(family, 9), float, resolution)
        host = Host([device], Conditions(jitter_us=0.0))
        host.match(device.code)
        for at in sixteenths.tolist():
            pad = pad_bytes(at, family, resolution, (75, 70))
            host.resume()
            host.function(Function.READ_SCRATCHPAD)
            host.wire.slots(bits_of(pad), device=True)
        pads = transactions_of(judged(host)).pads
        step = 12 - resolution
        np.testing.assert_array_equal((sixteenths >> step << step) / 16, pads.temperatures.values)
        self.assertTrue(pads.temperatures.possible.all() and pads.holds.all())
        wanted = 9 if family == 0x10 else resolution
        self.assertEqual({wanted}, set(pads.temperatures.resolution.tolist()))

    def test_resolutions(self) -> None:
        """Written once, then followed: less time, fewer bits."""
        for resolution, us in CONVERSION_US.items():
            host = host_of(ONE)
            host.match(ONE)
            host.write_scratchpad(bytes([75, 70, 0x1F | (resolution - 9) << 5]))
            ask(host, ONE, us / 1e6 * 1.001)
            report = judged(host).report(2)
            self.assertEqual((Verdict.SOUND, resolution), self.of(report))

    def of(self, report: Report) -> tuple[Verdict, int | None]:
        """Verdict and resolution."""
        return report.verdict, detail_of(report, Transaction).pad.resolution


class Course(PivetTest):
    """What carries over from transaction to transaction."""

    def test_converted_before(self) -> None:
        """A reading says how long ago it was converted."""
        host = host_of(ONE, TWO)
        host.search()
        ask(host, TWO, 0.8)
        report = judged(host).report(3)
        self.assertEqual((11.0, code_text(TWO)), (report.readings[0].value, report.readings[0].rom))
        self.assertIn("converted 80", report.readings[0].told())

    def test_read_too_early_and_polled(self) -> None:
        """Too early is refused; polled until done is not, however soon."""
        host = host_of(ONE)
        ask(host, ONE, 0.3)
        early = judged(host).report(1)
        self.assertEqual((["read-too-early"], ()), (codes(early), early.readings))
        self.assertEqual("read before it was converted", early.refused[0].reason)
        host = host_of(ONE)
        host.devices[0].takes = 0.3
        host.skip()
        host.convert(polled=True)
        host.match(ONE)
        host.read_scratchpad()
        wire = judged(host)
        self.assertEqual(Verdict.SOUND, wire.report(1).verdict)
        busy = detail_of(wire.report(0), Transaction).rows[2]
        self.assertEqual("polled", busy.label)
        self.assertIn("then done", busy.meaning)
        self.assertEqual(b"\xcc\x44", wire.report(0).data)

    def test_read_again_without_converting(self) -> None:
        """The second read of one conversion says how old it is."""
        host = host_of(ONE)
        ask(host, ONE)
        host.match(ONE)
        host.read_scratchpad()
        report = judged(host).report(2)
        self.assertEqual((["not-converted"], Verdict.SOUND), (codes(report), report.verdict))
        self.assertIn("Read again without a new conversion", report.findings[0].says)

    def test_power_on_value(self) -> None:
        """85 °C after a dip is refused; among hot readings it is one of them."""
        host = host_of(ONE)
        ask(host, ONE)
        host.devices[0].dips = (host.now_s + 0.7,)
        ask(host, ONE)
        wire = judged(host)
        report = wire.report(3)
        self.assertEqual((["power-on-value"], ()), (codes(report), report.readings))
        self.assertIn("its supply dipped", report.findings[0].says)
        hot = host_of(ONE)
        hot.devices[0].course = lambda t: 84.0 if t < 0.5 else 85.0
        ask(hot, ONE)
        ask(hot, ONE)
        self.assertEqual(85.0, judged(hot).report(3).readings[0].value)

    def test_first_read_of_85(self) -> None:
        """Without a conversion it is from power-on; after one it cannot be told."""
        host = host_of(ONE)
        host.match(ONE)
        host.read_scratchpad()
        self.assertIn("power-on-value", codes(judged(host).report(0)))
        host = host_of(ONE)
        host.devices[0].course = lambda _: 85.0
        ask(host, ONE)
        report = judged(host).report(1)
        self.assertEqual((["maybe-power-on"], 1), (codes(report), len(report.readings)))

    def test_parasite_power(self) -> None:
        """Polling a device that lives on the line spoils its conversion."""
        host = host_of(ONE)
        host.devices[0].parasite = True
        host.skip()
        host.power()
        ask(host, ONE)
        quiet = judged(host)
        self.assertEqual(["parasite-powered"], codes(quiet.report(1)))
        ask(host, ONE, 0.2)
        self.assertIn("parasite-disturbed", codes(judged(host).report(3)))

    def test_resume(self) -> None:
        """Resume means the device that was matched."""
        host = host_of(ONE, TWO)
        host.search()
        host.match(TWO)
        host.convert()
        host.resume()
        host.read_scratchpad()
        report = judged(host).report(3)
        self.assertEqual(
            (code_text(TWO), 11.0), (detail_of(report, Transaction).rom, report.readings[0].value)
        )

    def test_overdrive_session(self) -> None:
        """The same reading at the other speed."""
        host = host_of(ONE, conditions=Conditions(step_ns=10))
        host.skip(fast=True)
        host.convert()
        host.match(ONE, fast=True)
        host.read_scratchpad()
        report = judged(host).report(1)
        self.assertEqual(
            ("overdrive", 10.0), (detail_of(report, Transaction).speed, report.readings[0].value)
        )
        self.assertEqual(Verdict.SOUND, report.verdict)


class Bus(PivetTest):
    """Devices that come and go."""

    def test_left_and_joined(self) -> None:
        """A probe pulled off is named when it is read and when it is searched for."""
        host = host_of(ONE, TWO, OLD)
        host.search()
        ask(host, TWO)
        host.devices[1].away = ((host.now_s, host.now_s + 3.0),)
        ask(host, TWO)
        host.search()
        host.wait_until(host.devices[1].away[0][1] + 0.1)
        host.search()
        wire = judged(host)
        told = [codes(wire.report(number)) for number in range(len(wire))]
        self.assertIn("device-left", told[6])
        self.assertEqual("No reading: nobody answered.", wire.report(6).gap)
        self.assertEqual(["device-left", "order-shifted"], told[8])
        self.assertIn("device-joined", told[11])
        says = wire.report(8, {code_text(TWO): "wheel 2"}).findings[0].says
        self.assertIn("the one before also found wheel 2 (28-0000061b2c7d)", says)

    def alone(self, edges: np.ndarray) -> Report:
        """The only transaction of some edges."""
        line = Line("dq", Level.HIGH, edges)
        return wire_of(FAMILIES["one-wire"], (line,)).report(0)

    def test_code_of_zeros(self) -> None:
        """Its CRC is 0 too, and no device has it."""
        lows = RESET + written(b"\x55" + bytes(8) + b"\xbe") + read(b"\xff" * 9)
        report = self.alone(edges_of(lows))
        self.assertIn("all-zeros", codes(report))
        self.assertIsNone(detail_of(report, Transaction).rom)

    def test_several_answer_at_once(self) -> None:
        """Skip and read with two devices: the answers mix."""
        host = host_of(ONE, TWO)
        host.search()
        host.skip()
        host.read_scratchpad()
        self.assertIn("several-answer", codes(judged(host).report(2)))

    def test_code_with_one_wrong_bit(self) -> None:
        """The device that it probably was is named."""
        host = host_of(ONE)
        host.search()
        host.match(ONE ^ 1 << 20)
        host.read_scratchpad()
        report = judged(host).report(1)
        self.assertIn("crc-wrong", codes(report))
        self.assertIn("But for bit 21 it is the code of 28-0000051b2c7d", report.findings[0].says)
        self.assertIsNone(detail_of(report, Transaction).rom)

    def test_searches_that_fail(self) -> None:
        """Nobody in alarm, an empty line, a pass that stops."""
        host = host_of(ONE)
        host.devices[0].limits = (100, 0x80)
        ask(host, ONE)
        host.search(alarm=True)
        wire = judged(host)
        self.assertEqual(["no-alarm"], codes(wire.report(2)))
        steps = read(bytes.fromhex("922449"), hold=65.0)  # bits 0 1 0 0 1 0 ...
        cut = self.alone(edges_of(RESET + written(b"\xf0") + steps + RESET))
        self.assertIn("search-cut", codes(cut))
        dead = self.alone(edges_of(RESET + written(b"\xf0") + read(b"\xff") + RESET))
        self.assertIn("search-stopped", codes(dead))


class Told(PivetTest):
    """Words and JSON."""

    def test_pulses_have_places(self) -> None:
        """Bytes and bits are counted from 1; thousands of polled bits are not all listed."""
        host = host_of(ONE)
        ask(host, ONE)
        pulses = judged(host).report(1).pulses
        self.assertEqual("byte 2, bit 1", next(row.place for row in pulses if row.column == 16))
        lows = RESET + written(b"\xcc\x44") + 300 * read(b"\x00") + read(b"\x01") + RESET
        long = self.polled(edges_of(lows))
        self.assertLess(len(long.pulses), 1400)
        self.assertEqual(2408 - 0, long.windows["hold"].number + 1)
        self.assertIn("busy × 2400", detail_of(long, Transaction).rows[2].meaning)

    def polled(self, edges: np.ndarray) -> Report:
        """The first transaction."""
        return wire_of(FAMILIES["one-wire"], (Line("dq", Level.HIGH, edges),)).report(0)
