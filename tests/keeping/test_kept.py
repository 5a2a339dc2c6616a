"""An open capture of a bench file: its parts, its lines as a whole, what is changed in it."""

import threading
from pathlib import Path
from unittest import mock

import numpy as np

from pivet.bench.export import export_capture
from pivet.captures.capture import Capture, capture_of
from pivet.captures.wire import Wire
from pivet.errors import InputError, OutputError
from pivet.files.benchfile.rows import Block
from pivet.files.benchfile.store import BenchFile
from pivet.files.captures import read_capture
from pivet.frozen import replace
from pivet.keeping import kept as kept_module
from pivet.keeping.kept import KeptCapture, kept_captures
from pivet.keeping.recorder import Recorder
from pivet.person.roles import Role, Roles
from pivet.person.stored import LastLook, read_looked, read_roles, write_looked, write_roles
from pivet.readings.sound import fixed_air
from pivet.sheets.load import find_sheet, sheet_text
from pivet.signal.trace import Level
from tests.base import shots_of
from tests.listening.cave import CaveTest, wire
from tests.patience import PATIENCE_S

FAST = replace(wire("brine_vat", "hc-sr04"), every_s=0.06)
_recorded: list[bytes] = []


class KeptTest(CaveTest):
    """Has a bench file with some wires, recorded once."""

    def setUp(self) -> None:
        super().setUp()
        self.path = self.folder / "night.pivet"
        if not _recorded:
            self.record()
            _recorded.append(self.path.read_bytes())
        self.path.write_bytes(_recorded[0])
        self.bench = BenchFile.open(self.path)
        self.addCleanup(self.bench.close)
        (self.capture,) = kept_captures(self.bench)

    def record(self) -> None:
        """Shots, some without a sensor, a crash between them; a humidity sensor beside."""
        self.listen(FAST, wire("shelf_A", "dht22"))
        bench = BenchFile.create(self.path)
        recorder = self.new_recorder(bench)
        for seconds, plugged in ((2.0, True), (1.0, False), (3.0, True)):
            self.cave.plug("brine_vat", plugged, self.now_us)
            self.pass_on(recorder, seconds)
        self.loop.crash()
        self.pass_on(recorder, 3.0)
        self.loop.plugged = True
        self.pass_on(recorder, 12.0)
        recorder.keep(now=True)
        bench.close()

    def pass_on(self, recorder: Recorder, seconds: float) -> None:
        """Time passes, and is recorded."""
        recorder.take(list(self.passes(seconds)))
        recorder.keep(now=True)

    @property
    def kept(self) -> KeptCapture:
        """Where the capture is kept."""
        assert isinstance(self.capture.kept, KeptCapture)
        return self.capture.kept

    def wire_of(self, title: str) -> Wire:
        """The newest part of a wire."""
        return next(row for row in self.capture.wires if row.title == title)


