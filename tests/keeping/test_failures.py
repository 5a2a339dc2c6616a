"""Writing that fails: at any statement, on a full disk, with the file gone; nothing is lost."""

import os
import shutil
import sqlite3
from pathlib import Path
from typing import Any

from pivet.errors import InputError, OutputError
from pivet.files.benchfile.beside import continuations, next_beside
from pivet.files.benchfile.rescue import rescue
from pivet.files.benchfile.store import BenchFile
from pivet.keeping.recorder import Recorder
from pivet.listening import events as ev
from tests.base import PivetTest
from tests.listening.cave import STEP_S, CaveTest, wire

CONTENT = {
    "line": "SELECT name FROM line ORDER BY name",
    "edges": "SELECT line.name, sum(edges), min(block.start_ns) FROM block "
    "JOIN line ON line.id = line GROUP BY line.name ORDER BY line.name",
    "wire": "SELECT name, lines, family, sheet FROM wire ORDER BY name",
    "exchange": "SELECT wire.name, number, start_ns, verdict, notices, bytes FROM exchange "
    "JOIN wire ON wire.id = wire ORDER BY wire.name, number",
    "reading": "SELECT wire.name, quantity, device, number, value FROM reading "
    "JOIN track ON track.id = track JOIN wire ON wire.id = track.wire "
    "ORDER BY wire.name, quantity, device, number",
    "orphans": "SELECT count(*) FROM exchange WHERE wire NOT IN (SELECT id FROM wire) UNION ALL "
    "SELECT count(*) FROM reading WHERE track NOT IN (SELECT id FROM track) UNION ALL "
    "SELECT count(*) FROM block WHERE line NOT IN (SELECT id FROM line)",
}
"""What a bench holds, whatever numbers its rows have."""


def content(bench: BenchFile) -> dict[str, list[tuple[Any, ...]]]:
    """All that was recorded."""
    return {name: bench.rows(sql) for name, sql in CONTENT.items()}


class Failing:
    """A connection at which one statement fails, as on a full disk."""

    def __init__(self, real: sqlite3.Connection, at: int, rolls_back: bool) -> None:
        self._real, self._left, self._rolls_back = real, at, rolls_back
        self.failed = False

    def _count(self, sql: str) -> None:
        self._left -= 1
        if not self._left:
            self.failed = True
            if self._rolls_back and self._real.in_transaction:
                self._real.execute("ROLLBACK")
            raise sqlite3.OperationalError("database or disk is full")

    def execute(self, sql: str, *values: Any) -> sqlite3.Cursor:
        """Runs a statement, or fails."""
        self._count(sql)
        return self._real.execute(sql, *values)

    def executemany(self, sql: str, rows: Any) -> sqlite3.Cursor:
        """The same for several rows."""
        self._count(sql)
        return self._real.executemany(sql, rows)

    @property
    def in_transaction(self) -> bool:
        """Something was begun."""
        return self._real.in_transaction

    def close(self) -> None:
        """Ends it."""
        self._real.close()


