"""The tables of the bench file, and how older files become newer ones."""

import re
import sqlite3
from collections.abc import Callable, Mapping

from pivet.sheets.families import FORMER_KEYS

APPLICATION_ID = 0x50495654
"""``PIVT``, in the file's header: tells a bench file from other SQLite files."""

VERSION = 6
SHEETS_WHOLE_SINCE = 2

TABLES = """
CREATE TABLE setting (key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE role (
    position INTEGER PRIMARY KEY, name TEXT NOT NULL, codes TEXT NOT NULL
);
CREATE TABLE sheet (
    id TEXT PRIMARY KEY, family TEXT NOT NULL, name TEXT NOT NULL,
    content TEXT NOT NULL DEFAULT ''
) WITHOUT ROWID;
CREATE TABLE code (
    family TEXT NOT NULL, bit INTEGER NOT NULL, code TEXT NOT NULL, weight INTEGER NOT NULL,
    PRIMARY KEY (family, bit)
) WITHOUT ROWID;
CREATE TABLE verdict (verdict INTEGER PRIMARY KEY, word TEXT NOT NULL);
CREATE TABLE capture (
    id INTEGER PRIMARY KEY, name TEXT NOT NULL, source TEXT NOT NULL,
    began_ns INTEGER NOT NULL, resolution_ns INTEGER NOT NULL
);
CREATE TABLE line (
    id INTEGER PRIMARY KEY, capture INTEGER NOT NULL REFERENCES capture, name TEXT NOT NULL,
    UNIQUE (capture, name)
);
CREATE TABLE block (
    id INTEGER PRIMARY KEY, line INTEGER NOT NULL REFERENCES line,
    start_ns INTEGER NOT NULL, end_ns INTEGER NOT NULL, level INTEGER NOT NULL,
    edges INTEGER NOT NULL, data BLOB NOT NULL
);
CREATE INDEX block_by_time ON block (line, start_ns);
CREATE TABLE gap (
    id INTEGER PRIMARY KEY, line INTEGER NOT NULL REFERENCES line,
    start_ns INTEGER NOT NULL, end_ns INTEGER NOT NULL, level INTEGER NOT NULL,
    lost INTEGER, why TEXT NOT NULL
);
CREATE INDEX gap_by_time ON gap (line, start_ns);
CREATE TABLE clock (
    capture INTEGER NOT NULL REFERENCES capture, t_ns INTEGER NOT NULL, wall_ns INTEGER NOT NULL,
    PRIMARY KEY (capture, t_ns)
) WITHOUT ROWID;
CREATE TABLE wire (
    id INTEGER PRIMARY KEY, capture INTEGER NOT NULL REFERENCES capture, name TEXT NOT NULL,
    lines TEXT NOT NULL, family TEXT NOT NULL, sheet TEXT, setup TEXT NOT NULL
);
CREATE TABLE exchange (
    wire INTEGER NOT NULL REFERENCES wire, number INTEGER NOT NULL,
    start_ns INTEGER NOT NULL, length_ns INTEGER NOT NULL, verdict INTEGER NOT NULL,
    notices INTEGER NOT NULL, attempt INTEGER NOT NULL, device TEXT, bytes BLOB,
    margin INTEGER,
    PRIMARY KEY (wire, number)
) WITHOUT ROWID;
CREATE TABLE track (
    id INTEGER PRIMARY KEY, wire INTEGER NOT NULL REFERENCES wire, quantity TEXT NOT NULL,
    unit TEXT NOT NULL, device TEXT NOT NULL, UNIQUE (wire, quantity, device)
);
CREATE TABLE reading (
    track INTEGER NOT NULL REFERENCES track, number INTEGER NOT NULL, value REAL,
    PRIMARY KEY (track, number)
) WITHOUT ROWID;
CREATE TABLE note (
    id INTEGER PRIMARY KEY, wall_ns INTEGER NOT NULL, wire INTEGER REFERENCES wire,
    number INTEGER, text TEXT NOT NULL
);
"""

GIVEN = """
CREATE TABLE mark (
    id INTEGER PRIMARY KEY, wall_ns INTEGER NOT NULL, wire TEXT NOT NULL, text TEXT NOT NULL
);
CREATE TABLE correction (
    wire TEXT NOT NULL, who TEXT NOT NULL, quantity TEXT NOT NULL,
    gain REAL NOT NULL, offset REAL NOT NULL, points TEXT NOT NULL,
    PRIMARY KEY (wire, who, quantity)
) WITHOUT ROWID;
CREATE TABLE bound (
    wire TEXT NOT NULL, who TEXT NOT NULL, quantity TEXT NOT NULL,
    low REAL, high REAL, hysteresis REAL NOT NULL, delay_s REAL NOT NULL,
    PRIMARY KEY (wire, who, quantity)
) WITHOUT ROWID;
CREATE TABLE crossing (
    wire TEXT NOT NULL, who TEXT NOT NULL, quantity TEXT NOT NULL, side TEXT NOT NULL,
    since_ns INTEGER NOT NULL, told_ns INTEGER NOT NULL, value REAL NOT NULL,
    worst REAL NOT NULL, until_ns INTEGER,
    PRIMARY KEY (wire, who, quantity, side, since_ns)
) WITHOUT ROWID;
CREATE TABLE reference (
    id INTEGER PRIMARY KEY, name TEXT NOT NULL, quantity TEXT NOT NULL, accuracy REAL
);
CREATE TABLE reference_value (
    reference INTEGER NOT NULL REFERENCES reference, wall_ns INTEGER NOT NULL,
    value REAL NOT NULL, PRIMARY KEY (reference, wall_ns)
) WITHOUT ROWID;
"""
"""What a person gives to readings; new with version 3."""

