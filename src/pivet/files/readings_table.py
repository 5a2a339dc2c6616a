"""Readings as a table: CSV with a column a quantity, CSV in long form, or JSON Lines.

See docs/readings.md for the columns.
"""

import csv
import json
import math
from collections.abc import Iterable, Sequence
from enum import StrEnum
from typing import Any, NamedTuple

from pivet.files.spreadsheet import harmless_row
from pivet.readings.units import AS_KEPT, QUANTITIES, UnitChoice


class Form(StrEnum):
    """How a table is written."""

    WIDE = "csv"
    LONG = "long"
    LINES = "jsonl"
    WORKBOOK = "xlsx"

    @property
    def suffix(self) -> str:
        """The ending of its files."""
        return ".csv" if self is Form.LONG else f".{self}"


class Cell(NamedTuple):
    """A reading of an exchange; a tuple, since a log of many wires makes thousands a second.

    Attributes:
        quantity: what was measured.
        value: in the kept unit; None where there is none.
        decimals: with which it is shown in the kept unit.
        reason: why there is none, where that is not the reason of the whole row.
        raw: before a correction; None without one.
    """

    quantity: str
    value: float | None
    decimals: int
    reason: str = ""
    raw: float | None = None


class TableRow(NamedTuple):
    """An exchange that was to give readings.

    Attributes:
        time: when it began: ISO 8601 in UTC, or seconds since the capture began.
        wire, role, device: who was asked; role and code of a 1-Wire device, else empty.
        exchange: its number on the wire, from 0.
        cells: its readings.
        verdict: in one word.
        reason: why a reading failed; empty when none did.
        local: the same time by the clock on the wall, with its zone; empty without a calendar.
        file: the file that it is from, where rows of several stand together.
    """

    time: str
    wire: str
    role: str
    device: str
    exchange: int
    cells: tuple[Cell, ...]
    verdict: str
    reason: str
    local: str = ""
    file: str = ""


class Table:
    """Makes the lines of a table.

    Args:
        form: of the table.
        quantities: the columns of the wide form, in order.
        units: the units in which values are written.
        raw: quantities of the wide form that have a column of raw values too.
        clock: times are by the calendar, not since the capture began.
        files: each row says its file.
    """

    def __init__(
        self,
        form: Form,
        quantities: Sequence[str],
        units: UnitChoice = AS_KEPT,
        raw: Iterable[str] = (),
        clock: bool = True,
        files: bool = False,
    ) -> None:
        self.form, self._quantities, self._units = form, tuple(quantities), units
        self._clock, self._files = clock, files
        self._raw = frozenset(raw)
        self._time = "time" if clock else "time_s"
        self._units_of = {quantity: units.of(quantity) for quantity in QUANTITIES}
        self._csv = csv.writer(_Through(), lineterminator="\n")

    def header(self) -> str:
        """The first line; empty for JSON Lines."""
        return "" if self.form is Form.LINES else self._line(self.names())

    def names(self) -> list[str]:
        """Of the columns."""
        times = [self._time, *(["local_time"] if self._clock else [])]
        file = ["file"] if self._files else []
        return [*file, *times, "wire", "role", "device", "exchange", *self._columns()]

    def _columns(self) -> list[str]:
        if self.form is Form.LONG:
            return ["quantity", "value", "unit", "raw", "verdict", "reason"]
        names = []
        for quantity in self._quantities:
            unit = self._units.of(quantity).symbol
            name = quantity.replace(" ", "_")
            names.append(f"{name}_{unit}")
            if quantity in self._raw:
                names.append(f"{name}_raw_{unit}")
        return [*names, "verdict", "reason"]

    def lines(self, row: TableRow) -> str:
        """A row as text, with its line ends.

        Args:
            row: as it stands in the file.
        """
        if self.form is Form.LINES:
            return json.dumps(self._object(row), ensure_ascii=False) + "\n"
        if self.form is Form.LONG:
            who = self._who(row)
            return "".join(self._line([*who, *self._long(row, cell)]) for cell in row.cells)
        return self._line(self.cells(row))

    def cells(self, row: TableRow) -> list[object]:
        """A row of the wide form; values are texts with their decimals.

        Args:
            row: as it stands in the file.
        """
        return [*self._who(row), *self._wide(row), row.verdict, row.reason]

    def _who(self, row: TableRow) -> list[object]:
        times = [row.time, row.local] if self._clock else [row.time]
        file = [row.file] if self._files else []
        return [*file, *times, row.wire, row.role, row.device, row.exchange]

    def _wide(self, row: TableRow) -> list[str]:
        cells = {cell.quantity: cell for cell in row.cells}
        found = []
        for quantity in self._quantities:
            cell = cells.get(quantity)
            found.append("" if cell is None else self._value(cell, cell.value))
            if quantity in self._raw:
                found.append("" if cell is None else self._value(cell, cell.raw))
        return found

    def _long(self, row: TableRow, cell: Cell) -> list[str]:
        unit = self._units.of(cell.quantity).symbol
        value, raw = self._value(cell, cell.value), self._value(cell, cell.raw)
        return [cell.quantity, value, unit, raw, row.verdict, cell.reason or row.reason]

    def _value(self, cell: Cell, value: float | None) -> str:
        if value is None or math.isnan(value):
            return ""
        unit = self._units_of[cell.quantity]
        places = max(cell.decimals + unit.decimals, 0)
        return f"{value * unit.factor + unit.offset:z.{places}f}"

    def _object(self, row: TableRow) -> dict[str, Any]:
        time: object = row.time if self._time == "time" else float(row.time)
        made: dict[str, Any] = {"file": row.file} if self._files else {}
        made[self._time] = time
        if self._clock:
            made["local_time"] = row.local
        made["wire"] = row.wire
        if row.device:
            made |= {"role": row.role, "device": row.device}
        made |= {"exchange": row.exchange, "readings": [self._reading(cell) for cell in row.cells]}
        made["verdict"] = row.verdict
        return made | ({"reason": row.reason} if row.reason else {})

    def _reading(self, cell: Cell) -> dict[str, Any]:
        value, raw = self._value(cell, cell.value), self._value(cell, cell.raw)
        made: dict[str, Any] = {
            "quantity": cell.quantity,
            "value": float(value) if value else None,
            "unit": self._units.of(cell.quantity).symbol,
        }
        if raw:
            made["raw"] = float(raw)
        return made | ({"reason": cell.reason} if cell.reason else {})

    def _line(self, cells: Sequence[object]) -> str:
        # The writer hands on what ``write`` gives back.
        line: str = self._csv.writerow(harmless_row(cells))
        return line


class _Through:
    """What a CSV writer writes to, to have its lines as text."""

    def write(self, text: str) -> str:
        """The text itself."""
        return text
