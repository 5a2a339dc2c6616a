"""Feeds of a bench file: what each is, how far it has come, and what is still to be sent."""

from collections.abc import Iterable, Sequence
from enum import IntEnum
from typing import Any

from pivet.files.benchfile.checked import TABLES, Bits, Ident, Name, Ns, Number, Small, Verdict
from pivet.files.benchfile.reading import BenchReader
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import FrozenValue

COUNTED = 50_000
"""More are not counted one by one, but by their places."""

FOR_ALL = ""
"""Feed of a row that all feeds send."""


class Change(IntEnum):
    """What became of an exchange."""

    NEW = 0
    REVISED = 1
    WITHDRAWN = 2


class FeedRow(FrozenValue):
    """A feed, as the file keeps it.

    Attributes:
        name: given by the person.
        setup: what it is, JSON; see docs/feeds.md.
        paused: it sends nothing.
        done: everything up to this row of what is outgoing is acknowledged.
        sent: how many rows were acknowledged.
        tried_ns: when something was last sent, ns since 1970; 0 for never.
        acked_ns: when something was last acknowledged, ns since 1970; 0 for never.
        trouble: why the last try failed; empty when it did not.
    """

    name: str
    setup: str
    paused: bool = False
    done: int = 0
    sent: int = 0
    tried_ns: int = 0
    acked_ns: int = 0
    trouble: str = ""


class OutgoingRow(FrozenValue):
    """An exchange that is to be sent.

    Attributes:
        seq: its place among all that was ever outgoing, from 1.
        wire: the wire's number in the file.
        number: the exchange's number on the wire, from 0.
        change: what became of it.
    """

    seq: int
    wire: int
    number: int
    change: Change


class SentExchange(FrozenValue):
    """What the file says of an exchange that is to be sent.

    Attributes:
        start_ns: when it began, in its capture, ns.
        verdict, notices: as they were judged.
        readings: quantity, code of the device and value of each; None where it failed.
    """

    start_ns: int
    verdict: int
    notices: int
    readings: tuple[tuple[str, str, float | None], ...]


def feed_rows(bench: BenchReader) -> list[FeedRow]:
    """All feeds, by name; none where an older file has none.

    Args:
        bench: the open bench file.

    Raises:
        InputError: they cannot be read.
    """
    if not bench.has("feed", "name"):
        return []
    kind: Any = tuple.__class_getitem__(TABLES["feed"])
    rows = bench.rows("SELECT * FROM feed ORDER BY name", kind=kind)
    return [FeedRow(name, setup, bool(paused), *rest) for name, setup, paused, *rest in rows]


def put_feed(bench: BenchFile, row: FeedRow) -> None:
    """A feed, in place of one of the same name; within ``writing``.

    Args:
        bench: a file open for writing.
        row: the feed.
    """
    bench.run(
        "INSERT OR REPLACE INTO feed VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        [
            (
                *(row.name, row.setup, int(row.paused), row.done, row.sent),
                *(row.tried_ns, row.acked_ns, row.trouble),
            )
        ],
    )


def forget_feed(bench: BenchFile, name: str) -> None:
    """A feed goes, with what only it was to send; within ``writing``.

    Args:
        bench: a file open for writing.
        name: of the feed.
    """
    bench.run("DELETE FROM feed WHERE name = ?", [(name,)])
    # The last row stays: its number must not come again, others are done up to it.
    bench.run(
        "DELETE FROM outgoing WHERE feed = ? AND seq < (SELECT max(seq) FROM outgoing)", [(name,)]
    )


def note_progress(
    bench: BenchFile, name: str, done: int, rows: int, acked_ns: int, trouble: str
) -> None:
    """How far a feed has come; within ``writing``.

    Args:
        bench: a file open for writing.
        name: of the feed.
        done: everything up to this row is acknowledged.
        rows: how many more rows were acknowledged.
        acked_ns: when, ns since 1970; 0 where nothing was.
        trouble: why the last try failed; empty when it did not.
    """
    bench.run(
        "UPDATE feed SET done = max(done, ?), sent = sent + ?, acked_ns = max(acked_ns, ?), "
        "trouble = ? WHERE name = ?",
        [(done, rows, acked_ns, trouble, name)],
    )


def note_try(bench: BenchFile, name: str, tried_ns: int) -> None:
    """Something is about to be sent; within ``writing``.

    Args:
        bench: a file open for writing.
        name: of the feed.
        tried_ns: the moment, ns since 1970.
    """
    bench.run("UPDATE feed SET tried_ns = ? WHERE name = ?", [(tried_ns, name)])


def pause_feed(bench: BenchFile, name: str, paused: bool) -> None:
    """A feed sends nothing any more, or goes on; within ``writing``.

    Args:
        bench: a file open for writing.
        name: of the feed.
        paused: it sends nothing.
    """
    bench.run("UPDATE feed SET paused = ? WHERE name = ?", [(int(paused), name)])


def add_outgoing(bench: BenchFile, rows: Iterable[tuple[int, int, Change]]) -> None:
    """Exchanges that all feeds are to send; within ``writing``.

    Args:
        bench: a file open for writing.
        rows: wire, number and what became of each, in the order in which they are sent.
    """
    bench.run(
        "INSERT INTO outgoing (feed, wire, number, change) VALUES (?, ?, ?, ?)",
        ((FOR_ALL, wire, number, int(change)) for wire, number, change in rows),
    )


