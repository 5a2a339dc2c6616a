"""Recording into the bench file: what is heard stands in it, whatever happens."""

from contextlib import closing
from itertools import pairwise
from unittest import mock

import numpy as np

from pivet.errors import OutputError
from pivet.families import FAMILIES
from pivet.files.benchfile.rows import Block
from pivet.files.benchfile.store import BenchFile
from pivet.judge.notices import bits_of
from pivet.judge.verdict import Verdict
from pivet.keeping.recorded import RecordedWire, recorded_wires
from pivet.keeping.recorder import BLOCK_EDGES
from pivet.listening import events as ev
from pivet.signal.trace import Level
from pivet.sources.source import Gap, Piece
from tests.base import PivetTest
from tests.listening.cave import STEP_S, CaveTest, wire
from tests.night import copy_of_night, demo_night


class Recording(CaveTest):
    """The cave recorded and looked at again."""

    def record(self, seconds: float, *names: str) -> BenchFile:
        """Records some wires."""
        sheets = {"shelf_A": "dht22", "wheels": "onewire", "brine_vat": "hc-sr04"}
        self.listen(*[wire(name, sheets.get(name)) for name in names])
        bench = BenchFile.create(self.folder / "night.pivet")
        self.addCleanup(bench.close)
        self.recorder = self.new_recorder(bench)
        self.go_on(seconds)
        return bench

    @property
    def edges(self) -> np.ndarray:
        """All that was heard of shelf A."""
        batches = [row.pieces for row in self.events if isinstance(row, ev.Edges)]
        parts = [row.edges_ns for rows in batches for row in rows if "shelf_A" in row.line]
        return np.concatenate(parts)

    def go_on(self, seconds: float) -> None:
        """Time passes while it records."""
        until = self.clock.seconds() + seconds
        while self.clock.seconds() < until:
            self.recorder.take(list(self.passes(STEP_S)))
            self.recorder.keep()

    def test_notices_of_a_file_are_brought_to_ours(self) -> None:
        """Before anything is recorded into it."""
        self.listen(wire("shelf_A", "dht22"))
        ours = bits_of(FAMILIES["humidity-frame"].notices)["sum-wrong"]
        with closing(BenchFile.create(self.folder / "theirs.pivet")) as bench:
            with bench.writing():
                capture = bench.add_capture("c", "c", 0, 10)
                there = bench.add_wire(capture.id, "w", "[]", "humidity-frame", None, "{}")
                bench.run(
                    "INSERT INTO exchange VALUES (?, 0, 0, 1, 0, ?, 1, NULL, NULL, NULL)",
                    [(there.id, 1 << 50)],
                )
                row = ("humidity-frame", 1 << 50, "sum-wrong", 3)
                bench.run("INSERT INTO code VALUES (?, ?, ?, ?)", [row])
            self.new_recorder(bench)
            (exchange,) = bench.exchanges(there.id, 0, 1)
            self.assertEqual(ours, exchange.notices)

    def test_every_exchange_can_be_looked_at(self) -> None:
        """Bytes, verdict and readings are those of the moment when it was heard."""
        bench = self.record(8.0, "shelf_A", "wheels", "brine_vat")
        self.cave.plug("wheel_3", False, self.now_us)
        self.cave.circuits["shelf_A"].troubles.noisy = True
        self.go_on(8.0)
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

    def test_shown_as_it_was_told(self) -> None:
        """Over many chapters: what was learned before, and what came behind, counts as it did."""
        bench = BenchFile.open(copy_of_night(self.folder))
        self.addCleanup(bench.close)
        for recorded in recorded_wires(bench):
            if recorded.row.name not in ("brine_vat", "wheels"):
                continue
            rows = bench.exchanges(recorded.row.id, 0, len(recorded))
            odd = [row.number for row in rows if row.verdict]
            for number in {*odd[::7], *range(0, len(rows), 997)}:
                part = recorded.around(number)
                self.check(recorded, number, bench)
                notices = int(part.judged.notices[number - part.first])
                self.assertEqual(rows[number].notices, notices, (recorded.row.name, number))

    def test_a_gap_is_kept(self) -> None:
        """A crash of the probe: the gap stands in the file, and both sides can be looked at."""
        bench = self.record(5.0, "shelf_A", "wheels")
        self.loop.crash()
        self.go_on(4.0)
        self.loop.plugged = True
        self.go_on(5.0)
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
        recorder = self.new_recorder(bench)
        times = np.cumsum(np.random.default_rng(3).integers(1, 900, 100_001)) + 50
        gap = Gap(10, 10, Level.HIGH, 0)
        recorder.take([ev.Edges((Piece("a", times, int(times[-1]) + 5, gap),))])
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
            self.recorder.take(list(self.passes(5.0)))
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
            self.assertEqual(set(starts[:8] + starts[12:]), found & {*starts})

    def test_room(self) -> None:
        """At most 3 bytes an edge, exchanges and readings included, beside the empty tables."""
        BenchFile.create(self.folder / "empty.pivet").close()
        empty = (self.folder / "empty.pivet").stat().st_size
        bench = self.record(40.0, "shelf_A", "wheels")
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
        for row in demo_night().wires:
            for index in range(0, len(row), 7):
                report = row.report(index)
                self.assertEqual(report.device, row.family.device(row.judged, index))
                if not report.facts.get("found"):
                    self.assertEqual(report.data, row.family.data(row.exchanges, index))
