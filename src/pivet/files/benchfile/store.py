"""A bench file that was opened: what it holds, and writing to it."""

import contextlib
import sqlite3
import threading
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np

from pivet.errors import InputError, OutputError, PivetError
from pivet.files.benchfile import edges, schema
from pivet.files.benchfile.beside import gone_advice, remove_bench
from pivet.files.benchfile.lock import WriterLock
from pivet.files.benchfile.opening import (
    READ_ERRORS,
    WRITE_ADVICE,
    check,
    connect,
    read_error,
    write_error,
)
from pivet.files.benchfile.reading import BenchReader
from pivet.files.benchfile.rows import Block, CaptureRow, ExchangeRow, GapRow, WireRow
from pivet.signal.trace import Level


class BenchFile(BenchReader):
    """A bench file.

    Every method that reads may raise ``InputError``, every one that writes ``OutputError``:
    the file is damaged, the disk full, or the like.  Several threads may use it at once: one
    writes after the other, and who reads waits for nobody.

    Attributes:
        path: the file.
        read_only: it may only be looked at.
        why: why so, for people; empty when it may be written.
    """

    def __init__(
        self, path: Path, connection: sqlite3.Connection, lock: WriterLock | None, held: str = ""
    ) -> None:
        super().__init__(path)
        self._connection, self._lock = connection, lock
        self._turn = threading.Lock()
        self.read_only = lock is None
        self.why = f"{path.name} is only shown, for {held}" if held else ""
        self._file = _identity(path)
        self._lines: dict[tuple[int, str], int] = {}
        self._tracks: dict[tuple[int, str, str], int] = {}

    @classmethod
    def create(cls, path: Path) -> "BenchFile":
        """Makes a new file.

        Args:
            path: the file.

        Raises:
            OutputError: it is there already, or cannot be written.
        """
        if path.exists() and not _is_blank(path):
            raise OutputError(f"{path} is there already", "open it, or choose another name")
        lock = WriterLock(path)
        held = lock.take()
        if held:
            raise OutputError(f"{path} cannot be made, for {held}", "choose another place")
        try:
            return cls(path, connect(path, schema.create), lock)
        except (sqlite3.Error, PivetError) as error:
            remove_bench(path)
            lock.give()
            if isinstance(error, PivetError):
                raise
            raise write_error(path, error) from error

    @classmethod
    def open(cls, path: Path) -> "BenchFile":
        """Opens a file; read-only when another instance writes it.

        One without any content, as a full disk may leave it, is a new one.

        Args:
            path: the file.

        Raises:
            InputError: it is not there, no bench file, too new, or damaged.
            OutputError: it is blank, and cannot be written.
        """
        if not path.exists():
            raise InputError(f"{path} is not there", gone_advice(path))
        if _is_blank(path):
            return cls.create(path)
        lock = WriterLock(path)
        held = lock.take()
        try:
            connection = connect(path, lambda made: check(path, made, not held))
            return cls(path, connection, None if held else lock, held)
        except READ_ERRORS as error:
            lock.give()
            raise read_error(path, error) from error
        except PivetError:
            lock.give()
            raise

    def close(self) -> None:
        """Closes it, when what is being written is; may be called twice."""
        # Closing it while another thread writes would end the program.
        with self._turn:
            self._shut()

    def _shut(self) -> None:
        try:
            if not self.read_only:
                self._connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        except sqlite3.Error:
            pass
        finally:
            self.close_reader()
            self._connection.close()
            if self._lock is not None:
                self._lock.give()
                self._lock = None

    @contextmanager
    def writing(self) -> Iterator[None]:
        """Everything written within stands in the file at its end, or nothing does.

        Numbers that are given within are forgotten when it fails: what is made later may get
        them.

        Raises:
            OutputError: it cannot be written.
        """
        if self.read_only:
            raise OutputError(self.why, "close it there, or save it under another name")
        with self._turn:
            try:
                self._undo()
                self._connection.execute("BEGIN IMMEDIATE")
                try:
                    yield
                    self._connection.execute("COMMIT")
                except BaseException:
                    self._lines.clear()
                    self._tracks.clear()
                    self._undo()
                    raise
            except sqlite3.Error as error:
                raise write_error(self.path, error) from error

    def _undo(self) -> None:
        """Takes back what a failed transaction left; SQLite may have done so by itself."""
        if self._connection.in_transaction:
            with contextlib.suppress(sqlite3.Error):
                self._connection.execute("ROLLBACK")

    # What is written: only within ``writing``.

    def add_capture(self, name: str, source: str, began_ns: int, resolution_ns: int) -> CaptureRow:
        """A new capture.

        Args:
            name: the name of the source.
            source: what it is, for people.
            began_ns: when, by the calendar, ns since 1970.
            resolution_ns: step of its stamps, ns.
        """
        made = self._connection.execute(
            "INSERT INTO capture (name, source, began_ns, resolution_ns) VALUES (?, ?, ?, ?)",
            (name, source, began_ns, resolution_ns),
        )
        return CaptureRow(int(made.lastrowid or 0), name, source, began_ns, resolution_ns)

    def add_wire(
        self, capture: int, name: str, lines: str, family: str, sheet: str | None, setup: str
    ) -> WireRow:
        """A new wire of a capture.

        Args:
            capture: its number in the file.
            name: the name of the wire.
            lines: names, JSON list.
            family: its key.
            sheet: id of the sheet; None when it was recognised.
            setup: how it is asked and what was chosen, JSON.
        """
        made = self._connection.execute(
            "INSERT INTO wire (capture, name, lines, family, sheet, setup) "
            "VALUES (?, ?, ?, ?, ?, ?)",
            (capture, name, lines, family, sheet, setup),
        )
        return WireRow(int(made.lastrowid or 0), capture, name, lines, family, sheet, setup)

    def change_wire(self, row: WireRow) -> None:
        """A wire has another name, sheet or setup.

        Args:
            row: as it stands in the file.
        """
        self._connection.execute(
            "UPDATE wire SET name = ?, sheet = ?, setup = ? WHERE id = ?",
            (row.name, row.sheet, row.setup, row.id),
        )

    def change_sheet(self, wire: int, sheet: str) -> None:
        """A wire is judged by another sheet.

        Args:
            wire: its number in the file.
            sheet: id of the sheet.
        """
        self._connection.execute("UPDATE wire SET sheet = ? WHERE id = ?", (sheet, wire))

    def line(self, capture: int, name: str) -> int:
        """Number of a line; made when it is new.

        Args:
            capture: its number in the file.
            name: as the source calls it.
        """
        key = (capture, name)
        if key not in self._lines:
            found = self._connection.execute(
                "SELECT id FROM line WHERE capture = ? AND name = ?", key
            ).fetchone()
            if found is None:
                made = self._connection.execute(
                    "INSERT INTO line (capture, name) VALUES (?, ?)", key
                )
                found = (made.lastrowid,)
            self._lines[key] = int(found[0])
        return self._lines[key]

    def add_block(self, line: int, block: Block) -> None:
        """A stretch of a line; after those that are there.

        Args:
            line: its number in the file.
            block: packed edges with first and last, ns.
        """
        self._connection.execute(
            "INSERT INTO block (line, start_ns, end_ns, level, edges, data) "
            "VALUES (?, ?, ?, ?, ?, ?)",
            (
                line,
                block.start_ns,
                block.end_ns,
                int(block.level),
                block.edges_ns.size,
                edges.packed(block.edges_ns, block.start_ns),
            ),
        )

    def add_gap(self, line: int, gap: GapRow) -> None:
        """A stretch of a line that is not known.

        Args:
            line: its number in the file.
            gap: from when to when, ns.
        """
        self._connection.execute(
            "INSERT INTO gap (line, start_ns, end_ns, level, lost, why) VALUES (?, ?, ?, ?, ?, ?)",
            (line, gap.start_ns, gap.end_ns, int(gap.level), gap.lost, gap.why),
        )

    def add_clock(self, capture: int, t_ns: int, wall_ns: int) -> None:
        """What the calendar said at a moment of a capture.

        Args:
            capture: its number in the file.
            t_ns: by the clock of the source, ns.
            wall_ns: by the calendar, ns since 1970.
        """
        self._connection.execute(
            "INSERT OR REPLACE INTO clock VALUES (?, ?, ?)", (capture, t_ns, wall_ns)
        )

    def put_exchanges(self, wire: int, rows: Iterable[ExchangeRow]) -> None:
        """Exchanges of a wire; one that is there already is replaced.

        Args:
            wire: its number in the file.
            rows: each with its number in the wire.
        """
        self._connection.executemany(
            "INSERT OR REPLACE INTO exchange VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (
                (
                    wire,
                    row.number,
                    row.start_ns,
                    row.length_ns,
                    row.verdict,
                    row.notices,
                    row.attempt,
                    row.device,
                    row.data,
                    row.margin,
                )
                for row in rows
            ),
        )

    def forget_readings(self, wire: int, numbers: Iterable[int]) -> None:
        """Takes the readings of some exchanges away: they are told anew.

        Args:
            wire: its number in the file.
            numbers: the numbers of the exchanges.
        """
        self._connection.executemany(
            "DELETE FROM reading WHERE number = ?2 "
            "AND track IN (SELECT id FROM track WHERE wire = ?1)",
            ((wire, number) for number in numbers),
        )

    def forget_exchanges(self, wire: int, numbers: Iterable[int]) -> None:
        """Takes exchanges away that were none after all, with their readings.

        Args:
            wire: its number in the file.
            numbers: the numbers of the exchanges.
        """
        rows = [(wire, number) for number in numbers]
        self.forget_readings(wire, (number for _, number in rows))
        self._connection.executemany("DELETE FROM exchange WHERE wire = ? AND number = ?", rows)

    def track(self, wire: int, quantity: str, unit: str, device: str) -> int:
        """Number of a quantity of a sensor; made when it is new.

        Args:
            wire: its number in the file.
            quantity: what is measured.
            unit: the unit in which it is kept.
            device: code of the device; empty where there is none.
        """
        key = (wire, quantity, device)
        if key not in self._tracks:
            found = self._connection.execute(
                "SELECT id FROM track WHERE wire = ? AND quantity = ? AND device = ?", key
            ).fetchone()
            if found is None:
                made = self._connection.execute(
                    "INSERT INTO track (wire, quantity, unit, device) VALUES (?, ?, ?, ?)",
                    (wire, quantity, unit, device),
                )
                found = (made.lastrowid,)
            self._tracks[key] = int(found[0])
        return self._tracks[key]

    def put_readings(self, track: int, rows: Iterable[tuple[int, float | None]]) -> None:
        """Readings by number of their exchange; None for a gap.

        Args:
            track: its number in the file.
            rows: number of the exchange, value in the kept unit.
        """
        self._connection.executemany(
            "INSERT OR REPLACE INTO reading VALUES (?, ?, ?)",
            ((track, number, value) for number, value in rows),
        )

    def add_note(self, wall_ns: int, text: str, wire: int | None, number: int | None) -> None:
        """A note, on an exchange, a wire, or all.

        Args:
            wall_ns: when, by the calendar, ns since 1970.
            text: what.
            wire: its number in the file; None for all.
            number: of the exchange; None for none.
        """
        self._connection.execute(
            "INSERT INTO note (wall_ns, wire, number, text) VALUES (?, ?, ?, ?)",
            (wall_ns, wire, number, text),
        )

    def put_note(self, wall_ns: int, text: str, wire: int, number: int) -> None:
        """The note on an exchange; an empty one takes it away.

        Args:
            wall_ns: when, by the calendar, ns since 1970.
            text: what; empty takes it away.
            wire: its number in the file.
            number: the number of the exchange.
        """
        self._connection.execute("DELETE FROM note WHERE wire = ? AND number = ?", (wire, number))
        if text:
            self.add_note(wall_ns, text, wire, number)

    def put_setting(self, key: str, value: str) -> None:
        """A setting, as JSON.

        Args:
            key: one of those in docs/bench-file.md.
            value: JSON text.
        """
        self._connection.execute("INSERT OR REPLACE INTO setting VALUES (?, ?)", (key, value))

    def put_roles(self, rows: Iterable[tuple[str, str]]) -> None:
        """All roles: name, and codes as JSON.

        Args:
            rows: all that are to stand there.
        """
        self._connection.execute("DELETE FROM role")
        self._connection.executemany("INSERT INTO role (name, codes) VALUES (?, ?)", list(rows))

    def put_words(
        self,
        verdicts: Iterable[tuple[int, str]],
        sheets: Iterable[tuple[str, str, str, str]],
    ) -> None:
        """What verdicts mean, and sheets with their data files.

        Args:
            verdicts: number, word.
            sheets: name, title, family, data file.
        """
        run = self._connection.executemany
        run("INSERT OR REPLACE INTO verdict VALUES (?, ?)", verdicts)
        run("INSERT OR REPLACE INTO sheet (id, family, name, content) VALUES (?, ?, ?, ?)", sheets)

    def change_notices(self, family: str, change: Callable[[int], int]) -> None:
        """Changes the notices of all exchanges of a family's wires.

        Args:
            family: its key.
            change: gives new bits for old ones.
        """
        self._connection.create_function("changed", 1, change, deterministic=True)
        self._connection.execute(
            "UPDATE exchange SET notices = changed(notices) "
            "WHERE wire IN (SELECT id FROM wire WHERE family = ?)",
            (family,),
        )

    def run(self, sql: str, rows: Iterable[Sequence[Any]]) -> None:
        """Writes rows of a table; for the modules of this package.

        Args:
            sql: one statement with places for values.
            rows: the values, a row each.
        """
        self._connection.executemany(sql, rows)

    def tidy_blocks(self, line: int, before_ns: int, most_edges: int) -> int:
        """Makes one block of neighbours that end before a moment; gives how many went.

        Blocks are written once a second, so that little is lost; larger ones take less room.

        Args:
            line: its number in the file.
            before_ns: only blocks that end before, ns.
            most_edges: how many a block has at most.
        """
        small = self._connection.execute(
            "SELECT id, start_ns, end_ns, edges, level FROM block WHERE line = ? AND end_ns <= ? "
            "AND edges < ? ORDER BY start_ns",
            (line, before_ns, most_edges // 2),
        ).fetchall()
        gone = 0
        for run in _runs(small, most_edges):
            blocks = [self._block(row[0]) for row in run]
            if any(block is None for block in blocks):
                continue
            whole = [block for block in blocks if block is not None]
            self._connection.executemany(
                "DELETE FROM block WHERE id = ?", [(row[0],) for row in run]
            )
            joined = np.concatenate([block.edges_ns for block in whole])
            self.add_block(line, Block(whole[0].start_ns, whole[-1].end_ns, whole[0].level, joined))
            gone += len(run) - 1
        return gone

    def _block(self, ident: int) -> Block | None:
        row = self._connection.execute(
            "SELECT start_ns, end_ns, level, data FROM block WHERE id = ?", (ident,)
        ).fetchone()
        found = edges.unpacked(row[3], row[0])
        return None if found is None else Block(row[0], row[1], Level(row[2] & 1), found)

    def save_as(self, path: Path) -> None:
        """Writes a whole copy.

        Args:
            path: where the copy is to stand.

        Raises:
            OutputError: it cannot be written, or something stands there.
        """
        if path.exists():
            raise OutputError(f"{path} is there already", "choose another name")
        with self._turn:
            self._copy(path)

    def _copy(self, path: Path) -> None:
        try:
            self._connection.execute("VACUUM INTO ?", (str(path),))
        except sqlite3.Error as error:
            path.unlink(missing_ok=True)
            raise write_error(path, error) from error

    @property
    def gone(self) -> bool:
        """The file is no longer where it was opened: deleted, moved, or another stands there.

        What was written is still safe, as long as it is not closed: ``move_to`` saves it.
        """
        return not self.read_only and _identity(self.path) != self._file

    def move_to(self, path: Path) -> None:
        """Goes on in a whole copy; what stood before stays, closed.

        Whoever writes waits meanwhile, and then writes into the copy.

        Args:
            path: where the copy is to stand.

        Raises:
            OutputError: it cannot be written; the bench stays where it was.
        """
        lock = WriterLock(path)
        held = lock.take()
        if held:
            raise OutputError(f"{path} cannot be made, for {held}", "choose another place")
        beside = path.with_name(f".{path.name}-new")
        beside.unlink(missing_ok=True)
        with self._turn:
            try:
                self._copy(beside)
                for ending in ("-wal", "-shm"):
                    path.with_name(path.name + ending).unlink(missing_ok=True)
                beside.replace(path)
                connection = connect(path, schema.use_wal)
            except (OSError, sqlite3.Error, PivetError) as error:
                beside.unlink(missing_ok=True)
                lock.give()
                if isinstance(error, PivetError):
                    raise
                raise OutputError(f"{path} cannot be written ({error})", WRITE_ADVICE) from error
            self._shut()
            self._connection, self._lock = connection, lock
            self._file = _identity(path)
            self.look_at(path)
            self.read_only, self.why = False, ""


def _identity(path: Path) -> tuple[int, int] | None:
    """Which file stands at a path; None when there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


def _is_blank(path: Path) -> bool:
    """Whether a regular file has no content, nor a journal from which it would get some."""
    journal = path.with_name(f"{path.name}-wal")
    return path.is_file() and not path.stat().st_size and not journal.exists()


def _runs(rows: list[tuple[int, int, int, int, int]], most: int) -> Iterator[list[Any]]:
    """Neighbours without anything between them, so many edges together at most."""
    run: list[Any] = []
    total = 0
    for row in rows:
        follows = run and row[1] == run[-1][2] and row[4] == run[-1][4] ^ (run[-1][3] & 1)
        if run and (not follows or total + row[3] > most):
            if len(run) > 1:
                yield run
            run, total = [], 0
        run.append(row)
        total += row[3]
    if len(run) > 1:
        yield run