class Statements(CaveTest):
    """Each statement fails once."""

    def setUp(self) -> None:
        super().setUp()
        self.listen(
            wire("shelf_A", "dht22"), wire("wheels", "onewire"), wire("brine_vat", "hc-sr04")
        )
        self.told = [[*self.passes(1.3)] for _ in range(2)]

    def record(self, bench: BenchFile) -> list[ev.Event]:
        """Writes in three goes; gives what was said."""
        recorder = self.new_recorder(bench)
        said: list[ev.Event] = []
        recorder.say = said.append
        for events in self.told:
            self.clock.sleep(1.0)
            recorder.take(events)
            recorder.tick()
        self.clock.sleep(1.0)
        recorder.tick()
        recorder.close()
        self.assertFalse(recorder.unwritten)
        return said

    def test_every_statement(self) -> None:
        """Nothing is lost, nothing mixed, whichever statement fails, or the commit."""
        whole = BenchFile.create(self.folder / "whole.pivet")
        self.addCleanup(whole.close)
        self.record(whole)
        wanted = content(whole)
        self.assertEqual([(0,)] * 3, wanted["orphans"])
        self.assertGreater(len(wanted["exchange"]), 10)
        at, failed = 30, True
        while failed:
            at += 1
            path, rolls_back = self.folder / f"{at}.pivet", at % 2 == 0
            bench = BenchFile.create(path)
            recorded = Failing(bench._connection, at, rolls_back)
            with self.subTest(at=at, rolls_back=rolls_back):
                said = self.run_failing(bench, recorded)
                self.assertEqual(wanted, content(bench))
                self.assertLessEqual(len(said), 1)
            failed = recorded.failed
            bench.close()
            path.unlink()
        self.assertGreater(at, 60)

    def run_failing(self, bench: BenchFile, failing: Failing) -> list[ev.Event]:
        """Records while one statement fails; beginning is not what is tried."""
        bench._connection = failing  # type: ignore[assignment]
        try:
            return self.record(bench)
        except OutputError:
            self.fail("what fails while it is recorded ends nothing")
        finally:
            bench._connection = failing._real


class Disk(CaveTest):
    """A disk that is full for a while, and a file that goes away."""

    def setUp(self) -> None:
        super().setUp()
        self.listen(wire("shelf_A", "dht22"), wire("wheels", "onewire"))
        self.path = self.folder / "night.pivet"
        self.bench = BenchFile.create(self.path)
        self.addCleanup(self.bench.close)
        self.recorder: Recorder = self.new_recorder(self.bench)
        self.said: list[ev.Event] = []
        self.recorder.say = self.said.append

    def go_on(self, seconds: float) -> None:
        """Time passes, and is recorded."""
        until = self.clock.seconds() + seconds
        while self.clock.seconds() < until:
            self.recorder.take(list(self.passes(STEP_S)))
            self.recorder.tick()

    def check(self, bench: BenchFile) -> None:
        """All that was heard stands in a file, under its own wire."""
        for row in bench.wires():
            heard = {event.number - 1 for event in self.heard(row.name)}
            numbers = {found.number for found in bench.exchanges(row.id, 0, 1 << 40)}
            self.assertEqual(heard, numbers, row.name)
        self.assertEqual([(0,)] * 3, content(bench)["orphans"])
        pieces = [event.pieces for event in self.events if isinstance(event, ev.Edges)]
        edges = sum(piece.edges_ns.size for rows in pieces for piece in rows)
        self.assertEqual(edges, bench.edge_count())

    def test_full_from_the_first_edge(self) -> None:
        """Told once, however often it is tried; later nothing is missing."""
        pages = self.bench._connection.execute("PRAGMA page_count").fetchone()[0]
        self.bench._connection.execute(f"PRAGMA max_page_count = {pages}")
        self.go_on(11.0)
        self.assertEqual(1, len(self.said))
        assert isinstance(self.said[0], ev.Note)
        self.assertIn("the disk is full", self.said[0].says)
        self.assertTrue(self.recorder.unwritten)
        self.bench._connection.execute("PRAGMA max_page_count = 100000")
        self.go_on(12.0)
        self.recorder.close()
        self.check(self.bench)
        self.assertEqual(2, len(self.said), "that it is written again is said, too")

    def test_full_to_the_end(self) -> None:
        """What does not stand in the file is said with its size."""
        pages = self.bench._connection.execute("PRAGMA page_count").fetchone()[0]
        self.bench._connection.execute(f"PRAGMA max_page_count = {pages}")
        self.go_on(11.0)
        self.recorder.close()
        last = self.said[-1]
        assert isinstance(last, ev.Note)
        self.assertRegex(last.says, r"\d+ edges and \d+ exchanges are not in the bench")

    def test_deleted(self) -> None:
        """Recording goes on beside, with all that stood in the file."""
        self.go_on(2.5)
        self.path.unlink()
        self.go_on(2.5)
        self.recorder.close()
        (moved,) = [event for event in self.said if isinstance(event, ev.Moved)]
        self.assertEqual(moved.path, self.bench.path)
        self.assertEqual([moved.path], continuations(self.path))
        self.check(self.bench)
        with self.assertRaisesRegex(InputError, r"goes on in night \(goes on\).pivet"):
            BenchFile.open(self.path)
        with self.assertRaisesRegex(InputError, "goes on in"):
            rescue(self.path, self.folder / "rescued.pivet")

    def test_replaced(self) -> None:
        """Another file stands there now: it is left alone."""
        self.go_on(2.5)
        other = self.folder / "other"
        other.write_bytes(b"somebody's own")
        other.replace(self.path)
        self.go_on(2.5)
        self.recorder.close()
        self.check(self.bench)
        self.assertEqual(b"somebody's own", self.path.read_bytes())
        self.assertNotEqual(self.path, self.bench.path)

    def test_the_folder_is_gone(self) -> None:
        """Said once; when it is back all is written."""
        folder = self.folder / "usb"
        folder.mkdir()
        bench = BenchFile.create(folder / "night.pivet")
        self.addCleanup(bench.close)
        self.bench, self.recorder = bench, self.new_recorder(bench)
        self.recorder.say = self.said.append
        self.go_on(3.0)
        shutil.rmtree(folder)
        self.go_on(3.0)
        self.assertEqual(1, len(self.said))
        folder.mkdir()
        self.go_on(3.0)
        self.recorder.close()
        self.check(bench)


