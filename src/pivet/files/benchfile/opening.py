"""Opening bench files, and saying what is wrong with them."""

import os
import sqlite3
from collections.abc import Callable
from pathlib import Path

from pivet.errors import InputError, OutputError
from pivet.files.benchfile import schema
from pivet.files.benchfile.beside import SUFFIX

BUSY_S = 5.0

WRITE_ADVICE = "make room or choose another place; what was written before is safe"


def connect(path: Path, prepare: Callable[[sqlite3.Connection], None]) -> sqlite3.Connection:
    """A connection to a file that was prepared; closed again when that fails.

    Raises:
        sqlite3.Error, InputError: from ``prepare``, or the file cannot be opened.
    """
    connection = sqlite3.connect(
        path, timeout=BUSY_S, isolation_level=None, check_same_thread=False
    )
    try:
        connection.execute("PRAGMA synchronous = NORMAL")
        prepare(connection)
    except BaseException:
        connection.close()
        raise
    return connection


def check(path: Path, connection: sqlite3.Connection, writes: bool) -> None:
    """Refuses what is no bench file, and brings an older one up to date."""
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
    if version < schema.VERSION and writes:
        schema.migrate(connection, version)
    connection.execute("SELECT count(*) FROM capture").fetchone()


def read_error(path: Path, error: sqlite3.Error) -> InputError:
    text = str(error)
    if "not a database" in text:
        return InputError(f"{path} is no bench file", f"choose a file ending in {SUFFIX}")
    if "malformed" in text or "disk image" in text or "corrupt" in text:
        return InputError(
            f"{path} is damaged ({text})",
            f"rescue what can be read: pivet bench rescue {path.name} rescued{SUFFIX}",
        )
    return InputError(f"{path} cannot be read ({text})", "check its rights, or try a copy of it")


def write_error(path: Path, error: sqlite3.Error) -> OutputError:
    """The sentence for a failed write; of one cause always the same."""
    if is_full(path) or getattr(error, "sqlite_errorcode", 0) == sqlite3.SQLITE_FULL:
        return OutputError(f"{path} cannot be written, the disk is full", WRITE_ADVICE)
    return OutputError(f"{path} cannot be written ({error})", WRITE_ADVICE)


def is_full(path: Path) -> bool:
    """Whether the disk of a file has no room left.

    SQLite tells a full disk by many errors, after the file that could not grow.
    """
    try:
        found = os.statvfs(path.parent)
    except OSError:
        return False
    return found.f_bavail * found.f_frsize < ROOM


ROOM = 1 << 16
"""A disk with fewer free bytes is full."""
