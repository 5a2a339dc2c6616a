"""What may stand in a bench file: it may come from strangers, or be damaged.

Its tables are held against those that Pivet makes before the first question is asked, and every
row that is read passes ``checked``.
"""

import sqlite3
from collections.abc import Sequence
from functools import cache
from pathlib import Path
from typing import Annotated, Any, TypeVar

import msgspec

from pivet.errors import InputError
from pivet.files.benchfile import schema
from pivet.files.benchfile.beside import SUFFIX

Ident = Annotated[int, msgspec.Meta(ge=0, le=1 << 48)]
Number = Annotated[int, msgspec.Meta(ge=0, le=1 << 40)]
"""Of an exchange."""

Ns = Annotated[int, msgspec.Meta(ge=-(1 << 61), le=1 << 61)]
Length = Annotated[int, msgspec.Meta(ge=0, le=1 << 61)]
Step = Annotated[int, msgspec.Meta(ge=1, le=10**10)]
Small = Annotated[int, msgspec.Meta(ge=0, le=1 << 31)]
Bits = Annotated[int, msgspec.Meta(ge=0, lt=1 << 62)]
Verdict = Annotated[int, msgspec.Meta(ge=0, le=3)]
Margin = Annotated[int, msgspec.Meta(ge=-(1 << 31), le=1 << 31)]
Name = Annotated[str, msgspec.Meta(max_length=2000)]
Text = Annotated[str, msgspec.Meta(max_length=1_000_000)]
Few = Annotated[bytes, msgspec.Meta(max_length=1 << 16)]
Data = Annotated[bytes, msgspec.Meta(max_length=1 << 26)]

Row = TypeVar("Row")

TABLES: dict[str, tuple[Any, ...]] = {
    "setting": (Name, Text),
    "role": (Ident, Name, Text),
    "sheet": (Name, Name, Name, Text),
    "code": (Name, Bits, Name, Small),
    "verdict": (Verdict, Name),
    "capture": (Ident, Name, Name, Ns, Step),
    "line": (Ident, Ident, Name),
    "block": (Ident, Ident, Ns, Ns, Small, Small, Data),
    "gap": (Ident, Ident, Ns, Ns, Small, Length | None, Text),
    "clock": (Ident, Ns, Ns),
    "wire": (Ident, Ident, Name, Name, Name, Name | None, Text),
    "exchange": (
        *(Ident, Number, Ns, Length, Verdict, Bits, Small, Name | None, Few | None),
        Margin | None,
    ),
    "track": (Ident, Ident, Name, Name, Name),
    "reading": (Ident, Number, float | None),
    "note": (Ident, Ns, Ident | None, Number | None, Text),
    "mark": (Ident, Ns, Name, Text),
    "correction": (Name, Name, Name, float, float, Text),
    "bound": (Name, Name, Name, float | None, float | None, float, float),
    "crossing": (Name, Name, Name, Name, Ns, Ns, float, float, Ns | None),
    "reference": (Ident, Name, Name, float | None),
    "reference_value": (Ident, Ns, float),
    "feed": (Name, Text, Small, Number, Number, Ns, Ns, Text),
    "outgoing": (Ident, Name, Ident, Number, Small),
}
"""What stands in each table, column by column; older versions have fewer columns."""


def checked(rows: Sequence[tuple[Any, ...]], kind: type[Row], path: Path) -> list[Row]:
    """Rows that are of a kind, a tuple of the types above.

    Args:
        rows: as they were read.
        kind: a tuple type that each row must be.
        path: the file.

    Raises:
        InputError: one is not.
    """
    try:
        return msgspec.convert(rows, list[kind])  # type: ignore[valid-type]
    except (msgspec.ValidationError, RecursionError) as error:
        raise damaged(path, str(error)) from error


def is_row(table: str, row: tuple[Any, ...]) -> bool:
    """Whether a row may stand in a table, with all its columns or those of an older version.

    Args:
        table: its name in the schema.
        row: its values, in the order of the columns.
    """
    kinds = TABLES[table][: len(row)]
    try:
        msgspec.convert(row, tuple[kinds])  # type: ignore[valid-type]
    except (msgspec.ValidationError, RecursionError):
        return False
    return True


def decoded(text: str, kind: type[Row]) -> Row | None:
    """A JSON text of a kind; None when it is none.

    Args:
        text: what the file holds.
        kind: the row type, which is checked field by field.
    """
    try:
        return msgspec.json.decode(text.encode("utf-8", "replace"), type=kind)
    except (msgspec.DecodeError, RecursionError):
        return None


def damaged(path: Path, what: str) -> InputError:
    """The sentence for a file that holds what cannot be.

    Args:
        path: the file.
        what: what cannot be, with its table.
    """
    return InputError(
        f"{path} is damaged ({what})",
        f"rescue what can be read: pivet bench rescue {path.name} rescued{SUFFIX}",
    )


def check_tables(path: Path, connection: sqlite3.Connection, version: int) -> None:
    """Refuses a file whose tables are not those of its version.

    Views and triggers are never ours: what stands in their place would run when it is read.

    Args:
        path: the file.
        connection: to the file.
        version: the version of the file.

    Raises:
        InputError: they are others.
        sqlite3.Error: they cannot be read.
    """
    wanted = dict(_tables(version))
    sql = "SELECT type, name, sql FROM sqlite_master"
    for kind, name, text in connection.execute(sql).fetchall():
        if kind not in ("table", "index"):
            raise damaged(path, f"it has a {kind} {str(name)[:40]!r}, which Pivet never makes")
        if kind == "table" and name in wanted:
            columns = wanted.pop(name)
            if not is_plain(kind, text) or _columns(connection, name) != columns:
                raise damaged(path, f"its table {name} has other columns")
    if wanted:
        raise damaged(path, f"its table {next(iter(wanted))} is missing")


def is_plain(kind: str, sql: object) -> bool:
    """Whether something of a file, by its kind and its definition, is a table without a module.

    Args:
        kind: ``table``, ``index`` and so on, as SQLite names it.
        sql: what defines it; anything but text is refused.
    """
    return kind == "table" and str(sql).lower().split()[:2] != ["create", "virtual"]


def _columns(connection: sqlite3.Connection, table: str) -> list[tuple[Any, ...]]:
    """Name, type and hiddenness of each column of a table."""
    rows = connection.execute(f"PRAGMA table_xinfo({table})").fetchall()
    return [(row[1], row[2], row[6]) for row in rows]


@cache
def _tables(version: int) -> tuple[tuple[str, list[tuple[Any, ...]]], ...]:
    """The tables of a version, with their columns."""
    connection = sqlite3.connect(":memory:")
    try:
        schema.make_version(connection, version)
        rows = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall()
        return tuple((name, _columns(connection, name)) for (name,) in rows)
    finally:
        connection.close()
