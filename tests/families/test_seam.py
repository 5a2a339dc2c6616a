"""What the rest of the program asks of a family."""

import unittest

import numpy as np

from pivet.errors import InputError
from pivet.families import FAMILIES, family_of, find_family
from pivet.sheets.load import all_sheets, find_sheet
from pivet.signal.trace import Level, Line
from tests.base import wire_of
from tests.physics import echo, humidity, onewire
from tests.physics.line import Times, joined, pulled_low, traced

NONE = np.empty(0, dtype=np.int64)
FRAMES = joined([humidity.exchange(humidity.frame_22(50, 20), 2.1e6 * n) for n in (1, 2)])
READ = onewire.Bus().convert().scratchpad(onewire.pad_28(21.5)).edges()
SHOTS = echo.shots(np.random.default_rng(1), np.array([0.5, 1.0, 1.5, 2.0, 0.7]))
TRIGGER, BACK = SHOTS.triggers.ravel(), SHOTS.echoes.ravel()


def lines_of(**edges: tuple[Times, bool]) -> tuple[Line, ...]:
    """Lines of a capture."""
    return traced(edges).lines


class Known(unittest.TestCase):
    """Families by their keys."""

    def test_each_sheet_has_its_own(self) -> None:
        """And the family has the sheet."""
        for sheet in all_sheets().values():
            family = family_of(sheet)
            self.assertEqual(sheet.family, family.key)
            self.assertIn(sheet, family.sheets)
            self.assertIs(family, find_family(family.key))
        self.assertEqual(3, len(FAMILIES))
        self.assertEqual([family.key for family in FAMILIES.values()], list(FAMILIES))

    def test_a_stranger(self) -> None:
        """A key from a newer file is a sentence, from the program a mistake."""
        with self.assertRaisesRegex(InputError, "no family of sensors 'light': use a newer Pivet"):
            find_family("light")
        with self.assertRaises(KeyError):
            FAMILIES["light"]

    def test_lines_and_devices(self) -> None:
        """An echo sensor has one line or two; several devices share only a 1-Wire line."""
        self.assertEqual({"echo-pulse"}, {key for key, row in FAMILIES.items() if 2 in row.lines})
        self.assertEqual({"one-wire"}, {key for key, row in FAMILIES.items() if row.has_devices})
        self.assertTrue(all(1 in row.lines for row in FAMILIES.values()))


class Intervals(unittest.TestCase):
    """How often a sensor is asked."""

    def test_least(self) -> None:
        """That of the sheet; on 1-Wire a conversion and the reads behind it."""
        for sheet, least, why in (
            ("dht22", 2.0, ""),
            ("dht11", 1.0, ""),
            ("hc-sr04", 0.06, "asked sooner it may hear the echo of the shot before"),
            ("onewire", 0.9, "a conversion of 12 bits takes 750 ms, then each device is read"),
        ):
            row = find_sheet(sheet)
            with self.subTest(sheet):
                self.assertAlmostEqual(least, family_of(row).least_interval_s(row))
                self.assertIn(why, family_of(row).why_interval(row))
                self.assertTrue(family_of(row).why_interval(row))
        self.assertEqual([2.0, 2.0, 1.0], [row.watched_s for row in FAMILIES.values()])


class Echo(unittest.TestCase):
    """What only echo lines have."""

    def test_the_line_that_answers(self) -> None:
        """By its name, in any letters, else the only one."""
        family = FAMILIES["echo-pulse"]
        lines = {name: Line(name, Level.LOW, NONE) for name in ("en", "rst", "My_ECHO", "echo2")}
        for names, wanted in (
            (("en",), "en"),
            (("en", "rst"), None),
            (("en", "My_ECHO", "rst"), "My_ECHO"),
            (("My_ECHO", "echo2"), None),
            ((), None),
        ):
            found = family.answering([lines[name] for name in names])
            self.assertEqual(wanted, None if found is None else found.name, names)

    def test_swapped_names(self) -> None:
        """Told only where both names say so."""
        family = FAMILIES["echo-pulse"]
        for names, told in (
            (("a.ECHO", "a.Trig"), True),
            (("echo", "trigger"), True),
            (("trig", "echo"), False),
            (("echo", "b"), False),
            (("b", "trig"), False),
            (("echo",), False),
            (("echo.b", "trig.c"), False),
        ):
            found = family.remarks(tuple(Line(name, Level.LOW, NONE) for name in names))
            self.assertEqual(told, bool(found), names)
        (says,) = family.remarks(tuple(Line(n, Level.LOW, NONE) for n in ("echo", "trig")))
        self.assertTrue(says.startswith("echo carries the triggers and trig the echoes"))

    def test_sheet_by_its_lines(self) -> None:
        """Two lines, one shared line, or an echo line alone."""
        trig, back = lines_of(
            trig=(SHOTS.triggers.ravel(), False), echo=(SHOTS.echoes.ravel(), False)
        )
        (pin,) = lines_of(sig=(pulled_low(SHOTS.triggers, SHOTS.echoes + 30.0), False))
        for lines, wanted in (((trig, back), "hc-sr04"), ((pin,), "ping3"), ((back,), "hc-sr04")):
            self.assertEqual(wanted, wire_of(FAMILIES["echo-pulse"], lines).sheet.id)

    def test_alone(self) -> None:
        """An echo line without its trigger may be other things; a pair may not."""
        family = FAMILIES["echo-pulse"]
        trig, back = lines_of(
            trig=(SHOTS.triggers.ravel(), False), echo=(SHOTS.echoes.ravel(), False)
        )
        says, sheet = family.nearest(wire_of(family, (back,)).exchanges)
        self.assertIn("may be an echo line without its trigger", says)
        self.assertEqual("hc-sr04", sheet.id)
        self.assertIsNone(family.nearest(wire_of(family, (trig, back)).exchanges))


class Parts(unittest.TestCase):
    """A line that shows only a share of what another shows whole."""

    def test_drivers(self) -> None:
        """What one side drives is a part of its line, and never the other way round."""
        each = FRAMES.size // 2
        answers = joined([FRAMES[2:each], FRAMES[each + 2 :]])
        host = onewire.Bus(answers=False).convert().scratchpad(onewire.pad_28(21.5)).edges()
        for key, whole, part in (("humidity-frame", FRAMES, answers), ("one-wire", READ, host)):
            family = FAMILIES[key]
            lines = lines_of(a=(whole, True), b=(part, True))
            one, two = (wire_of(family, (row,)).exchanges for row in lines)
            with self.subTest(key):
                self.assertTrue(family.is_part(two, one))
                self.assertFalse(family.is_part(one, two))
                self.assertFalse(family.is_part(one, one))

    def test_bytes_and_devices(self) -> None:
        """Whole bytes in the order on the wire; the code that a transaction means."""
        (line,) = lines_of(a=(FRAMES, True))
        wire = wire_of(FAMILIES["humidity-frame"], (line,))
        self.assertEqual(humidity.frame_22(50, 20), wire.family.data(wire.exchanges, 0))
        self.assertEqual("", wire.family.device(wire.judged, 0))
        rom = onewire.code(0x28, 0x51B2C7D)
        edges = onewire.Bus().scratchpad(onewire.pad_28(21.5), rom).edges()
        (line,) = lines_of(dq=(edges, True))
        bus = wire_of(FAMILIES["one-wire"], (line,))
        self.assertEqual("28-0000051b2c7d", bus.family.device(bus.judged, 0))
        sent = bytes([0x55, *rom, 0xBE, *onewire.pad_28(21.5)])
        self.assertEqual(sent, bus.family.data(bus.exchanges, 0))
