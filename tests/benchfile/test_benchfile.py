"""The bench file: what is heard stands in it, whatever happens."""

import os
import re
import signal
import sqlite3
import subprocess
import sys
import time
from itertools import pairwise
from pathlib import Path
from unittest import mock

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.bench.demo import demo_capture
from pivet.bench.recorded import BEHIND, RecordedWire, recorded_wires
from pivet.bench.recorder import BLOCK_EDGES, Recorder
from pivet.errors import InputError, OutputError
from pivet.files.benchfile import edges, schema
from pivet.files.benchfile.lock import WriterLock
from pivet.files.benchfile.rescue import rescue
from pivet.files.benchfile.rows import Block, ExchangeRow
from pivet.files.benchfile.store import BenchFile
from pivet.judge.verdict import Verdict
from pivet.signal.trace import Level
from pivet.sources.source import Batch, Gap, Piece
from tests.base import PivetTest
from tests.live.cave import STEP_S, CaveTest, wire

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
        text = (Path(__file__).parents[2] / "docs" / "bench-file.md").read_text()
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
            wire = bench.add_wire(capture.id, "shelf_A", '["a"]', "humidity", "dht22", "{}")
            line = bench.line(capture.id, "a")
            for number in range(40):
                start = number * 10**9
                times = np.arange(start + 1, start + 1000, 7, dtype=np.int64)
                level = Level(number * times.size & 1)
                bench.add_block(line, Block(start, start + 10**9, level, times))
            bench.put_exchanges(
                ExchangeRow(wire.id, number, number * 10**6, 5000, 0, 0, 1, None, b"12345")
                for number in range(exchanges)
            )
            track = bench.track(wire.id, "humidity", "%RH", "")
            bench.put_readings(track, [(row, 50.0 + row) for row in range(exchanges)])
            bench.put_roles([("wheel 1", '["28-0000051b2c7d"]')])
            bench.put_setting("unit", '"°C"')
            bench.add_note(10**18, "somebody opened the door", wire.id, 7)
        return bench

    def test_everything_comes_back(self) -> None:
        """What is written, closed and opened again is the same."""
        self.made().close()
        bench = BenchFile.open(self.path)
        self.addCleanup(bench.close)
        self.assertFalse(bench.read_only)
        (capture,) = bench.captures()
        (row,) = bench.wires(capture.id)
        self.assertEqual(("shelf_A", "dht22", 125), (row.name, row.sheet, capture.resolution_ns))
        self.assertEqual(2000, bench.count(row.id))
        self.assertEqual(b"12345", bench.exchanges(row.id, 3, 4)[0].data)
        blocks = list(bench.blocks(capture.id, "a", 3 * 10**9 + 5, 5 * 10**9))
        self.assertEqual([3 * 10**9, 4 * 10**9], [block.start_ns for block in blocks])
        self.assertEqual([("wheel 1", '["28-0000051b2c7d"]')], bench.roles())
        self.assertEqual({"unit": '"°C"'}, bench.settings())
        self.assertEqual([(10**18, "somebody opened the door", 1, 7)], bench.notes())

    def test_others_can_query_it(self) -> None:
        """Plain SQL without Pivet, as docs/bench-file.md shows."""
        self.made().close()
        text = (Path(__file__).parents[2] / "docs" / "bench-file.md").read_text()
        queries = [part.split("```")[0] for part in text.split("```sql\n")[1:]]
        self.assertGreaterEqual(len(queries), 3)
        plain = sqlite3.connect(self.path)
        self.addCleanup(plain.close)
        for query in queries:
            plain.execute(query).fetchall()

    def test_the_document_lists_every_table(self) -> None:
        """No table and no column is missing from it."""
        text = (Path(__file__).parents[2] / "docs" / "bench-file.md").read_text()
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

    def test_save_as(self) -> None:
        """A whole copy under another name; nothing is overwritten."""
        bench = self.made()
        copy = self.folder / "copy.pivet"
        bench.save_as(copy)
        other = BenchFile.open(copy)
        self.addCleanup(other.close)
        self.assertEqual(bench.edge_count(), other.edge_count())
        with self.assertRaisesRegex(OutputError, "there already"):
            bench.save_as(copy)

    def test_rescue(self) -> None:
        """Pages full of garbage: what can be read is saved, the damaged file stays."""
        self.made(20_000).close()
        whole = self.path.read_bytes()
        size = 4096
        saved = 0
        for page in range(5, len(whole) // size, len(whole) // size // 7):
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
            self.assertGreater(found.rows["exchange"], 12_000)
            bench.close()
        self.assertGreater(saved, 3)

    def test_nothing_to_rescue(self) -> None:
        """A sentence, and no empty file."""
        bad = self.folder / "bad.pivet"
        bad.write_bytes(os.urandom(9000))
        with self.assertRaisesRegex(InputError, "nothing of"):
            rescue(bad, self.folder / "out.pivet")
        self.assertFalse((self.folder / "out.pivet").exists())


class Recording(CaveTest):
    """The cave recorded and looked at again."""

    def record(self, seconds: float, *names: str) -> BenchFile:
        """Records some wires."""
        sheets = {"shelf_A": "dht22", "wheels": "onewire", "brine_vat": "hc-sr04"}
        self.listen(*[wire(name, sheets.get(name)) for name in names])
        bench = BenchFile.create(self.folder / "night.pivet")
        self.addCleanup(bench.close)
        self.recorder = Recorder(bench, self.listener, "stand-in", self.clock.seconds)
        self.parts: list[np.ndarray] = []
        self.listener.taps.append(
            lambda batch: self.parts.extend(
                row.edges_ns for row in batch.pieces if "shelf_A" in row.line
            )
        )
        self.go_on(seconds)
        return bench

    @property
    def edges(self) -> np.ndarray:
        """All that was heard of shelf A."""
        return np.concatenate(self.parts)

    def go_on(self, seconds: float) -> None:
        """Time passes while it records."""
        until = self.clock.seconds() + seconds
        while self.clock.seconds() < until:
            for event in self.passes(STEP_S):
                self.recorder.tell(event)
            self.recorder.keep()

    def test_every_exchange_can_be_looked_at(self) -> None:
        """Bytes, verdict and readings are those of the moment when it was heard."""
        bench = self.record(40.0, "shelf_A", "wheels", "brine_vat")
        self.cave.plug("wheel_3", False, self.now_us)
        self.cave.circuits["shelf_A"].troubles.noisy = True
        self.go_on(40.0)
        self.recorder.keep(now=True)
        wires = {row.row.name: row for row in recorded_wires(bench)}
        self.assertEqual({"shelf_A", "wheels", "brine_vat"}, set(wires))
        for name, recorded in wires.items():
            heard = {row.number: row for row in self.heard(name)}
            self.assertEqual(len(heard), len(recorded), name)
            for number in {*range(0, len(recorded), 17), len(recorded) - 1}:
                self.check(recorded, number, bench)

    def check(self, recorded: RecordedWire, number: int, bench: BenchFile) -> None:
        """One exchange, as the file has it and as it is shown."""
        part = recorded.around(number)
        index = number - part.first
        (row,) = bench.exchanges(recorded.row.id, number, number + 1)
        report = part.report(index)
        self.assertEqual(number, report.number)
        self.assertEqual(row.start_ns, report.start_ns)
        self.assertEqual(Verdict(row.verdict), report.verdict, (recorded.row.name, number))
        if report.facts.get("rom_command") != "f0":
            self.assertEqual(row.data or b"", report.data)
        self.assertEqual(row.device or "", report.device)

    def test_a_gap_is_kept(self) -> None:
        """A crash of the probe: the gap stands in the file, and both sides can be looked at."""
        bench = self.record(8.0, "shelf_A", "wheels")
        self.loop.crash()
        self.go_on(4.0)
        self.loop.plugged = True
        self.go_on(8.0)
        self.recorder.keep(now=True)
        self.assertEqual(1, len(bench.gaps(1, "cave.wheels")))
        for recorded in recorded_wires(bench):
            for number in range(len(recorded)):
                self.check(recorded, number, bench)

    def test_much_at_once(self) -> None:
        """Many edges that come at once stand in blocks of bounded size, none lost or doubled."""
        self.listen(wire("shelf_A", "dht22"))
        bench = BenchFile.create(self.folder / "much.pivet")
        self.addCleanup(bench.close)
        recorder = Recorder(bench, self.listener, "made up", self.clock.seconds)
        times = np.cumsum(np.random.default_rng(3).integers(1, 900, 100_001)) + 50
        gap = Gap(10, 10, Level.HIGH, 0)
        recorder.hear(Batch((Piece("a", times, int(times[-1]) + 5, gap),)))
        recorder.keep(now=True)
        blocks = list(bench.blocks(1, "a", 0, 2**60))
        self.assertLessEqual(max(row.edges_ns.size for row in blocks), BLOCK_EDGES)
        np.testing.assert_array_equal(times, np.concatenate([row.edges_ns for row in blocks]))
        at = int(times[70_000]) + 1
        (found,) = [row for row in bench.blocks(1, "a", at, at + 1) if row.start_ns <= at]
        before = int(np.searchsorted(found.edges_ns, at, side="right"))
        self.assertEqual(Level(1 ^ (70_001 & 1)), Level(found.level ^ (before & 1)))

    def test_a_full_disk_at_a_gap(self) -> None:
        """A gap while nothing can be written: listening goes on, and both sides are kept."""
        bench = self.record(4.0, "shelf_A")
        before = bench.edge_count()
        with mock.patch.object(bench, "writing", side_effect=OutputError("full", "")):
            self.loop.crash()
            self.passes(2.0)
            self.loop.plugged = True
            for event in self.passes(5.0):
                self.recorder.tell(event)
            with self.assertRaises(OutputError):
                self.recorder.keep(now=True)
        self.go_on(3.0)
        self.recorder.keep(now=True)
        self.assertGreater(bench.edge_count(), before + 150)
        self.assertEqual(1, len(bench.gaps(1, "cave.shelf_A")))
        (recorded,) = recorded_wires(bench)
        for number in range(len(recorded)):
            self.check(recorded, number, bench)

    def test_a_damaged_block(self) -> None:
        """What stands in it is gone; what stands before and behind it is shown as it was."""
        bench = self.record(40.0, "shelf_A")
        self.recorder.keep(now=True)
        (recorded,) = recorded_wires(bench)
        starts = [row.start_ns for row in bench.exchanges(1, 0, len(recorded))]
        with bench.writing():
            bench._connection.execute("DELETE FROM block")
            # It ends within an answer, at a low: what follows must not be taken the other way.
            middle = int(self.edges[int(np.searchsorted(self.edges, starts[11])) + 30]) + 5
            for first, last in pairwise([0, starts[8] - 10**6, middle, 2**61]):
                piece = self.edges[(self.edges > first) & (self.edges <= last)]
                level = Level(1 ^ (int((self.edges <= first).sum()) & 1))
                bench.add_block(1, Block(first, last, level, piece))
            bench._connection.execute(
                "UPDATE block SET data = x'00' WHERE start_ns = ?", (starts[8] - 10**6,)
            )
        for number in (2, 15):
            part = recorded.around(number)
            found = set(part.exchanges.start_ns.tolist())
            self.assertEqual(set(starts[:8] + starts[12 : number + 1 + BEHIND]), found & {*starts})

    def test_room(self) -> None:
        """At most 3 bytes an edge, exchanges and readings included, beside the empty tables."""
        BenchFile.create(self.folder / "empty.pivet").close()
        empty = (self.folder / "empty.pivet").stat().st_size
        bench = self.record(80.0, "shelf_A", "wheels")
        self.recorder.keep(now=True)
        edge_count = bench.edge_count()
        bench.close()
        size = (self.folder / "night.pivet").stat().st_size - empty
        self.assertLess(size / edge_count, 3.0)

    def test_a_full_disk_loses_nothing(self) -> None:
        """What cannot be written stays in memory, and is written when there is room again."""
        bench = self.record(5.0, "shelf_A")
        before = bench.edge_count()
        real = bench._connection.execute("PRAGMA page_count").fetchone()[0]
        bench._connection.execute(f"PRAGMA max_page_count = {real}")
        with self.assertRaisesRegex(OutputError, "cannot be written"):
            self.go_on(60.0)
        bench._connection.execute("PRAGMA max_page_count = 100000")
        self.go_on(5.0)
        self.recorder.keep(now=True)
        self.assertGreater(bench.edge_count(), before)
        (recorded,) = recorded_wires(bench)
        self.assertEqual(len(self.heard("shelf_A")), len(recorded))
        for number in range(len(recorded)):
            self.check(recorded, number, bench)


class Families(PivetTest):
    """What families bring for the file."""

    def test_data_and_device(self) -> None:
        """The columns say the same as the report."""
        for row in demo_capture().wires:
            for index in range(0, len(row), 7):
                report = row.report(index)
                self.assertEqual(report.device, row.family.device(row.judged, index))
                if not report.facts.get("found"):
                    self.assertEqual(report.data, row.family.data(row.exchanges, index))


class Kills(PivetTest):
    """kill -9 while it records."""

    def test_killed_at_any_moment(self) -> None:
        """The file opens, and no more than the last second is lost."""
        for turn in range(3):
            path = self.folder / f"killed{turn}.pivet"
            self.killed(path, 1.2 + 0.43 * turn)
            bench = BenchFile.open(path)
            try:
                (capture,) = bench.captures()
                end = max(row.end_ns for row in bench.blocks(capture.id, "flood.0", 0, 2**62))
                lost_s = (self.killed_at_ns - capture.began_ns - end) / 1e9
                self.assertLess(lost_s, 1.0)
            finally:
                bench.close()

    def killed(self, path: Path, after_s: float) -> None:
        """Records floods of edges, and kills the recording process."""
        link = str(self.folder / "cave")
        pivet = [sys.executable, "-m", "pivet"]
        standin = subprocess.Popen(
            [*pivet, "standin", "serve", "--link", link, "--flood", "20000"],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
        )
        try:
            assert standin.stdout is not None
            standin.stdout.readline()
            command = ["listen", "--source", link, "--wire", "flood.0", "--json"]
            command += ["--sensor", "onewire", "--only-listen"]
            out = path.with_suffix(".jsonl")
            with out.open("w") as stream:
                recording = subprocess.Popen(
                    [
                        *pivet,
                        *command,
                        "--sensor",
                        "onewire",
                        "--only-listen",
                        "--bench",
                        str(path),
                    ],
                    stdout=stream,
                )
            until = time.monotonic() + 20
            while '"exchange"' not in out.read_text() and time.monotonic() < until:
                time.sleep(0.05)
            time.sleep(after_s)
            recording.send_signal(signal.SIGKILL)
            self.killed_at_ns = time.time_ns()
            recording.wait()
        finally:
            standin.send_signal(signal.SIGINT)
            standin.wait(10)
            if standin.stdout is not None:
                standin.stdout.close()
