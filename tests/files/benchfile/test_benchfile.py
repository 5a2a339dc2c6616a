"""The bench file: what is written comes back, and what is wrong is told."""

import os
import re
import sqlite3
from collections.abc import Iterator
from itertools import chain
from pathlib import Path
from unittest import mock

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.errors import InputError, OutputError
from pivet.families import FAMILIES
from pivet.files.benchfile import columns, edges, schema
from pivet.files.benchfile.checked import Ns
from pivet.files.benchfile.lock import WriterLock
from pivet.files.benchfile.reading import BenchReader
from pivet.files.benchfile.rescue import _Table, rescue
from pivet.files.benchfile.rows import Block, ExchangeRow
from pivet.files.benchfile.store import BenchFile
from pivet.signal.trace import Level
from tests.base import PivetTest, older_bench

KEPT = ("wire", "exchange", "track", "reading", "note", "setting")

rising = st.lists(st.integers(1, 2**40), min_size=1, max_size=200).map(
    lambda widths: np.cumsum(np.array(widths, dtype=np.int64))
)


class Edges(PivetTest):
    """Blocks of edges."""

    @given(rising, st.integers(0, 2**60))
    def test_edges_come_back(self, steps: np.ndarray, start: int) -> None:
        """To the nanosecond, whatever the distances."""
        data = edges.packed(steps + start, start)
        np.testing.assert_array_equal(steps + start, edges.unpacked(data, start))

    def test_example_of_the_document(self) -> None:
        """docs/bench-file.md gives a block and its edges."""
        text = (Path(__file__).parents[3] / "docs" / "bench-file.md").read_text()
        data = re.search(r"`([0-9a-f]+)` with `start_ns` 1000", text)
        assert data is not None
        found = edges.unpacked(bytes.fromhex(data[1]), 1000)
        self.assertEqual([1048, 1146], [] if found is None else found.tolist())

    @given(st.binary(max_size=200))
    def test_damaged_blocks(self, data: bytes) -> None:
        """Are told, and raise nothing."""
        edges.unpacked(data, 0)


