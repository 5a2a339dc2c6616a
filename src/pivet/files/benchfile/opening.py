"""Opening bench files, and saying what is wrong with them."""

import os
import sqlite3
from collections.abc import Callable
from pathlib import Path

from pivet.errors import InputError, OutputError
from pivet.files.benchfile import schema
from pivet.files.benchfile.beside import SUFFIX
from pivet.files.benchfile.checked import check_tables, damaged

BUSY_S = 5.0

WRITE_ADVICE = "make room or choose another place; what was written before is safe"
CLOSED, CLOSED_ADVICE = "was closed meanwhile", "open it again"


def connect(path: Path, prepare: Callable[[sqlite3.Connection], None]) -> sqlite3.Connection:
    """A connection to a file that was prepared; closed again when that fails.

    What stands in the file is not trusted: no function in it runs, and its pages are checked.

    Args:
        path: the file, which exists.
        prepare: what is done with the connection before anybody has it.

    Raises:
        sqlite3.Error, InputError: from ``prepare``, or the file cannot be opened.
    """
    connection = sqlite3.connect(
        path, timeout=BUSY_S, isolation_level=None, check_same_thread=False
    )
    connection.text_factory = _text
    try:
        connection.execute("PRAGMA trusted_schema = OFF")
        connection.execute("PRAGMA cell_size_check = ON")
        connection.execute("PRAGMA synchronous = NORMAL")
        prepare(connection)
    except BaseException:
        connection.close()
        raise
    return connection


def strange(path: Path) -> sqlite3.Connection:
    """A connection to a file of which nothing is believed, only for reading.

    Args:
        path: the file.

    Raises:
        InputError: it cannot be opened.
    """
    uri = f"{path.absolute().as_uri()}?mode=ro"
    try:
        connection = sqlite3.connect(uri, uri=True, isolation_level=None)
        connection.text_factory = _text
        connection.execute("PRAGMA trusted_schema = OFF")
    except READ_ERRORS as error:
        raise read_error(path, error) from error
    return connection


def _text(data: bytes) -> str:
    return data.decode("utf-8", "replace")


def check(path: Path, connection: sqlite3.Connection, writes: bool) -> None:
    """Refuses what is no bench file, and brings an older one up to date.

    Args:
        path: the file.
        connection: to the file.
        writes: it will be written: an older one is brought up to date.

    Raises:
        InputError: it is no bench file, is damaged, or a newer Pivet wrote it.
    """
    ident = int(connection.execute("PRAGMA application_id").fetchone()[0])
    version = int(connection.execute("PRAGMA user_version").fetchone()[0])
    if ident != schema.APPLICATION_ID:
        raise InputError(f"{path} is no bench file", f"choose a file ending in {SUFFIX}")
    if version > schema.VERSION:
        raise InputError(
            f"{path} was written by a newer Pivet (file version {version}, known here: "
            f"{schema.VERSION})",
            "install that one; the file stays as it is",
        )
    if version < 1:
        raise damaged(path, f"file version {version}, which no Pivet writes")
    check_tables(path, connection, version)
    if version < schema.VERSION and writes:
        schema.migrate(connection, version)


def read_error(path: Path, error: Exception) -> InputError:
    """The sentence for a file that cannot be read.

    Args:
        path: the file.
        error: what stopped the reading.
    """
    if _is_closed(error):
        return InputError(f"{path} {CLOSED}", CLOSED_ADVICE)
    text, code = str(error), _code(error)
    if code == sqlite3.SQLITE_NOTADB:
        if _was_one(path):
            return damaged(path, "its first bytes are not those of a bench file")
        return InputError(f"{path} is no bench file", f"choose a file ending in {SUFFIX}")
    if code == sqlite3.SQLITE_INTERRUPT:
        return damaged(path, f"reading it takes over {MOST_S:g} s")
    if code in SURROUNDINGS:
        return InputError(
            f"{path} cannot be read ({text})", "check its rights, or try a copy of it"
        )
    return damaged(path, text)


def _code(error: Exception) -> int:
    """What kind of error it is, whatever SQLite adds to it; 0 for one that is not its own."""
    return getattr(error, "sqlite_errorcode", 0) & 0xFF


def _was_one(path: Path) -> bool:
    """Whether a file begins nearly as SQLite's do."""
    try:
        with path.open("rb") as stream:
            begin = stream.read(len(MAGIC))
    except OSError:
        return False
    return sum(one == other for one, other in zip(begin, MAGIC, strict=False)) >= len(MAGIC) // 2


READ_ERRORS = (sqlite3.Error, UnicodeDecodeError)
"""What SQLite raises: of a damaged file even the message may be no text."""

MAGIC = b"SQLite format 3\0"
SURROUNDINGS = frozenset(
    (
        sqlite3.SQLITE_BUSY,
        sqlite3.SQLITE_CANTOPEN,
        sqlite3.SQLITE_FULL,
        sqlite3.SQLITE_LOCKED,
        sqlite3.SQLITE_NOMEM,
        sqlite3.SQLITE_PERM,
        sqlite3.SQLITE_READONLY,
    )
)
"""Errors that are not the file's."""

MOST_S = 20.0
"""No question to a file may take longer."""


def write_error(path: Path, error: sqlite3.Error) -> OutputError:
    """The sentence for a failed write; of one cause always the same.

    Args:
        path: the file.
        error: what SQLite says.
    """
    if _is_closed(error):
        return OutputError(f"{path} {CLOSED}", CLOSED_ADVICE)
    if is_full(path) or _code(error) == sqlite3.SQLITE_FULL:
        return OutputError(f"{path} cannot be written, the disk is full", WRITE_ADVICE)
    return OutputError(f"{path} cannot be written ({error})", WRITE_ADVICE)


def _is_closed(error: Exception) -> bool:
    """Whether this program has closed the connection: nothing is wrong with the file."""
    return isinstance(error, sqlite3.ProgrammingError)


def is_full(path: Path) -> bool:
    """Whether the disk of a file has no room left.

    SQLite tells a full disk by many errors, after the file that could not grow.

    Args:
        path: the file.
    """
    try:
        found = os.statvfs(path.parent)
    except OSError:
        return False
    return found.f_bavail * found.f_frsize < ROOM


ROOM = 1 << 16
"""A disk with fewer free bytes is full."""
