"""What a person gives to readings, in the bench file: marks, corrections, limits, references."""

from collections.abc import Iterable
from typing import Any

from pivet.files.benchfile.checked import TABLES
from pivet.files.benchfile.reading import BenchReader
from pivet.files.benchfile.store import BenchFile

Row = tuple[Any, ...]

COLUMNS = {
    "mark": ("wall_ns", "wire", "text"),
    "correction": ("wire", "who", "quantity", "gain", "offset", "points"),
    "bound": ("wire", "who", "quantity", "low", "high", "hysteresis", "delay_s"),
    "crossing": (
        "wire",
        "who",
        "quantity",
        "side",
        "since_ns",
        "told_ns",
        "value",
        "worst",
        "until_ns",
    ),
    "reference": ("id", "name", "quantity", "accuracy"),
    "reference_value": ("reference", "wall_ns", "value"),
}
"""The columns of each table, in the order of rows here."""


def given_rows(bench: BenchReader, table: str) -> list[Row]:
    """All rows of a table; none where an older file does not have it.

    Args:
        bench: the open file.
        table: its name in the schema.

    Raises:
        InputError: they cannot be read.
    """
    columns = COLUMNS[table]
    if not bench.has(table, columns[0]):
        return []
    sql = f"SELECT {', '.join(columns)} FROM {table} ORDER BY {columns[0]}"
    return bench.rows(sql, kind=_kind(table))


def _kind(table: str) -> Any:
    kinds = TABLES[table]
    # The number of a mark says nothing.
    return tuple[kinds[len(kinds) - len(COLUMNS[table]) :]]  # type: ignore[misc]


def put_rows(bench: BenchFile, table: str, rows: Iterable[Row]) -> None:
    """Adds rows, or puts them in place of those with the same key; within ``writing``.

    Args:
        bench: the bench file.
        table: its name.
        rows: with all columns.
    """
    columns = COLUMNS[table]
    marks = ", ".join("?" * len(columns))
    bench.run(f"INSERT OR REPLACE INTO {table} ({', '.join(columns)}) VALUES ({marks})", rows)


def replace_rows(bench: BenchFile, table: str, rows: Iterable[Row]) -> None:
    """Puts rows in place of all that a table has; within ``writing``.

    Args:
        bench: the bench file.
        table: its name.
        rows: with all columns.
    """
    bench.run(f"DELETE FROM {table} WHERE ?", [(1,)])
    put_rows(bench, table, rows)
