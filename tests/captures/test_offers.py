"""What is no sensor, or is recorded inverted: left alone, offered, decoded when asked for."""

import numpy as np

from pivet.captures.capture import capture_of
from pivet.captures.text import capture_lines, offer_lines
from pivet.judge.verdict import Verdict
from tests.base import PivetTest
from tests.physics import echo, humidity, onewire
from tests.physics.line import joined, pulled_low, sampled, traced
from tests.physics.strangers import every


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


class Coarse(PivetTest):
    """1-Wire lines whose bits have fallen through are known by their resets."""

    def found(self, change: str) -> list[str]:
        """Families found on a line in steps of 20 µs."""
        bus = onewire.Bus(at=20_000.0)
        if change == "other resets":
            bus.reset_low = 1500.0
        for _ in range(3):
            bus.convert().scratchpad(onewire.pad_28(21.5))
        lows = np.array(bus.spans)
        if change == "no presence":
            lows = lows[(lows[:, 1] - lows[:, 0] != bus.presence_low)]
        if change == "no pause":
            resets = lows[:, 1] - lows[:, 0] > 400
            lows[~resets & (lows[:, 1] - lows[:, 0] != bus.presence_low)] -= 250
        edges = sampled(np.random.default_rng(3), pulled_low(lows), 20.0)
        trace = traced({"dq": (edges, True)}, step_ns=20_000)
        return [row.family.key for row in capture_of(self.folder / "x", trace).wires]

    def test_resets(self) -> None:
        """Each with presence and a pause behind it."""
        self.assertEqual(["one-wire"], self.found(""))
        for change in ("no presence", "no pause", "other resets"):
            self.assertEqual([], self.found(change), change)


class Beside(PivetTest):
    """Inverted lines beside others."""

    def test_among_others(self) -> None:
        """Each wire once, in the order of the lines, with and without turning over."""
        frames = joined([humidity.exchange(humidity.frame_22(50, 20), 2.1e6 * n) for n in (1, 2)])
        read = onewire.Bus().convert().scratchpad(onewire.pad_28(21.5)).edges()
        lines = {
            "a": (read, True),
            "b": (frames, False),
            "c": (frames + 777, True),
            "clk": (np.arange(1, 400) * 60_000.0, False),
        }
        plain = capture_of(self.folder / "x.vcd", traced(lines))
        self.assertEqual(["a", "c"], [row.name for row in plain.wires])
        self.assertEqual(["b"], [row.names for row in plain.offers if row.inverted])
        taken = capture_of(self.folder / "x.vcd", traced(lines), invert=True)
        self.assertEqual(["a", "b", "c"], [row.name for row in taken.wires])
        self.assertEqual([False, True, False], [row.lines[0].turned for row in taken.wires])
        self.assertEqual([], [row.names for row in taken.offers if row.inverted])


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
