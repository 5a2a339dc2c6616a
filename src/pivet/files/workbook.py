"""Readings as a workbook (Office Open XML): numbers and times are such in every language."""

from collections.abc import Iterable
from datetime import datetime
from pathlib import Path
from typing import IO

import xlsxwriter

from pivet.errors import OutputError
from pivet.files.readings_table import Table, TableRow

MOST_ROWS = 1_048_576
"""Of a sheet, its head included."""

TIME_FORM = "yyyy-mm-dd hh:mm:ss.000"
TIMES = ("time", "local_time")
TEXTS = ("file", "wire", "role", "device", "verdict", "reason")
WIDTHS = {"time": 24, "local_time": 24, "file": 24, "device": 18, "reason": 30}


def write_workbook(table: Table, rows: Iterable[TableRow], stream: IO[bytes], path: Path) -> None:
    """Writes rows of the wide form as the one sheet of a workbook.

    Args:
        table: says the columns.
        rows: the rows, in order of time.
        stream: open for bytes.
        path: the path of the file, for messages.

    Raises:
        OutputError: there are more rows than a sheet can have.
    """
    with xlsxwriter.Workbook(stream, {"constant_memory": True}) as book:
        sheet = book.add_worksheet("readings")
        head, time = book.add_format({"bold": True}), book.add_format({"num_format": TIME_FORM})
        names = table.names()
        for column, name in enumerate(names):
            sheet.set_column(column, column, WIDTHS.get(name, 14))
        sheet.write_row(0, 0, [_title(name) for name in names], head)
        sheet.freeze_panes(1, 0)
        for number, row in enumerate(rows, 1):
            if number >= MOST_ROWS:
                raise OutputError(
                    f"{path} would have more than {MOST_ROWS} rows, the most that a sheet holds",
                    "choose a shorter time, or CSV",
                )
            for column, (name, cell) in enumerate(zip(names, table.cells(row), strict=True)):
                if cell == "":
                    continue
                if name in TIMES:
                    # A sheet's times have no zone: local time stands as the clock showed it.
                    at = datetime.fromisoformat(str(cell)).replace(tzinfo=None)
                    sheet.write_datetime(number, column, at, time)
                elif name in TEXTS:
                    sheet.write_string(number, column, str(cell))
                else:
                    sheet.write_number(number, column, float(str(cell)))


def _title(name: str) -> str:
    return {"time": "time (UTC)", "local_time": "local time"}.get(name, name.replace("_", " "))
