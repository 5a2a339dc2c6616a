"""What is said of signals made by physics of our own is true."""

import numpy as np

from pivet.captures.capture import capture_of
from pivet.captures.wire import Wire
from pivet.decode.onewire import OneWireExchanges
from pivet.errors import InputError
from pivet.frozen import replace
from pivet.judge.humidity.notices import Notice as Humid
from pivet.judge.onewire import JudgedTransactions
from pivet.judge.verdict import Verdict
from pivet.sheets.load import find_sheet
from pivet.sheets.reach import LEAST_M, MOST_M, reach_of
from tests.base import PivetTest, shots_of, transactions_of
from tests.physics import echo, humidity, onewire, truth
from tests.physics.faults import FAULTS, first_of, right
from tests.physics.line import joined, sampled, slow_rise, traced
from tests.physics.truth import HARD, KEPT

FRAMES, READS = 120, 20
LOST = 0.01
"""So many of the right values may be lost where nothing is the matter."""


class Values(PivetTest):
    """A value that is given is right, whatever happened to the signal."""

    def test_humidity(self) -> None:
        """Every class of damage; where it is slight, nothing is lost."""
        random = np.random.default_rng(11)
        for name, damage in (KEPT | HARD).items():
            with self.subTest(name):
                score = truth.humidity_score(name, damage, random, FRAMES)
                self.assertEqual(0, score.wrong)
                if name in KEPT:
                    self.assertLessEqual(score.lost, LOST * FRAMES)

    def test_each_make_of_sensor(self) -> None:
        """Clocks that are off, and copies: nothing is lost."""
        random = np.random.default_rng(12)
        for part in (*truth.CLOCKS.values(), humidity.COPY):
            score = truth.humidity_score("clean", KEPT["clean"], random, 40, part)
            self.assertEqual((40, 0), (score.right, score.wrong))

    def test_onewire(self) -> None:
        """Scratchpads, and the device that they are said to be of."""
        random = np.random.default_rng(13)
        for name, damage in (KEPT | HARD).items():
            with self.subTest(name):
                score = truth.onewire_score(name, damage, random, READS)
                self.assertEqual(0, score.wrong)
                if name in KEPT:
                    self.assertEqual(0, score.lost)


class Causes(PivetTest):
    """The first finding names the true cause, and its advice helps."""

    def test_faults(self) -> None:
        """All of the table, whatever the noise."""
        for fault in FAULTS:
            for seed in (2, 3):
                with self.subTest(fault.name):
                    found = first_of(fault, np.random.default_rng(seed))
                    self.assertTrue(right(fault, found), f"{fault.codes or fault.told}: {found}")

    def test_as_many_as_promised(self) -> None:
        """At least fifty."""
        self.assertGreaterEqual(len({fault.name for fault in FAULTS}), 50)


