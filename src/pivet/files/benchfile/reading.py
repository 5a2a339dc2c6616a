"""What a bench file holds: reading it, while somebody may write."""

import sqlite3
import threading
import time
from collections.abc import Iterator, Mapping, Sequence
from itertools import starmap
from pathlib import Path
from typing import Any

from pivet.files.benchfile import edges
from pivet.files.benchfile.checked import (
    Bits,
    Data,
    Few,
    Ident,
    Length,
    Name,
    Ns,
    Number,
    Small,
    Step,
    Text,
    Verdict,
    checked,
    damaged,
)
from pivet.files.benchfile.edges import MOST_NS
from pivet.files.benchfile.opening import MOST_S, READ_ERRORS, connect, read_error
from pivet.files.benchfile.rows import Block, CaptureRow, ExchangeRow, GapRow, WireRow
from pivet.frozen import replace
from pivet.sheets.families import family_key
from pivet.signal.trace import Level

STEPS = 1_000_000
"""Steps of SQLite between two looks at the clock."""


class BenchReader:
    """Reads a bench file by a connection of its own, which waits for nobody.

    Making it, and every method, may raise ``InputError``: the file is damaged, or the like.

    Args:
        path: the file.

    Attributes:
        path: the file.
    """

    def __init__(self, path: Path) -> None:
        # Closing it while another thread reads would end the program.
        self._reading = threading.Lock()
        self._open(path)

    def look_at(self, path: Path) -> None:
        """Reads this file from now on.

        Args:
            path: the file.
        """
        with self._reading:
            self._reader.close()
            self._open(path)

    def _open(self, path: Path) -> None:
        self.path = path
        self._until = 0.0
        try:
            self._reader = connect(path, _only_reads)
        except READ_ERRORS as error:
            raise read_error(path, error) from error
        self._reader.set_progress_handler(self._takes_too_long, STEPS)

    def close_reader(self) -> None:
        """Ends reading; may be called twice."""
        with self._reading:
            self._reader.close()

    def rows(self, sql: str, values: Sequence[Any] = (), kind: Any = tuple[Any, ...]) -> list[Any]:
        """The answer to a question, for the modules of this package.

        Args:
            sql: the question.
            values: the values that it is about.
            kind: the kind of the rows, see ``checked``.

        Raises:
            InputError: the file cannot be read, or holds numbers beyond all.
        """
        try:
            with self._reading:
                self._until = time.monotonic() + MOST_S
                found = self._reader.execute(sql, values).fetchall()
        except READ_ERRORS as error:
            raise read_error(self.path, error) from error
        except OverflowError as error:
            raise damaged(self.path, "a number beyond all") from error
        return checked(found, kind, self.path)

    def _takes_too_long(self) -> bool:
        return time.monotonic() > self._until

    def has(self, table: str, column: str) -> bool:
        """Whether a table has a column: one that is only shown may be of an older version.

        Args:
            table: its name.
            column: its name.
        """
        return column in {row[1] for row in self.rows(f"PRAGMA table_info({table})")}

    def captures(self) -> list[CaptureRow]:
        """All captures."""
        rows = self.rows(
            "SELECT id, name, source, began_ns, resolution_ns FROM capture",
            kind=tuple[Ident, Name, Name, Ns, Step],
        )
        return [CaptureRow(*row) for row in rows]

    def wires(self, capture: int | None = None) -> list[WireRow]:
        """The wires of a capture, or all.

        Args:
            capture: its number in the file; None for all.
        """
        rows = self.rows(
            "SELECT id, capture, name, lines, family, sheet, setup FROM wire "
            "WHERE ?1 IS NULL OR capture = ?1 ORDER BY id",
            (capture,),
            tuple[Ident, Ident, Name, Name, Name, Name | None, Text],
        )
        return [replace(row, family=family_key(row.family)) for row in starmap(WireRow, rows)]

    def lines(self, capture: int) -> dict[str, int]:
        """The lines of a capture, with the number of their edges.

        Args:
            capture: its number in the file.
        """
        rows = self.rows(
            "SELECT name, coalesce(sum(edges), 0) FROM line LEFT JOIN block "
            "ON block.line = line.id WHERE capture = ? GROUP BY line.id ORDER BY line.id",
            (capture,),
            tuple[Name, Length],
        )
        return dict(rows)

    def count(self, wire: int) -> int:
        """Number of exchanges of a wire.

        Args:
            wire: its number in the file.
        """
        sql = "SELECT max(number) FROM exchange WHERE wire = ?"
        last = self.rows(sql, (wire,), tuple[Number | None])[0][0]
        return 0 if last is None else last + 1

    def exchanges(self, wire: int, first: int, last: int) -> list[ExchangeRow]:
        """Exchanges ``first`` up to ``last`` of a wire.

        Args:
            wire: its number in the file.
            first: number of the first exchange.
            last: one past the number of the last.
        """
        rows = self.rows(
            "SELECT number, start_ns, length_ns, verdict, notices, attempt, device, bytes "
            "FROM exchange WHERE wire = ? AND number >= ? AND number < ? ORDER BY number",
            (wire, first, last),
            tuple[Number, Ns, Length, Verdict, Bits, Small, Name | None, Few | None],
        )
        return [ExchangeRow(*row) for row in rows]

    def next_not_sound(self, wire: int, number: int, step: int) -> int | None:
        """The next exchange after (``step`` 1) or before (-1) a number that is not sound.

        Args:
            wire: its number in the file.
            number: of the exchange from which it is looked.
            step: 1 forward, -1 back.
        """
        beyond, order = (">", "ASC") if step > 0 else ("<", "DESC")
        rows = self.rows(
            f"SELECT number FROM exchange WHERE wire = ? AND number {beyond} ? AND verdict != 0 "
            f"ORDER BY number {order} LIMIT 1",
            (wire, number),
            tuple[Number],
        )
        return rows[0][0] if rows else None

    def number_at(self, wire: int, t_ns: int) -> int:
        """The last exchange that begins before a time; 0 when there is none.

        Args:
            wire: its number in the file.
            t_ns: time in the capture.
        """
        low, high = 0, self.count(wire)
        while high - low > 1:
            middle = (low + high) // 2
            rows = self.rows(
                "SELECT start_ns FROM exchange WHERE wire = ? AND number >= ? "
                "ORDER BY number LIMIT 1",
                (wire, middle),
                tuple[Ns],
            )
            low, high = (middle, high) if rows and rows[0][0] <= t_ns else (low, middle)
        return low

    def blocks(self, capture: int, line: str, start_ns: int, end_ns: int) -> Iterator[Block]:
        """The stretches of a line that touch a time, in order; damaged ones are left out.

        Args:
            capture: its number in the file.
            line: its name.
            start_ns: begin of the time, ns.
            end_ns: its end, ns.
        """
        begin = self.rows(
            "SELECT max(start_ns) FROM block JOIN line ON line.id = block.line "
            "WHERE line.capture = ? AND line.name = ? AND start_ns <= ?",
            (capture, line, start_ns),
            tuple[Ns | None],
        )[0][0]
        rows = self.rows(
            "SELECT start_ns, block.end_ns, level, data FROM block "
            "JOIN line ON line.id = block.line WHERE line.capture = ? AND line.name = ? "
            "AND start_ns >= ? AND start_ns < ? ORDER BY start_ns",
            (capture, line, start_ns if begin is None else begin, end_ns),
            tuple[Ns, Ns, Small, Data],
        )
        known = -MOST_NS
        for start, end, level, data in rows:
            found = edges.unpacked(data, start)
            # Blocks that overlap, or reach beyond their own end, were not written like that.
            inside = found is not None and (not found.size or int(found[-1]) <= end)
            if found is None or not inside or start < known:
                continue
            known = end
            if end > start_ns:
                yield Block(start, end, Level(level & 1), found)

    def gaps(self, capture: int, line: str) -> list[GapRow]:
        """What is not known of a line.

        Args:
            capture: its number in the file.
            line: its name.
        """
        rows = self.rows(
            "SELECT gap.start_ns, gap.end_ns, gap.level, lost, why FROM gap "
            "JOIN line ON line.id = gap.line WHERE line.capture = ? AND line.name = ? "
            "ORDER BY gap.start_ns",
            (capture, line),
            tuple[Ns, Ns, Small, Length | None, Text],
        )
        return [GapRow(row[0], row[1], Level(row[2] & 1), row[3], row[4]) for row in rows]

    def settings(self) -> Mapping[str, str]:
        """All settings, as JSON."""
        return dict(self.rows("SELECT key, value FROM setting", kind=tuple[Name, Text]))

    def roles(self) -> list[tuple[str, str]]:
        """All roles: name, and codes as JSON."""
        sql = "SELECT name, codes FROM role ORDER BY position"
        return self.rows(sql, kind=tuple[Name, Text])

    def notes(self) -> list[tuple[int, str, int | None, int | None]]:
        """All notes: when, what, on which wire and exchange."""
        sql = "SELECT wall_ns, text, wire, number FROM note ORDER BY wall_ns"
        return self.rows(sql, kind=tuple[Ns, Text, Ident | None, Number | None])

    def note_on(self, wire: int, number: int) -> str:
        """The note on an exchange; empty when there is none.

        Args:
            wire: its number in the file.
            number: the number of the exchange.
        """
        sql = "SELECT text FROM note WHERE wire = ? AND number = ?"
        rows = self.rows(sql, (wire, number), tuple[Text])
        return rows[0][0] if rows else ""

    def sheet_content(self, sheet: str) -> str:
        """The data file of a sheet as it was when it was used; empty in older files.

        Args:
            sheet: its id.
        """
        if not self.has("sheet", "content"):
            return ""
        rows = self.rows("SELECT content FROM sheet WHERE id = ?", (sheet,), tuple[Text])
        return rows[0][0] if rows else ""

    def edge_count(self) -> int:
        """Edges of all lines."""
        sql = "SELECT coalesce(sum(edges), 0) FROM block"
        return int(self.rows(sql, kind=tuple[Length])[0][0])


def _only_reads(connection: sqlite3.Connection) -> None:
    connection.execute("PRAGMA query_only = ON")