class Parts(KeptTest):
    """What is read of it."""

    def test_steps(self) -> None:
        """The next that is not sound, either way, and the last before a time, as one counts."""
        vat = self.wire_of("brine_vat")
        rows = self.bench.exchanges(self.row_of("brine_vat"), 0, 10_000)
        self.assertEqual(len(rows), self.kept.count(vat))
        others = [row.number for row in rows if row.verdict]
        self.assertGreater(len(others), 2)
        for number in range(-1, len(rows) + 1, 5):
            after = next((row for row in others if row > number), None)
            before = next((row for row in reversed(others) if row < number), None)
            self.assertEqual(after, self.kept.next_not_sound(vat, number, 1))
            self.assertEqual(before, self.kept.next_not_sound(vat, number, -1))
        for row in rows[::7]:
            self.assertEqual(row.number, self.kept.number_at(vat, row.start_ns))
            self.assertEqual(max(row.number - 1, 0), self.kept.number_at(vat, row.start_ns - 1))

    def row_of(self, title: str) -> int:
        """The number of a wire in the file."""
        return next(row.id for row in self.bench.wires() if row.name == title)

    def test_no_such_exchange(self) -> None:
        """A sentence says so."""
        vat = self.wire_of("brine_vat")
        with self.assertRaisesRegex(InputError, "no exchange 99999"):
            self.kept.around(vat, 99_999)
        with self.assertRaisesRegex(InputError, "nothing of cellar"):
            self.kept.around(replace(vat, title="cellar"), 0)

    def test_all_lines(self) -> None:
        """As one trace it holds every edge; as VCD it decodes to the same readings."""
        trace = self.kept.trace(lambda _: None)
        for line in trace.lines:
            blocks = list(self.bench.blocks(self.kept.id, line.name, 0, 1 << 62))
            edges = np.concatenate([row.edges_ns for row in blocks])
            self.assertLessEqual(line.edges_ns.size - edges.size, 1)
            self.assertTrue(np.isin(edges, line.edges_ns).all())
        self.assertIn("is not known from", " ".join(trace.notes))
        path = self.folder / "night.vcd"
        export_capture(self.capture, path)
        again = capture_of(path, read_capture(path))
        self.assertEqual(self.readings(self.capture), self.readings(again))

    def readings(self, capture: Capture) -> list[str]:
        """All humidities, as text; a wire at its end holds all of them here."""
        shelf = next(row for row in capture.wires if row.family.key == "humidity-frame")
        reports = [shelf.report(index) for index in range(len(shelf))]
        return [row.readings[0].text for row in reports if row.readings]

    def test_too_many_edges(self) -> None:
        """What cannot be held is refused, with its size."""
        with (
            mock.patch.object(kept_module, "MOST_EDGES", 10),
            self.assertRaisesRegex(InputError, "too many for one capture"),
        ):
            self.kept.trace(lambda _: None)


class Changes(KeptTest):
    """What a person does with it."""

    def test_choices(self) -> None:
        """Another type and air hold for all parts, and when the file is opened again."""
        vat = self.wire_of("brine_vat")
        told: list[str] = []
        self.kept.tell_choices = lambda name, _: told.append(name)
        choices = replace(vat.choices, sheet=find_sheet("ping3"), air=fixed_air(3.0))
        self.kept.choose(vat, choices)
        self.assertEqual(["brine_vat"], told)
        for part in (self.kept.around(vat, 3), self.opened_again("brine_vat")):
            self.assertEqual("ping3", part.sheet.id)
            self.assertAlmostEqual(3.0, float(shots_of(part).air_c[0]))

    def test_choices_where_it_is_only_shown(self) -> None:
        """They hold there and not in the file; what is recognised for the file meanwhile, too."""
        other = BenchFile.open(self.path)
        self.addCleanup(other.close)
        self.assertTrue(other.read_only)
        (shown,) = kept_captures(other)
        assert isinstance(shown.kept, KeptCapture)
        vat = next(row for row in shown.wires if row.title == "brine_vat")
        shown.kept.choose(vat, replace(vat.choices, sheet=find_sheet("ping3")))
        self.assertEqual("ping3", shown.kept.around(vat, 3).sheet.id)
        self.assertEqual("hc-sr04", self.kept.around(vat, 3).sheet.id)
        with self.bench.writing():
            self.bench.change_sheet(self.bench.wires()[0].id, "echo-6m")
        self.assertEqual("echo-6m", shown.kept.around(vat, 3).sheet.id)

    def test_choices_that_cannot_be_written(self) -> None:
        """It is said, and the wire is judged so all the same."""
        vat = self.wire_of("brine_vat")
        full = OutputError("full", "make room")
        with (
            mock.patch.object(BenchFile, "change_wire", side_effect=full),
            self.assertRaisesRegex(OutputError, "make room"),
        ):
            self.kept.choose(vat, replace(vat.choices, sheet=find_sheet("ping3")))
        self.assertEqual("ping3", self.kept.around(vat, 3).sheet.id)

    def opened_again(self, title: str) -> Wire:
        """A wire after closing and opening the file."""
        self.bench.close()
        self.bench = BenchFile.open(self.path)
        self.addCleanup(self.bench.close)
        (self.capture,) = kept_captures(self.bench)
        return self.wire_of(title)

    def test_a_sheet_as_it_was(self) -> None:
        """A file is judged by the sheet that it was recorded with, even if Pivet has another."""
        text = sheet_text("dht22").replace('name = "22-type"', 'name = "22-type of then"', 1)
        one_form = text.replace('form = "signed-tenths"', 'form = "tenths"')
        one_window = text.replace('key = "zero_high"', 'key = "nothing_high"')
        for content, name in (
            (text, "22-type of then"),
            ("no sheet", "22-type"),
            ("", "22-type"),
            (one_form, "22-type"),
            (one_window, "22-type"),
        ):
            with self.bench.writing():
                self.bench._connection.execute(
                    "UPDATE sheet SET content = ? WHERE id = 'dht22'", (content,)
                )
            self.assertEqual(name, self.opened_again("shelf_A").sheet.name)

    def test_notes(self) -> None:
        """One on an exchange; another takes its place, an empty one takes it away."""
        vat = self.wire_of("brine_vat")
        for text in ("foam", "no foam", ""):
            self.kept.put_note(vat, 5, text)
            self.assertEqual(text, self.kept.note(vat, 5))
            self.assertEqual("", self.kept.note(vat, 6))
        self.assertEqual([], [row for row in self.bench.notes() if row[3] is not None])

    def test_person(self) -> None:
        """Roles and where the person looked; rows that make no sense are left out."""
        self.assertIsNone(read_looked(self.bench))
        roles = Roles((Role("wheel", ("28-00000a41d9b2", "28-0000051b2c7d")),))
        write_roles(self.bench, roles)
        write_looked(self.bench, LastLook(1, "shelf_A", 4))
        self.assertEqual(roles, read_roles(self.bench))
        self.assertEqual(LastLook(1, "shelf_A", 4), read_looked(self.bench))
        with self.bench.writing():
            self.bench.put_roles([("a", "no json"), ("b", "[]"), ("c", "[1]")])
            self.bench.put_setting("looked at", '{"wire": 3}')
        self.assertEqual(Roles(), read_roles(self.bench))
        self.assertIsNone(read_looked(self.bench))