class Misnamed(PivetTest):
    """Causes that are not there are not named."""

    def frames(self, damage: str, count: int = 80) -> Wire:
        """Damaged frames."""
        random = np.random.default_rng(31)
        rows = [
            (KEPT | HARD)[damage](random, humidity.exchange(data, 3e4 + 2.1e6 * number))
            for number, data in enumerate(humidity.random_frames(random, count))
        ]
        trace = traced({"data": (joined(rows), True)})
        return capture_of(self.folder / "x", trace, find_sheet("dht22"), "data").wires[0]

    def test_humidity(self) -> None:
        """Each notice of the line stays away where something else is the matter."""
        for notice, damages in {
            Humid.TWO_ANSWER: ("clean", "jitter of 8 µs", "jitter of 12 µs", "late interrupts"),
            Humid.REFLECTIONS: ("clean", "spikes under 2 µs", "jitter of 4 µs", "edges lost"),
            Humid.INTERRUPTED: ("clean", "jitter of 4 µs", "slow rise of 12 µs", "edges lost"),
            Humid.SCATTER: ("clean", "slow rise of 12 µs"),
            Humid.SLOW_RISE: ("clean", "spikes under 2 µs", "late interrupts", "edges lost"),
            Humid.COPY_HABITS: ("clean", "slow rise of 12 µs", "jitter of 8 µs"),
            Humid.TOO_DOUBTFUL: ("clean", "slow rise of 12 µs", "spikes under 2 µs"),
            Humid.OTHER_SIGN: ("clean", "jitter of 4 µs"),
        }.items():
            for damage in damages:
                with self.subTest(notice, damage=damage):
                    wire = self.frames(damage)
                    share = np.mean((wire.judged.notices & int(notice)) != 0)
                    self.assertLessEqual(share, 0.05)

    def test_what_copies_do_is_said_of_copies(self) -> None:
        """Not where a slow rise or a slow clock explains the same widths."""
        copy = replace(humidity.AM, zero=19, one=77)
        slow = replace(humidity.AM, clock=1.11)
        for part, late, said in ((copy, 0.0, True), (slow, 0.0, False), (humidity.AM, 6.5, False)):
            edges = humidity.exchange(humidity.frame_22(60, 20), 3e4, part)
            trace = traced({"data": (slow_rise(edges, late), True)})
            wire = capture_of(self.folder / "x", trace, find_sheet("dht22"), "data").wires[0]
            words = " ".join(row.says for row in wire.report(0).findings)
            self.assertEqual(said, "common in copies" in words, words)
            self.assertIn("beyond the limit", words)

    def test_too_coarse_for_onewire(self) -> None:
        """Nothing is said that only seems so in such steps."""
        hidden = {"no-presence", "crc-wrong", "all-zeros", "all-ones", "unknown-command"}
        hidden |= {"pulse-outside", "pulse-near", "broken-off", "scatter", "search-cut"}
        hidden |= {"reset-too-short", "slow-rise", "ended-early", "split-slots", "reflections"}
        for step in (0, 10, 20, 40):
            said = set()
            for answers in (True, False):
                bus = onewire.Bus(at=20_000.0, answers=answers)
                bus.reset().write(0xF0).read(b"\0\0\0").rest(1e5)
                bus.convert().scratchpad(onewire.pad_28(21.5)).scratchpad(bytes(9)).reset()
                bus.reset_low = 400.0
                bus.reset().rest(1e5)
                random = np.random.default_rng(step)
                edges = sampled(random, bus.edges(), step) if step else bus.edges()
                trace = traced({"dq": (edges, True)}, step_ns=1000 * step or 10)
                wire = capture_of(self.folder / "x", trace, find_sheet("onewire"), "dq").wires[0]
                self.assertEqual(
                    0, int(transactions_of(wire).given[transactions_of(wire).pads.zeros].sum())
                )
                for number in range(len(wire)):
                    said |= {row.code for row in wire.report(number).findings}
            if step:
                self.assertEqual((set(), True), (said & hidden, "too-coarse" in said))
            else:
                self.assertLessEqual({"no-presence", "all-zeros", "reset-too-short"}, said)


