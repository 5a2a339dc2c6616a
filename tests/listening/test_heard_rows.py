"""Exchanges that were heard, as rows: one a device, with what follows from them if asked."""

import unittest
from typing import ClassVar

from pivet.captures.wire import Wire
from pivet.files.readings_table import TableRow
from pivet.frozen import replace
from pivet.listening.events import Heard
from pivet.listening.heard_rows import heard_rows
from pivet.person.annotations import Annotations, Labels
from pivet.person.roles import Role, Roles
from pivet.readings.correction import by_offset
from pivet.readings.series import Sensor
from tests.night import demo_night

NOON_NS = 43_200 * 10**9


class Rows(unittest.TestCase):
    """Of the demo night's wires."""

    wires: ClassVar[dict[str, Wire]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.wires = {wire.label: wire for wire in demo_night().wires}

    def rows(self, wire: Wire, derived: bool, labels: Labels | None = None) -> list[TableRow]:
        """Of all its exchanges."""
        found = []
        for index in range(len(wire)):
            event = Heard("w", index + 1, wire, index, 1)
            found += heard_rows(event, NOON_NS, labels or Labels(), derived)
        return found

    def wire(self, part: str) -> Wire:
        """One by a part of its label."""
        return next(wire for label, wire in self.wires.items() if part in label)

    def test_derived(self) -> None:
        """From temperature and humidity together, only where asked; from a vessel its fill."""
        for part, more in (("shelf_A", "dew point"), ("brine_vat", "fill")):
            wire = self.wire(part)
            plain, made = self.rows(wire, False), self.rows(wire, True)
            with self.subTest(part):
                self.assertEqual(len(plain), len(made))
                self.assertFalse(any(cell.quantity == more for row in plain for cell in row.cells))
                self.assertLessEqual({row.exchange for row in plain}, set(range(len(wire))))
                self.assertIn(0, {row.exchange for row in plain})
                for row, whole in zip(plain, made, strict=True):
                    given = any(cell.value is not None for cell in row.cells)
                    found = [cell for cell in whole.cells if cell.quantity == more]
                    self.assertEqual(given, bool(found), row)
                    self.assertEqual(row.cells, whole.cells[: len(row.cells)])

    def test_vessel(self) -> None:
        """Level, fill and, of a vessel whose cross-section is known, volume."""
        wire = self.wire("brine_vat")
        vessel = replace(wire.choices.vessel, area_m2=2.0)
        wire = wire.chosen(replace(wire.choices, vessel=vessel))
        for row in self.rows(wire, True):
            cells = {cell.quantity: cell.value for cell in row.cells}
            level = cells.get("level")
            if level is not None:
                self.assertAlmostEqual(100 * vessel.share(level), cells["fill"])
                self.assertAlmostEqual(vessel.litres(level), cells["volume"])

    def test_a_thermometer_alone(self) -> None:
        """Nothing follows from its temperature; each device has its row."""
        rows = self.rows(self.wire("wheels"), True)
        self.assertEqual({("temperature",)}, {tuple(c.quantity for c in r.cells) for r in rows})
        self.assertGreater(len({row.device for row in rows}), 2)
        self.assertEqual({4}, {cell.decimals for row in rows for cell in row.cells})
        shelf = self.rows(self.wire("shelf_A"), False)
        self.assertEqual({1}, {cell.decimals for row in shelf for cell in row.cells})

    def test_failed(self) -> None:
        """A reason, and no value; one that gives values has none."""
        for wire in self.wires.values():
            for row in self.rows(wire, True):
                failed = all(cell.value is None for cell in row.cells)
                self.assertEqual(failed, bool(row.reason), row)

    def test_labels(self) -> None:
        """Roles name devices, and corrections act on them; the raw value stands beside."""
        wire = self.wire("wheels")
        rom = next(row.device for row in self.rows(wire, False))
        roles = Roles((Role("core", (rom,)),))
        fixed = {Sensor("w", "core", "temperature"): by_offset(1.5)}
        labels = Labels(roles, Annotations(corrections=fixed))
        for row, plain in zip(self.rows(wire, False, labels), self.rows(wire, False), strict=True):
            own = row.device == rom
            self.assertEqual("core" if own else "", row.role)
            for cell, bare in zip(row.cells, plain.cells, strict=True):
                if bare.value is not None:
                    self.assertAlmostEqual(bare.value + 1.5 * own, cell.value)
                    self.assertEqual(bare.value if own else None, cell.raw)