class Moving(KeptTest):
    """Going on under another name."""

    def test_while_somebody_writes(self) -> None:
        """A thread that records meanwhile loses nothing; it goes on in the new file."""
        line = self.bench.line(self.kept.id, "cave.shelf_A")
        done: list[int] = []
        going = threading.Event()

        def write() -> None:
            for number in range(60):
                at = 10**15 + number * 1000
                with self.bench.writing():
                    edges = np.array([at + 10, at + 20], dtype=np.int64)
                    self.bench.add_block(line, Block(at, at + 30, Level.HIGH, edges))
                done.append(number)
                going.set()

        writer = threading.Thread(target=write)
        writer.start()
        going.wait(PATIENCE_S)
        target = self.folder / "named.pivet"
        self.bench.move_to(target)
        writer.join()
        self.assertEqual(target, self.bench.path)
        blocks = list(self.bench.blocks(self.kept.id, "cave.shelf_A", 10**15, 1 << 62))
        self.assertEqual(60, len([row for row in blocks if row.start_ns >= 10**15]))
        self.assertEqual(60, len(done))
        other = BenchFile.open(self.path)
        self.addCleanup(other.close)
        self.assertFalse(other.read_only)

    def test_onto_another_file(self) -> None:
        """A file that the person chose to replace is replaced whole; nothing of it comes back."""
        target = self.folder / "old.pivet"
        old = BenchFile.create(target)
        with old.writing():
            old.put_setting("mine", "1")
        old.close()
        for ending in ("-wal", "-shm"):
            target.with_name(target.name + ending).write_bytes(b"left behind")
        self.bench.move_to(target)
        self.assertNotIn("mine", self.bench.settings())
        self.assertEqual(2, len(self.bench.wires()))

    def test_refused(self) -> None:
        """A place that cannot be written to, or a file that is open: it stays where it was."""
        busy = BenchFile.create(self.folder / "busy.pivet")
        self.addCleanup(busy.close)
        for target in (busy.path, Path("/nowhere/night.pivet"), self.folder):
            with self.assertRaises(OutputError):
                self.bench.move_to(target)
            self.assertEqual(self.path, self.bench.path)
            self.assertEqual(2, len(self.bench.wires()))
        with self.bench.writing():
            self.bench.put_setting("still", "1")
        self.assertEqual([], list(self.folder.glob(".*-new")))