class Parts(PivetTest):
    """Habits of parts and of their copies."""

    def frames(self, sensor: str, rows: list[bytes], part: humidity.Part = humidity.AM) -> Wire:
        """Some frames, judged as a sensor."""
        ask = 1000.0 if sensor == "dht22" else 20_000.0
        edges = [humidity.exchange(d, 3e4 + 2.1e6 * n, part, ask) for n, d in enumerate(rows)]
        trace = traced({"data": (joined(edges), True)})
        return capture_of(self.folder / "x.vcd", trace, None, "data").wires[0]

    def test_signs_that_stand_elsewhere(self) -> None:
        """Two's complement in a 22-type, the whole byte's sign in an 11-type: read, and said."""
        cold = (-0.1, -5.3, -18.0, -39.9)
        for sensor, rows, part in (
            ("dht22", [humidity.frame_22(50, t, complement=True) for t in cold], humidity.AM),
            ("dht22", [humidity.frame_22(50, t) for t in cold], humidity.AM),
            ("dht11", [humidity.frame_11(50, t, True) for t in cold[:3]], humidity.ELEVEN),
            ("dht11", [humidity.frame_11(50, t) for t in cold[:3]], humidity.ELEVEN),
        ):
            wire = self.frames(sensor, rows, part)
            self.assertEqual(sensor, wire.sheet.id)
            said = [row.code for row in wire.report(1).findings]
            self.assertEqual(rows[1][2] >= 0x80 and rows[1][2] != 0x80, "other-sign" in said)
            for number, celsius in enumerate(cold[: len(rows)]):
                values = {row.quantity: row.value for row in wire.report(number).readings}
                self.assertEqual(celsius, values["temperature"])

    def read(self, rows: list[tuple[bytes, bytes, float]]) -> Wire:
        """Conversions and reads: code, scratchpad, and how long the conversion is given, µs."""
        bus = onewire.Bus(at=20_000.0)
        for code, pad, wait in rows:
            bus.convert(code, wait).scratchpad(pad, code)
        trace = traced({"dq": (bus.edges(), True)})
        return capture_of(self.folder / "x.vcd", trace, None, "dq").wires[0]

    def last(self, *rows: tuple[bytes, bytes, float]) -> tuple[list[str], list[float]]:
        """Findings and readings of the last read."""
        report = (wire := self.read(list(rows))).report(len(wire) - 1)
        return [row.code for row in report.findings], [row.value for row in report.readings]

    def test_85_of_family_28(self) -> None:
        """Byte 6 tells power-on from a measured 85, once it was seen to move."""
        code, long = onewire.code(0x28, 77), 800_000.0
        hot = [onewire.pad_28(t) for t in (84.0, 84.5625)]
        power_on, measured = onewire.pad_28(85, reserved=0x0C), onewire.pad_28(85)
        codes, values = self.last(*((code, pad, long) for pad in (*hot, power_on)))
        self.assertEqual((True, []), ("power-on-value" in codes, values))
        codes, values = self.last(*((code, pad, long) for pad in (*hot, measured)))
        self.assertEqual((False, [85.0]), ("power-on-value" in codes, values))
        copy = [onewire.pad_28(t, reserved=0x0C) for t in (84.0, 84.5625, 85.0)]
        codes, values = self.last(*((code, pad, long) for pad in copy))
        self.assertEqual((False, [85.0]), ("power-on-value" in codes, values))

    def test_family_10(self) -> None:
        """84.75 is measured, AA 00 with 0C 10 is power-on; it converts for up to 750 ms."""
        code, long = onewire.code(0x10, 77), 800_000.0
        first = (code, onewire.pad_10(20.0), long)
        codes, values = self.last(first, (code, onewire.pad_10(84.75), long))
        self.assertEqual((False, [84.75]), ("power-on-value" in codes, values))
        codes, values = self.last(first, (code, onewire.pad_10(85.0), long))
        self.assertEqual((True, []), ("power-on-value" in codes, values))
        codes, _ = self.last(first, (code, onewire.pad_10(20.5), 200_000.0))
        self.assertIn("read-too-early", codes)

    def test_ranges_of_families(self) -> None:
        """Family 42 ends at 85 °C, thermocouples of family 3B go to 1800 and convert in 100 ms."""
        for family, celsius, wait, given in (
            (0x42, 90.0, 800_000.0, False),
            (0x42, 60.0, 800_000.0, True),
            (0x3B, 900.0, 120_000.0, True),
            (0x28, 900.0, 800_000.0, False),
        ):
            code = onewire.code(family, 9)
            _, values = self.last((code, onewire.pad_28(celsius), wait))
            self.assertEqual([celsius] if given else [], values, hex(family))

    def test_widths_at_the_limits(self) -> None:
        """Lows of 65 to 68 µs and presence of 300 are found without naming anything."""
        for low in (60, 65, 66, 67, 68):
            rows = [humidity.frame_22(60, 20)] * 3
            wire = self.frames("dht22", rows, replace(humidity.AM, low=low, end=low))
            self.assertEqual(("dht22", 3), (wire.sheet.id, wire.count(Verdict.NEAR)))
        for presence in (245, 300, 320, 390):
            bus = onewire.Bus(presence_low=presence).convert().scratchpad(onewire.pad_28(20))
            wire = capture_of(self.folder / "x", traced({"q": (bus.edges(), True)})).wires[0]
            self.assertEqual(
                [presence * 1000] * 2,
                wire.columns(OneWireExchanges, JudgedTransactions)[0].presence_ns.tolist(),
            )

    def test_timeouts_by_hand(self) -> None:
        """What is given by hand counts, and what no sensor can have is refused."""
        made = echo.shots(np.random.default_rng(1), np.array([0.5, 2.9, 1.2, 3.3]))
        lines = {"t": (made.triggers.ravel(), False), "e": (made.echoes.ravel(), False)}
        for reach, given in (
            (reach_of(None, None), 4),
            (reach_of(15.0, None), 2),
            (reach_of(None, 3.0), 3),
        ):
            capture = capture_of(self.folder / "x", traced(lines), None, "t,e", reach=reach)
            self.assertEqual(given, int(shots_of(capture.wires[0]).given.sum()))
        for timeout, farthest in ((0.0, None), (None, -1.0), (1e6, None), (float("nan"), None)):
            with self.assertRaises(InputError):
                reach_of(timeout, farthest)

    def test_any_reach(self) -> None:
        """However near or far: what lies beyond it is refused, and its limits are told."""
        distances = np.array([0.05, 0.15, 0.6, 1.4, 3.3])
        made = echo.shots(np.random.default_rng(1), distances)
        lines = {"t": (made.triggers.ravel(), False), "e": (made.echoes.ravel(), False)}
        for farthest in (LEAST_M, 0.4, 1.0, 2.0, MOST_M):
            capture = capture_of(
                self.folder / "x",
                traced(lines),
                find_sheet("hc-sr04"),
                "t,e",
                reach=reach_of(None, farthest),
            )
            wire = capture.wires[0]
            beyond = distances > 1.02 * farthest
            self.assertFalse(shots_of(wire).given[beyond].any(), farthest)
            self.assertTrue(shots_of(wire).given[distances < 0.98 * farthest].all(), farthest)
            for at in range(len(wire)):
                window = wire.report(at).windows["echo"].window
                assert window.max_us is not None
                self.assertLessEqual(window.min_us, window.typ_us)
                self.assertLessEqual(window.typ_us, window.max_us)
                reached_m = window.max_us * float(shots_of(wire).speed[at]) / 2e6
                self.assertAlmostEqual(farthest, reached_m, delta=0.03 * farthest)

    def test_uncertain_edges(self) -> None:
        """A source tells the accuracy of each edge: what it concerns is unsure, and no more."""
        part = replace(humidity.AM, zero=21.5)
        edges = [
            humidity.exchange(humidity.frame_22(60, 20), 3e4 + 2.1e6 * n, part) for n in (0, 1)
        ]
        trace = traced({"data": (joined(edges), True)})
        line = trace.lines[0]
        unsure = np.where(np.arange(line.edges_ns.size) >= edges[0].size, 3000, 5)
        trace = replace(trace, lines=(replace(line, uncertain_ns=unsure),))
        wire = capture_of(self.folder / "x", trace, find_sheet("dht22"), "data").wires[0]
        self.assertEqual([10, 6000], wire.judged.resolution_ns.tolist())
        self.assertEqual([Verdict.NEAR, Verdict.UNKNOWN], wire.verdicts.tolist())
