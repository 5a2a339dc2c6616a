"""What is said of signals made by physics of our own is true."""

import unittest

import numpy as np

from pivet.bench.capture import capture_of
from pivet.bench.text import capture_lines, offer_lines
from pivet.judge.verdict import Verdict
from pivet.signal.step import step_of
from tests.base import PivetTest
from tests.physics import echo, humidity, onewire, truth
from tests.physics.faults import FAULTS, first_of, right
from tests.physics.line import joined, sampled, traced
from tests.physics.strangers import every
from tests.physics.truth import ECHO, HARD, KEPT

FRAMES, READS, SHOTS = 250, 60, 250
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

    def test_echo(self) -> None:
        """Gaps and strays, with trigger and echo on two lines or on one."""
        random = np.random.default_rng(14)
        for lines in (2, 1):
            for name, damage in ECHO.items():
                with self.subTest(name, lines=lines):
                    score = truth.echo_score(name, damage, random, SHOTS, lines)
                    self.assertLessEqual(score.wrong, score.right // 50 if "900" in name else 0)
                    self.assertGreater(score.right, SHOTS // 2)
                    if name == "clean":
                        self.assertEqual(SHOTS, score.right)


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


class Strangers(PivetTest):
    """What is no sensor is left alone."""

    def test_every_stranger(self) -> None:
        """No wire is made of it; and what it may be is only offered."""
        for seed in range(2):
            for name, lines in every(np.random.default_rng(seed)):
                with self.subTest(name):
                    capture = capture_of(self.folder / "x.vcd", traced(lines))
                    self.assertEqual([], [(row.label, row.sheet.id) for row in capture.wires])
                    self.assertEqual([], [row.says for row in capture.offers if row.inverted])

    def test_named_strangers_are_not_called_sound(self) -> None:
        """Naming the line alone does not make it one."""
        for name, lines in every(np.random.default_rng(5)):
            first = next(iter(lines))
            with self.subTest(name):
                capture = capture_of(self.folder / "x.vcd", traced(lines), None, first)
                self.assertEqual(0, sum(row.count(Verdict.SOUND) for row in capture.wires))

    def test_nearest_sheet_is_told(self) -> None:
        """A made-up code: which sheet is nearest, and in what it differs."""
        lines = dict(every(np.random.default_rng(1)))["made-up code, turned over"]
        (says,) = offer_lines(capture_of(self.folder / "x.vcd", traced(lines)))
        self.assertIn("no sheet fits; nearest is the 11-type, early, which differs in", says)
        self.assertIn("“1, high” 130.0 µs for 63 to 77 µs", says)


class Polarity(PivetTest):
    """Lines recorded inverted are recognised, said, and decoded when asked for."""

    def test_each_family(self) -> None:
        """Said first; then the same exchanges as of the line as it is."""
        made = echo.shots(np.random.default_rng(1), np.array([0.5, 1.0, 1.5, 2.0, 0.7]))
        trigger, back = made.triggers.ravel(), made.echoes.ravel()
        frames = joined([humidity.exchange(humidity.frame_22(50, 20), 2.1e6 * n) for n in (1, 2)])
        read = onewire.Bus().convert().scratchpad(onewire.pad_28(21.5)).edges()
        for lines in (
            {"data": (frames, True)},
            {"dq": (read, True)},
            {"trig": (trigger, False), "echo": (back, False)},
        ):
            for turned in ({name} for name in lines):
                with self.subTest(turned):
                    over = {n: (e, high != (n in turned)) for n, (e, high) in lines.items()}
                    plain = capture_of(self.folder / "x.vcd", traced(lines)).wires[0]
                    said = capture_of(self.folder / "x.vcd", traced(over))
                    self.assertEqual((), said.wires)
                    self.assertTrue(said.offers[0].inverted)
                    name = said.offers[0].names
                    for wire in (None, name):
                        taken = capture_of(
                            self.folder / "x.vcd", traced(over), None, wire, invert=True
                        )
                        self.assert_same_exchanges(plain.exchanges, taken.wires[0].exchanges)
                        text = "\n".join(capture_lines(taken))
                        self.assertIn("(recognised, turned over)", text)


class Steps(PivetTest):
    """The step in which a capture was sampled."""

    def test_found_from_the_stamps(self) -> None:
        """Whatever the unit of the stamps; fine ones are left as they are."""
        for step in (5, 10, 12.5, 16, 20, 25, 100 / 3, 50):
            random = np.random.default_rng(round(step))
            frames = humidity.random_frames(random, 5)
            rows = [humidity.exchange(d, 2.1e6 * n + 7) for n, d in enumerate(frames)]
            bus = onewire.Bus().convert().scratchpad(onewire.pad_28(21.5)).edges()
            for line in (joined(rows), bus):
                trace = traced({"d": (sampled(random, line, step), True)}, step_ns=1)
                self.assertAlmostEqual(step * 1000, step_of(trace), delta=1)

    def test_a_simulator_has_no_step(self) -> None:
        """Pulses that are exactly alike, however round, were not sampled."""
        rows = [humidity.exchange(humidity.frame_22(50, 20), 2.1e6 * n) for n in range(4)]
        self.assertEqual(1, step_of(traced({"d": (joined(rows), True)}, step_ns=1)))
        few = traced({"d": (np.array([10.0, 20.0, 30.0]), True)}, step_ns=1)
        self.assertEqual(1, step_of(few))


if __name__ == "__main__":
    unittest.main()