class Beginnings(PivetTest):
    """Files as full disks and hasty people leave them."""

    def test_a_blank_file(self) -> None:
        """One of no bytes is a new bench, made or opened."""
        for begin in (BenchFile.create, BenchFile.open):
            path = self.folder / "blank.pivet"
            path.unlink(missing_ok=True)
            path.touch()
            bench = begin(path)
            with bench.writing():
                bench.put_setting("a", "1")
            self.assertEqual({"a": "1"}, bench.settings())
            bench.close()

    def test_names(self) -> None:
        """Whatever a file is called, it can be rescued."""
        for name in ("a#b", "what?", "100%", "a%20b", "x&y=z", "ü ß"):
            path, target = self.folder / f"{name}.pivet", self.folder / f"{name} saved.pivet"
            bench = BenchFile.create(path)
            with bench.writing():
                bench.add_capture("cave", "made up", 0, 1)
            bench.close()
            self.assertEqual(1, rescue(path, target).rows["capture"], name)
        with self.assertRaisesRegex(InputError, "is not there"):
            rescue(self.folder / "none.pivet", target)
        with self.assertRaisesRegex(OutputError, "damaged file itself"):
            rescue(path, path)

    def test_where_it_goes_on(self) -> None:
        """The next free name, also with brackets and dots in the old one."""
        path = self.folder / "a.[x] (goes on).pivet"
        first = next_beside(path)
        first.touch()
        second = next_beside(path)
        self.assertEqual("a.[x] (goes on) (goes on 2).pivet", second.name)
        second.touch()
        self.assertEqual([first, second], continuations(path))
        self.assertEqual([], continuations(Path("/none/at.pivet")))

    def test_a_planted_link(self) -> None:
        """A link in the place of the lock is not followed: what it leads to stays as it was."""
        precious = self.folder / "precious"
        precious.write_text("mine", encoding="utf-8")
        (self.folder / ".a.pivet-lock").symlink_to(precious)
        with self.assertRaisesRegex(OutputError, "a link stands where its lock"):
            BenchFile.create(self.folder / "a.pivet")
        self.assertEqual("mine", precious.read_text(encoding="utf-8"))
        self.assertTrue((self.folder / ".a.pivet-lock").is_symlink())

    def test_made_where_nothing_can_be_written(self) -> None:
        """One sentence, and nothing is left behind."""
        if os.geteuid() == 0:
            folder = Path("/proc")
        else:
            folder = self.folder / "closed"
            folder.mkdir(mode=0o500)
        with self.assertRaises(OutputError):
            BenchFile.create(folder / "x.pivet")