class File(PivetTest):
    """Opening, writing, refusing."""

    def setUp(self) -> None:
        super().setUp()
        self.path = self.folder / "night.pivet"

    def made(self, exchanges: int = 2000) -> BenchFile:
        """A file with some content."""
        bench = BenchFile.create(self.path)
        self.addCleanup(bench.close)
        with bench.writing():
            capture = bench.add_capture("cave", "made up", 10**18, 125)
            wire = bench.add_wire(capture.id, "shelf_A", '["a"]', "humidity-frame", "dht22", "{}")
            line = bench.line(capture.id, "a")
            for number in range(40):
                start = number * 10**9
                times = np.arange(start + 1, start + 1000, 7, dtype=np.int64)
                level = Level(number * times.size & 1)
                bench.add_block(line, Block(start, start + 10**9, level, times))
            rows = (
                ExchangeRow(number, number * 10**6, 5000, 0, 0, 1, None, b"12345")
                for number in range(exchanges)
            )
            bench.put_exchanges(wire.id, rows)
            track = bench.track(wire.id, "humidity", "%RH", "")
            bench.put_readings(track, [(row, 50.0 + row) for row in range(exchanges)])
            bench.put_roles([("wheel 1", '["28-0000051b2c7d"]')])
            bench.put_setting("unit", '"°C"')
            bench.add_note(10**18, "somebody opened the door", wire.id, 7)
        return bench

    def test_others_can_query_it(self) -> None:
        """Plain SQL without Pivet, as docs/bench-file.md shows."""
        self.made().close()
        text = (Path(__file__).parents[3] / "docs" / "bench-file.md").read_text()
        queries = [part.split("```")[0] for part in text.split("```sql\n")[1:]]
        self.assertGreaterEqual(len(queries), 3)
        plain = sqlite3.connect(self.path)
        self.addCleanup(plain.close)
        for query in queries:
            plain.execute(query).fetchall()

    def test_the_document_lists_every_table(self) -> None:
        """No table and no column is missing from it."""
        text = (Path(__file__).parents[3] / "docs" / "bench-file.md").read_text()
        self.made().close()
        plain = sqlite3.connect(self.path)
        self.addCleanup(plain.close)
        for (table,) in plain.execute("SELECT name FROM sqlite_master WHERE type = 'table'"):
            for column in plain.execute(f"PRAGMA table_info({table})"):
                row = next(line for line in text.splitlines() if line.startswith(f"| `{table}` |"))
                self.assertIn(f"`{column[1]}`", row)

    def test_a_second_instance_only_looks(self) -> None:
        """And says so; writing is refused, reading sees what the first writes."""
        first = self.made()
        second = BenchFile.open(self.path)
        self.addCleanup(second.close)
        self.assertTrue(second.read_only)
        self.assertIn("another window", second.why)
        with self.assertRaises(OutputError), second.writing():
            pass
        with first.writing():
            first.put_setting("unit", '"°F"')
        self.assertEqual({"unit": '"°F"'}, second.settings())
        first.close()
        third = BenchFile.open(self.path)
        self.addCleanup(third.close)
        self.assertFalse(third.read_only)

    def test_a_lock_taken_away(self) -> None:
        """A lock on a file that its holder has just removed is none."""
        first, second = WriterLock(self.path), WriterLock(self.path)
        self.assertEqual("", first.take())
        self.assertIn("another window", second.take())
        handle = os.open(first._path, os.O_RDWR)
        first.give()
        os.close(handle)
        self.assertEqual("", second.take())
        self.assertIn("another window", WriterLock(self.path).take())
        second._path.unlink()
        third = WriterLock(self.path)
        self.assertEqual("", third.take())
        for lock in (second, third):
            lock.give()

    def test_a_folder_that_cannot_be_written(self) -> None:
        """The true reason is given: nobody else has the file."""
        self.made().close()
        with mock.patch("os.open", side_effect=PermissionError(13, "Permission denied")):
            bench = BenchFile.open(self.path)
        self.addCleanup(bench.close)
        self.assertTrue(bench.read_only)
        self.assertIn("Permission denied", bench.why)
        with (
            mock.patch("os.open", side_effect=PermissionError(13, "Permission denied")),
            self.assertRaisesRegex(OutputError, "cannot be made"),
        ):
            BenchFile.create(self.folder / "new.pivet")

    def test_by_time(self) -> None:
        """The last exchange before a moment, in files of any version; sheets only in newer ones."""
        for version in range(1, 6):
            reader = BenchReader(older_bench(version, self.folder))
            self.addCleanup(reader.close_reader)
            for wire in reader.wires():
                sql = "SELECT start_ns FROM exchange WHERE wire = ? ORDER BY number"
                starts = reader.rows(sql, (wire.id,), tuple[Ns])
                for number, (start_ns,) in enumerate(starts[:200]):
                    self.assertEqual(number, reader.number_at(wire.id, start_ns))
                    before = reader.number_at(wire.id, start_ns - 1)
                    self.assertEqual(max(number - 1, 0), before)
            self.assertLessEqual(bool(reader.sheet_content("dht22")), version >= 2)

    def test_refusals(self) -> None:
        """Nothing there, no bench file, another database, a newer one: a sentence, and no harm."""
        with self.assertRaisesRegex(InputError, "is not there"):
            BenchFile.open(self.folder / "none.pivet")
        text = self.folder / "text.pivet"
        text.write_text("this is no database, but long enough to be looked at" * 20)
        other = self.folder / "other.pivet"
        plain = sqlite3.connect(other)
        plain.execute("CREATE TABLE x (y)")
        plain.close()
        for path in (text, other):
            before = path.read_bytes()
            with self.assertRaisesRegex(InputError, "no bench file"):
                BenchFile.open(path)
            self.assertEqual(before, path.read_bytes())
        self.made().close()
        plain = sqlite3.connect(self.path)
        plain.execute("PRAGMA user_version = 99")
        plain.close()
        before = self.path.read_bytes()
        with self.assertRaisesRegex(InputError, "newer Pivet"):
            BenchFile.open(self.path)
        self.assertEqual(before, self.path.read_bytes())
        with self.assertRaisesRegex(OutputError, "there already"):
            BenchFile.create(self.path)
        self.assertEqual([], [row.name for row in self.folder.glob(".*lock")])

    def test_closed_meanwhile(self) -> None:
        """Who still asks is told so; nothing is wrong with the file."""
        bench = self.made(1)
        bench.close()
        with self.assertRaisesRegex(InputError, "closed meanwhile: open it again"):
            bench.wires()
        closed = self.assertRaisesRegex(OutputError, "closed meanwhile: open it again")
        with closed, bench.writing():
            bench.add_capture("cave", "made up", 10**18, 125)

    def test_in_portions(self) -> None:
        """All rows of a wire and of a track, from any on, however many come at once."""
        bench = self.made(0)
        wire, track = bench.wires()[0].id, bench.track(1, "humidity", "%RH", "")
        numbers = [0, 1, 2, 5, 6, 7, 8, 9, 13]
        rows = (ExchangeRow(row, row * 10**6, 5000, 0, 0, 1, None, b"12345") for row in numbers)
        with bench.writing():
            bench.put_exchanges(wire, rows)
            bench.put_readings(track, [(row, 50.0 + row) for row in numbers])
        for most in (1, 2, 3, 4, 9, 10):
            for first in (0, 1, 3, 9, 14):
                with mock.patch.object(columns, "AT_ONCE", most):
                    found = [*columns.exchange_columns(bench, wire, first)]
                    read = [*columns.reading_columns(bench, track, first)]
                wanted = [row for row in numbers if row >= first]
                for parts in (found, read):
                    own = [part.number.tolist() for part in parts]
                    self.assertEqual(wanted, [*chain(*own)])
                    self.assertTrue(all(0 < len(row) <= most for row in own))

    def test_migration(self) -> None:
        """Steps are taken in order; when one fails nothing has happened."""
        plain = sqlite3.connect(":memory:", isolation_level=None)
        self.addCleanup(plain.close)
        plain.execute("CREATE TABLE t (a)")
        steps = {
            1: lambda to: to.execute("ALTER TABLE t ADD COLUMN b"),
            2: lambda to: to.execute("ALTER TABLE t ADD COLUMN c"),
            3: lambda to: to.execute("ALTER TABLE t ADD COLUMN c"),
        }
        schema.migrate(plain, 1, steps, 3)
        self.assertEqual(3, plain.execute("PRAGMA user_version").fetchone()[0])
        with self.assertRaises(sqlite3.Error):
            schema.migrate(plain, 2, steps, 4)
        self.assertEqual(3, plain.execute("PRAGMA user_version").fetchone()[0])
        self.assertEqual(3, len(plain.execute("PRAGMA table_info(t)").fetchall()))

    def test_older_files(self) -> None:
        """Written to they become new ones; looked at they stay as they are."""
        for version in range(1, schema.VERSION):
            path = older_bench(version, self.folder)
            before = path.read_bytes()
            BenchReader(path).close_reader()
            self.assertEqual((before, version), (path.read_bytes(), self.version_of(path)))
            bench = BenchFile.open(path)
            self.assertTrue(bench.wires())
            kept = bench._connection.execute("SELECT DISTINCT family FROM wire").fetchall()
            self.assertLessEqual({key for (key,) in kept}, set(FAMILIES))
            bench.close()
            self.assertEqual(schema.VERSION, self.version_of(path))

    def version_of(self, path: Path) -> int:
        """As the file itself says."""
        plain = sqlite3.connect(path)
        self.addCleanup(plain.close)
        return int(plain.execute("PRAGMA user_version").fetchone()[0])

    def test_looking_at_another_file(self) -> None:
        """Reads that one from now on, and lets the first go; closed, it says so."""
        self.made(3).close()
        other = self.folder / "other.pivet"
        BenchFile.create(other).close()
        reader = BenchReader(self.path)
        first = reader._reader
        self.assertEqual(1, len(reader.captures()))
        reader.look_at(other)
        self.assertEqual(([], other), (reader.captures(), reader.path))
        with self.assertRaises(sqlite3.ProgrammingError):
            first.execute("SELECT 1")
        for _ in range(2):
            reader.close_reader()
        with self.assertRaises(InputError):
            reader.captures()

    def test_nothing_half_written(self) -> None:
        """An error within a change leaves the file as it was."""
        bench = self.made()
        with self.assertRaises(ZeroDivisionError), bench.writing():
            bench.put_setting("unit", "0")
            bench.line(1, "new")
            raise ZeroDivisionError
        self.assertEqual({"unit": '"°C"'}, bench.settings())
        with bench.writing():
            bench.add_block(bench.line(1, "new"), Block(0, 9, Level.LOW, np.array([3])))
        self.assertEqual(1, len(list(bench.blocks(1, "new", 0, 10))))

    def test_tidying_changes_nothing(self) -> None:
        """Small blocks become large ones with the same edges."""
        bench = self.made()
        before = list(bench.blocks(1, "a", 0, 10**12))
        with bench.writing():
            gone = bench.tidy_blocks(1, 30 * 10**9, 3000)
        after = list(bench.blocks(1, "a", 0, 10**12))
        self.assertGreater(gone, 10)
        self.assertEqual(len(before) - gone, len(after))
        for name in ("edges_ns",):
            np.testing.assert_array_equal(
                np.concatenate([getattr(row, name) for row in before]),
                np.concatenate([getattr(row, name) for row in after]),
            )
        ends = [row.end_ns for row in after]
        self.assertEqual(ends[:-1], [row.start_ns for row in after[1:]])
        levels = [Level(row.start_ns // 10**9 * 143 & 1) for row in after]
        self.assertEqual(levels, [row.level for row in after])

    def test_where_nothing_can_be_opened(self) -> None:
        """A folder that is gone is said in a sentence, by who only reads too; no lock stays."""
        for path in (self.folder / "gone" / "night.pivet", self.folder):
            with self.assertRaisesRegex(InputError, "cannot be read"):
                BenchReader(path)
        path = self.folder / "new.pivet"
        refusal = InputError("it cannot be read", "try again")
        with (
            mock.patch.object(BenchReader, "_open", side_effect=refusal),
            self.assertRaisesRegex(InputError, "try again"),
        ):
            BenchFile.create(path)
        self.assertFalse(path.exists())
        BenchFile.create(path).close()

    def test_rescue(self) -> None:
        """Pages full of garbage: what can be read is saved, the damaged file stays."""
        made = self.made(4_000)
        self.assertEqual([("wal",)], made.rows("PRAGMA journal_mode"))
        with self.assertRaises(InputError):
            made.rows("DELETE FROM note")
        made.close()
        every = rescue(self.path, self.folder / "all.pivet")
        self.assertEqual((), every.broken)
        whole = self.path.read_bytes()
        size = 4096
        saved = 0
        for page in range(5, len(whole) // size, len(whole) // size // 5):
            broken = self.folder / f"broken{page}.pivet"
            data = bytearray(whole)
            data[page * size : (page + 2) * size] = os.urandom(2 * size)
            broken.write_bytes(data)
            target = self.folder / f"rescued{page}.pivet"
            found = rescue(broken, target)
            self.assertEqual(bytes(data), broken.read_bytes())
            bench = BenchFile.open(target)
            self.assertEqual("shelf_A", bench.wires()[0].name)
            saved += bool(found.broken)
            lost = [name for name in every.rows if found.rows.get(name, 0) < every.rows[name]]
            self.assertLessEqual(set(lost), set(found.broken), page)
            self.assertGreater(found.rows["exchange"], 2_400)
            bench.close()
        self.assertGreater(saved, 2)

    def test_rescue_of_old_files(self) -> None:
        """A table that there was then is missed; one that came later is not."""
        for gone in ("", "note"):
            path = older_bench(1, self.folder)
            plain = sqlite3.connect(path)
            plain.execute(f"DROP TABLE {gone}" if gone else "SELECT 1")
            plain.close()
            shares: list[float] = []
            found = rescue(path, self.folder / f"{gone}.rescued.pivet", shares.append)
            self.assertEqual((sorted(shares), 1.0, True), (shares, shares[-1], shares[0] > 0))
            self.assertEqual((gone,) if gone else (), found.broken)

        for version in (1, 2, 3):
            path, target = older_bench(version, self.folder), self.folder / f"{version}.pivet"
            rescue(path, target)
            kept = []
            for bench in map(BenchFile.open, (path, target)):
                self.addCleanup(bench.close)
                kept.append([bench.rows(f"SELECT * FROM {name} ORDER BY 1, 2") for name in KEPT])
            self.assertEqual(kept[0], kept[1])

    def test_stepped_over(self) -> None:
        """Further and further while nothing can be read, and one by one again behind it."""
        bad = {*range(100, 108), 300}

        class Damaged:
            """Rows by their number."""

            def execute(self, _sql: str, at: tuple[int, ...]) -> Iterator[tuple[int, int]]:
                for key in range(at[-1], 400):
                    if key in bad:
                        raise sqlite3.DatabaseError("malformed")
                    yield key, key

        table = _Table(Damaged(), "wire")  # type: ignore[arg-type]
        found = [key for (key,) in table._forward("SELECT", "id", ())]
        missed = {*range(100, 115), 300}
        self.assertEqual([key for key in range(400) if key not in missed], found)
        self.assertTrue(table.broken)

    def test_nothing_to_rescue(self) -> None:
        """A sentence, and no empty file."""
        bad = self.folder / "bad.pivet"
        bad.write_bytes(os.urandom(9000))
        with self.assertRaisesRegex(InputError, "nothing of"):
            rescue(bad, self.folder / "out.pivet")
        self.assertFalse((self.folder / "out.pivet").exists())
