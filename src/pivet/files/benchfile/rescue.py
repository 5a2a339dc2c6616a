"""Saving what can be read of a damaged bench file into a new one."""

import sqlite3
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

from pivet.errors import InputError, OutputError
from pivet.files.benchfile.beside import gone_advice, remove_bench
from pivet.files.benchfile.checked import is_plain, is_row
from pivet.files.benchfile.opening import READ_ERRORS, strange
from pivet.files.benchfile.schema import SINCE, name_families_anew
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import FrozenValue
from pivet.progress import Progress, silent

KEYS: dict[str, tuple[str, ...]] = {
    "setting": (),
    "role": ("position",),
    "sheet": (),
    "code": (),
    "verdict": ("verdict",),
    "capture": ("id",),
    "line": ("id",),
    "block": ("id",),
    "gap": ("id",),
    "clock": (),
    "wire": ("id",),
    "exchange": ("wire", "number"),
    "track": ("id",),
    "reading": ("track", "number"),
    "note": ("id",),
    "mark": ("id",),
    "correction": (),
    "bound": (),
    "crossing": (),
    "reference": ("id",),
    "reference_value": ("reference", "wall_ns"),
    "feed": (),
    "outgoing": ("seq",),
}
"""Tables, and the whole numbers by which they are ordered; none are read whole."""

OWNERS = {"exchange": "wire", "reading": "track", "reference_value": "reference"}
"""The table whose rows own those of another, by their first key."""

GUESSED = 64
"""How many owners are looked for when their own table cannot be read."""

READINGS_RIGHT = 3
"""Up to the version before, readings stood one exchange too late."""

MOST_SKIP = 1 << 40
MOST_KEY = 1 << 62

Row = tuple[Any, ...]


class Rescued(FrozenValue):
    """What could be saved.

    Attributes:
        rows: by table.
        broken: tables of which something could not be read.
    """

    rows: dict[str, int]
    broken: tuple[str, ...]


def rescue(damaged: Path, target: Path, progress: Progress = silent) -> Rescued:
    """Copies all that can be read into a new file; the damaged one stays as it is.

    Args:
        damaged: a bench file that cannot be opened or read.
        target: where to; must not be there.
        progress: called with the share done, 0 to 1.

    Raises:
        InputError: nothing of it can be read.
        OutputError: the target cannot be written.
        Cancelled: ``progress`` raised it.
    """
    if not damaged.is_file():
        raise InputError(f"{damaged} is not there", gone_advice(damaged))
    if target.exists() and damaged.samefile(target):
        raise OutputError(f"{target} is the damaged file itself", "give another name")
    made = BenchFile.create(target)
    try:
        source = strange(damaged)
    except BaseException:
        made.close()
        remove_bench(target)
        raise
    try:
        with made.writing():
            found = _copy(source, made, progress)
    except BaseException:
        made.close()
        remove_bench(target)
        raise
    finally:
        source.close()
    made.close()
    if not found.rows.get("capture") and not found.rows.get("block"):
        remove_bench(target)
        raise InputError(f"nothing of {damaged} can be read", "look for a copy of it")
    return found


def _copy(source: sqlite3.Connection, made: BenchFile, progress: Progress) -> Rescued:
    """Copies what can be read, table by table."""
    counts: dict[str, int] = {}
    broken = []
    found: dict[str, set[int]] = {}
    late = _version(source) < READINGS_RIGHT
    for number, table in enumerate(KEYS):
        damaged = _Table(source, table)
        owners = sorted(found.get(OWNERS.get(table, ""), range(1, GUESSED)))
        columns = _columns(made, table)
        for row in damaged.readable(owners):
            if late and table == "reading":
                row = (row[0], row[1] - 1, *row[2:])
            # Older files have fewer columns: newer ones stand behind them.
            names = ", ".join(columns[: len(row)])
            marks = ", ".join("?" * len(row))
            made._connection.execute(
                f"INSERT OR IGNORE INTO {table} ({names}) VALUES ({marks})", row
            )
            counts[table] = counts.get(table, 0) + 1
            if table in OWNERS.values():
                found.setdefault(table, set()).add(int(row[0]))
        if damaged.broken:
            broken.append(table)
        progress((number + 1) / len(KEYS))
    name_families_anew(made._connection)
    # What is outgoing from now on gets numbers behind what could be read.
    made._connection.execute(
        "UPDATE feed SET done = min(done, (SELECT coalesce(max(seq), 0) FROM outgoing))"
    )
    return Rescued(counts, tuple(broken))


class _Table:
    """A table of the damaged file.

    Args:
        source: the file.
        name: the name of the table.

    Attributes:
        broken: something of it was missed.
    """

    def __init__(self, source: sqlite3.Connection, name: str) -> None:
        self._source, self._name = source, name
        self.broken = False

    def readable(self, owners: Iterable[int]) -> Iterator[Row]:
        """The rows that can be read, and may stand there."""
        if not self._is_there():
            self.broken |= _version(self._source) >= SINCE.get(self._name, 1)
            return
        for row in self._rows(owners):
            if is_row(self._name, row):
                yield row
            else:
                self.broken = True

    def _is_there(self) -> bool:
        """Whether the name is that of a plain table: what stands in its place is not asked."""
        sql = "SELECT type, sql FROM sqlite_master WHERE name = ?"
        try:
            rows = self._source.execute(sql, (self._name,)).fetchall()
        except READ_ERRORS:
            # The list of tables itself is damaged: asking shows what can be read.
            return True
        return len(rows) == 1 and is_plain(*rows[0])

    def _rows(self, owners: Iterable[int]) -> Iterator[Row]:
        keys, name = KEYS[self._name], self._name
        if not keys:
            try:
                yield from self._source.execute(f"SELECT * FROM {name}")
            except READ_ERRORS:
                self.broken = True
        elif len(keys) == 1:
            yield from self._forward(f"SELECT {keys[0]}, * FROM {name} WHERE", keys[0], ())
        else:
            sql = f"SELECT {keys[1]}, * FROM {name} WHERE {keys[0]} = ? AND"
            for first in owners:
                yield from self._forward(sql, keys[1], (first,))

    def _forward(self, sql: str, key: str, before: tuple[int, ...]) -> Iterator[Row]:
        """Rows in the order of a key; what cannot be read is stepped over, further and further."""
        at, skip = 0, 1
        while skip < MOST_SKIP and at < MOST_KEY:
            try:
                for row in self._source.execute(f"{sql} {key} >= ? ORDER BY {key}", (*before, at)):
                    if isinstance(row[0], int):
                        at, skip = row[0] + 1, 1
                    yield row[1:]
            except READ_ERRORS:
                self.broken = True
                at, skip = at + skip, 2 * skip
            else:
                return


def _columns(made: BenchFile, table: str) -> list[str]:
    rows = made._connection.execute(f"PRAGMA table_info({table})").fetchall()
    return [row[1] for row in rows]


def _version(source: sqlite3.Connection) -> int:
    try:
        return int(source.execute("PRAGMA user_version").fetchone()[0])
    except READ_ERRORS:
        return READINGS_RIGHT