FEEDS = """
CREATE TABLE feed (
    name TEXT PRIMARY KEY, setup TEXT NOT NULL, paused INTEGER NOT NULL, done INTEGER NOT NULL,
    sent INTEGER NOT NULL, tried_ns INTEGER NOT NULL, acked_ns INTEGER NOT NULL,
    trouble TEXT NOT NULL
) WITHOUT ROWID;
CREATE TABLE outgoing (
    seq INTEGER PRIMARY KEY, feed TEXT NOT NULL, wire INTEGER NOT NULL, number INTEGER NOT NULL,
    change INTEGER NOT NULL
);
"""
"""What is sent elsewhere, and what is still to be sent; new with version 6."""

ADDED: Mapping[int, str] = {3: GIVEN, 6: FEEDS}
"""Tables that came later, by the version that brought them."""

SINCE: Mapping[str, int] = {
    name: version
    for version, tables in ADDED.items()
    for name in re.findall(r"CREATE TABLE (\w+)", tables)
}
"""The version that brought a table; those that are not here were there from the first."""

Migration = Callable[[sqlite3.Connection], None]


def _add_tables(connection: sqlite3.Connection, tables: str) -> None:
    """Within a transaction, which a script would end."""
    for statement in tables.strip().split(";")[:-1]:
        connection.execute(statement)


def _keep_sheets_whole(connection: sqlite3.Connection) -> None:
    connection.execute("ALTER TABLE sheet ADD COLUMN content TEXT NOT NULL DEFAULT ''")


def _keep_margins_and_what_is_given(connection: sqlite3.Connection) -> None:
    connection.execute("ALTER TABLE exchange ADD COLUMN margin INTEGER")
    # Up to version 2 readings stood one exchange too late.
    connection.execute("UPDATE reading SET number = -number")
    connection.execute("UPDATE reading SET number = -number - 1")
    _add_tables(connection, GIVEN)


def _keep_more_notices(connection: sqlite3.Connection) -> None:
    """Notices may have more than 32 bits: the tables stay, but no older Pivet must read them."""


def name_families_anew(connection: sqlite3.Connection) -> None:
    """Up to version 4 two families were named like quantities.

    Args:
        connection: to the file.
    """
    for table in ("sheet", "code", "wire"):
        for former, key in FORMER_KEYS.items():
            connection.execute(f"UPDATE {table} SET family = ? WHERE family = ?", (key, former))


def _keep_feeds(connection: sqlite3.Connection) -> None:
    _add_tables(connection, FEEDS)


MIGRATIONS: Mapping[int, Migration] = {
    1: _keep_sheets_whole,
    2: _keep_margins_and_what_is_given,
    3: _keep_more_notices,
    4: name_families_anew,
    5: _keep_feeds,
}
"""By the version that a file has: makes the next one of it, within one transaction."""


def use_wal(connection: sqlite3.Connection) -> None:
    """What is written goes into a journal beside the file first; a copy forgets that.

    Args:
        connection: to the file.
    """
    connection.execute("PRAGMA journal_mode = WAL")


def create(connection: sqlite3.Connection) -> None:
    """Makes the tables of a new file.

    Args:
        connection: to the file.
    """
    use_wal(connection)
    connection.executescript(
        f"BEGIN; {TABLES} {' '.join(ADDED.values())} PRAGMA application_id = {APPLICATION_ID}; "
        f"PRAGMA user_version = {VERSION}; COMMIT;"
    )


def make_version(connection: sqlite3.Connection, version: int) -> None:
    """Makes the tables that a file of a version has, for comparison.

    Args:
        connection: to an empty database.
        version: 1 up to ``VERSION``.
    """
    connection.executescript(TABLES)
    for since, tables in ADDED.items():
        if version >= since:
            connection.executescript(tables)
    # Columns that later versions added.
    if version < SINCE["correction"]:
        connection.execute("ALTER TABLE exchange DROP COLUMN margin")
    if version < SHEETS_WHOLE_SINCE:
        connection.execute("ALTER TABLE sheet DROP COLUMN content")


def migrate(
    connection: sqlite3.Connection,
    version: int,
    steps: Mapping[int, Migration] = MIGRATIONS,
    newest: int = VERSION,
) -> None:
    """Brings an older file to the newest version, all at once or not at all.

    Args:
        connection: to the file.
        version: the version that it has.
        steps: each makes the next version of one.
        newest: that it is to have.
    """
    connection.execute("BEGIN IMMEDIATE")
    try:
        for step in range(version, newest):
            steps[step](connection)
        connection.execute(f"PRAGMA user_version = {newest}")
    except BaseException:
        connection.execute("ROLLBACK")
        raise
    connection.execute("COMMIT")