def add_all_held(bench: BenchFile, name: str) -> None:
    """A feed is to send everything that the file holds, by time; within ``writing``.

    Args:
        bench: a file open for writing.
        name: of the feed.
    """
    bench.run(
        "INSERT INTO outgoing (feed, wire, number, change) "
        "SELECT ?, wire.id, exchange.number, 0 FROM exchange "
        "JOIN wire ON wire.id = exchange.wire JOIN capture ON capture.id = wire.capture "
        "ORDER BY capture.began_ns + exchange.start_ns, wire.id, exchange.number",
        [(name,)],
    )


def last_outgoing(bench: BenchReader) -> int:
    """The last row of all that was ever outgoing; 0 before there was one.

    Args:
        bench: the open bench file.

    Raises:
        InputError: it cannot be read.
    """
    rows = bench.rows("SELECT coalesce(max(seq), 0) FROM outgoing", kind=tuple[Number])
    return int(rows[0][0])


def last_rows(bench: BenchReader, most: int) -> list[OutgoingRow]:
    """The last exchanges of each wire, as if they were outgoing; of wires of one name the newest.

    Args:
        bench: the open bench file.
        most: how many of a wire at most.

    Raises:
        InputError: they cannot be read.
    """
    found = []
    for wire in {row.name: row.id for row in bench.wires()}.values():
        sql = "SELECT number FROM exchange WHERE wire = ? ORDER BY number DESC LIMIT ?"
        numbers = bench.rows(sql, (wire, most), tuple[Number])
        found += [OutgoingRow(0, wire, number, Change.REVISED) for (number,) in reversed(numbers)]
    return found


def outgoing_rows(bench: BenchReader, name: str, done: int, most: int) -> list[OutgoingRow]:
    """What a feed is to send next.

    Args:
        bench: the open bench file.
        name: of the feed.
        done: everything up to this row is acknowledged.
        most: how many rows at most.

    Raises:
        InputError: they cannot be read.
    """
    rows = bench.rows(
        "SELECT seq, wire, number, change FROM outgoing WHERE seq > ? AND feed IN (?, ?) "
        "ORDER BY seq LIMIT ?",
        (done, FOR_ALL, name, most),
        tuple[Ident, Ident, Number, Small],
    )
    return [
        OutgoingRow(seq, wire, number, Change(min(change, Change.WITHDRAWN)))
        for seq, wire, number, change in rows
    ]


def newest_rows(bench: BenchReader, name: str, done: int, most: int) -> list[OutgoingRow]:
    """Of what a feed is to send the last of each wire.

    Args:
        bench: the open bench file.
        name: of the feed.
        done: everything up to this row is acknowledged.
        most: how many rows of a wire at most: it may have several devices.

    Raises:
        InputError: they cannot be read.
    """
    rows = bench.rows(
        "SELECT seq, wire, number, change FROM (SELECT *, row_number() OVER "
        "(PARTITION BY wire ORDER BY seq DESC) AS place FROM outgoing "
        "WHERE seq > ? AND feed IN (?, ?)) WHERE place <= ? ORDER BY seq",
        (done, FOR_ALL, name, most),
        tuple[Ident, Ident, Number, Small],
    )
    return [OutgoingRow(seq, wire, number, Change(min(c, 2))) for seq, wire, number, c in rows]


def waiting(bench: BenchReader, name: str, done: int) -> int:
    """How many exchanges a feed is still to send.

    Args:
        bench: the open bench file.
        name: of the feed.
        done: everything up to this row is acknowledged.

    Raises:
        InputError: they cannot be read.
    """
    sql = "SELECT count(*) FROM (SELECT 1 FROM outgoing WHERE seq > ? AND feed IN (?, ?) LIMIT ?)"
    rows = bench.rows(sql, (done, FOR_ALL, name, COUNTED), tuple[Number])
    number = int(rows[0][0])
    return number if number < COUNTED else max(last_outgoing(bench) - done, number)


def tidy_outgoing(bench: BenchFile) -> None:
    """Takes away what all feeds are done with, but for the last row; within ``writing``.

    Args:
        bench: a file open for writing.
    """
    bench.run(
        "DELETE FROM outgoing WHERE seq <= (SELECT coalesce(min(done), 0) FROM feed) "
        "AND seq < (SELECT max(seq) FROM outgoing)",
        [()],
    )


def sent_exchanges(
    bench: BenchReader, wire: int, numbers: Sequence[int]
) -> dict[int, SentExchange]:
    """What the file says of exchanges of a wire, by number; those that are gone are left out.

    Args:
        bench: the open bench file.
        wire: its number in the file.
        numbers: of the exchanges; neighbours, mostly.

    Raises:
        InputError: they cannot be read.
    """
    low, high, wanted = min(numbers), max(numbers), set(numbers)
    readings: dict[int, list[tuple[str, str, float | None]]] = {}
    for quantity, device, number, value in bench.rows(
        "SELECT quantity, device, number, value FROM track JOIN reading "
        "ON reading.track = track.id AND number BETWEEN ? AND ? WHERE wire = ? ORDER BY track.id",
        (low, high, wire),
        tuple[Name, Name, Number, float | None],
    ):
        readings.setdefault(number, []).append((quantity, device, value))
    rows = bench.rows(
        "SELECT number, start_ns, verdict, notices FROM exchange "
        "WHERE wire = ? AND number BETWEEN ? AND ?",
        (wire, low, high),
        tuple[Number, Ns, Verdict, Bits],
    )
    return {
        number: SentExchange(start_ns, verdict, notices, tuple(readings.get(number, ())))
        for number, start_ns, verdict, notices in rows
        if number in wanted
    }
