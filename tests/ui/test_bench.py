"""Bench files in the real window: long wires, notes, choices, what cannot be opened."""

import shutil
import sqlite3
from collections.abc import Callable
from pathlib import Path
from unittest import mock

from PySide6.QtWidgets import QFileDialog, QInputDialog, QMessageBox

from pivet.bench.live_bench import News, WireNow, wire_now
from pivet.files.benchfile.schema import VERSION
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.judge.verdict import Verdict
from pivet.keeping.kept import KeptCapture
from pivet.ui.live.state import Live
from tests.base import older_bench
from tests.listening.cave import CaveTest, wire
from tests.night import copy_of_night, copy_of_sparse_night
from tests.ui.base import WindowTest

FAST = replace(wire("brine_vat", "hc-sr04"), every_s=0.06)


class Files(WindowTest):
    """Opening, walking, changing, saving, closing."""

    def night(self, copy: Callable[[Path], Path] = copy_of_sparse_night) -> Path:
        """A night's bench."""
        return copy(self.folder).rename(self.folder / "night.pivet")

    def show(self, path: Path) -> None:
        """Opens a file, and looks at the vat."""
        self.open(path)
        titles = [wire.title for wire in self.session.captures[0].wires]
        self.session.choose_wire((0, titles.index("brine_vat")))
        self.vat = next(row.id for row in self.bench.wires() if row.name == "brine_vat")

    @property
    def bench(self) -> BenchFile:
        """The bench that is open in the window."""
        assert self.window.live.keeper.bench is not None
        return self.window.live.keeper.bench

    def test_walk(self) -> None:
        """A long wire is walked from end to end, by number and by verdict; all is the file's."""
        path = self.night(copy_of_night)  # more exchanges of brine_vat than stay in memory
        self.drop(path)
        self.assertIn("night.pivet", self.window.windowTitle())
        self.assertEqual([path], self.window._settings.recent())
        self.show(path)
        last = self.session.number
        self.assertGreater(last, 600)
        self.press("PgUp")
        self.assertEqual(last - 1, self.session.number)
        self.press("Home")
        self.assertEqual(0, self.session.number)
        self.press("Shift+PgUp")
        self.assertIn("sound", self.window.notice.text)
        with mock.patch("pivet.ui.live.controls.ask_number", return_value=300.0):
            self.press("Ctrl+G")
        self.assertEqual(300, self.session.number)
        self.assertEqual(300, self.session.report.number)
        for _ in range(8):
            self.press("PgUp")
        self.assertEqual(292, self.session.number)
        for _ in range(230):
            self.session.step(1)
        self.settle()
        self.assertEqual(522, self.session.number)
        self.press("Shift+PgUp")
        before = self.session.number
        self.assertLess(before, 522)
        self.assertIsNot(Verdict.SOUND, self.session.report.verdict)
        for number in (0, 100, 300, before, last):
            self.look_at(number)
            (row,) = self.bench.exchanges(self.vat, number, number + 1)
            self.assertEqual(row.start_ns, self.session.report.start_ns)
            self.assertEqual(Verdict(row.verdict), self.session.report.verdict)

    def test_what_a_person_changes(self) -> None:
        """Notes, type, names: kept in the file, undone, redone; the place is remembered."""
        path = self.night()
        self.show(path)
        self.look_at(17)
        with mock.patch.object(QInputDialog, "getMultiLineText", return_value=("door open", True)):
            self.press("Ctrl+T")
        self.assertEqual("door open", self.session.note)
        self.press("Ctrl+Z")
        self.assertEqual("", self.session.note)
        self.press("Ctrl+Shift+Z")
        combo = self.page.answer.sheet
        combo.activated.emit(combo.findText("three-pin echo sensor (ping3)"))
        self.assertEqual("ping3", self.session.wire.sheet.id)
        self.press("Ctrl+Z")
        self.assertEqual("hc-sr04", self.session.wire.sheet.id)
        self.press("Ctrl+Shift+Z")
        wheels = next(w for w in self.session.captures[0].wires if w.title == "wheels")
        code = next(track.rom for track in wheels.tracks if track.rom)
        self.session.edits.change_roles(self.session.roles.named(code, "door wheel"), "name")
        self.press("Ctrl+W")
        self.assertEqual([], self.session.captures)
        self.session.put_roles(self.session.roles.named(code, ""))
        self.open(path)
        self.assertEqual(17, self.session.number)
        self.assertEqual("door open", self.session.note)
        self.assertEqual("ping3", self.session.wire.sheet.id)
        self.assertEqual("door wheel", self.session.roles.names[code])

    def test_a_note_while_others_come(self) -> None:
        """It is for the exchange of which it was asked, also when another is shown meanwhile."""
        self.show(self.night())
        self.look_at(17)

        def typed(_window: object, _title: str, ask: str, before: str) -> tuple[str, bool]:
            self.look_at(20)
            return f"{ask} {before}slow", True

        with mock.patch.object(QInputDialog, "getMultiLineText", typed):
            self.press("Ctrl+T")
        self.assertEqual("", self.session.note)
        self.look_at(17)
        self.assertEqual("On exchange 17: slow", self.session.note)
        self.press("Ctrl+Z")
        self.assertEqual("", self.session.note)

    def test_save_as(self) -> None:
        """What is saved under another name is the same; work goes on there."""
        path = self.night()
        self.show(path)
        vat = self.vat
        other = self.folder / "copy.pivet"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(other), "")):
            self.press("Ctrl+S")
        self.finish_jobs()
        self.assertIn("copy.pivet", self.window.windowTitle())
        self.look_at(5)
        self.session.edits.change_note("only in the copy")
        self.press("Ctrl+W")
        self.assertTrue(path.exists())
        for name, note in ((path, ""), (other, "only in the copy")):
            bench = BenchFile.open(name)
            self.assertEqual(note, bench.note_on(vat, 5))
            bench.close()

    def test_of_others(self) -> None:
        """Only shown where somebody writes; nothing of another window is taken away."""
        # A file that somebody else writes is shown; changes are refused in a sentence.
        path = self.night()
        writer = BenchFile.open(path)
        self.addCleanup(writer.close)
        self.open(path)
        self.assertIn("(only shown)", self.window.windowTitle())
        self.assertIn("another window", self.window.notice.text)
        self.session.edits.change_note("no")
        self.assertIn("another window", self.window.notice.text)
        self.assertEqual("", self.session.note)
        # A bench that another window records, without a name yet, is never taken away here.
        keeper = self.window.live.keeper
        path = keeper._folder / "theirs.pivet"
        shutil.copy(self.night(), path)
        writer = BenchFile.open(path)
        self.addCleanup(writer.close)
        self.open(path)
        with mock.patch.object(QMessageBox, "question") as asked:
            self.press("Ctrl+W")
            asked.assert_not_called()
        self.assertEqual([], self.session.captures)
        self.assertTrue(path.exists())

    def test_unusable(self) -> None:
        """Newer, damaged and foreign files: a sentence each, and the work stays as it was."""
        path = self.night()
        self.open(path)
        number = self.session.number
        newer, damaged, foreign = (self.folder / f"{n}.pivet" for n in ("new", "bad", "text"))
        shutil.copy(path, newer)
        plain = sqlite3.connect(newer)
        plain.execute("PRAGMA user_version = 99")
        plain.close()
        damaged.write_bytes(path.read_bytes()[:5000] + bytes(9000))
        foreign.write_text("no bench\n" * 100, encoding="utf-8")
        for bad, says in ((newer, "newer Pivet"), (damaged, "damaged"), (foreign, "no bench")):
            self.open(bad)
            self.assertIn(says, self.window.notice.text)
            self.assertEqual(number, self.session.number)
            self.assertIn("night.pivet", self.window.windowTitle())

    def test_older_file(self) -> None:
        """A file of version 1 is opened, brought up to date, and shows the same readings."""
        path = older_bench(1, self.folder)
        self.open(path)
        plain = sqlite3.connect(path)
        self.addCleanup(plain.close)
        self.assertEqual((VERSION,), plain.execute("PRAGMA user_version").fetchone())
        self.assertEqual(5, len(self.session.capture.wires))
        self.assertEqual("", self.window.notice.text)
        for number in (0, 29):
            self.look_at(number)
            self.assertEqual(number, self.session.report.number)


class Following(CaveTest, WindowTest):
    """A live wire whose newest part moves on, without a thread."""

    look_s = 0.9

    def told(self) -> Live:
        """The state of the listener now."""
        rows: list[WireNow] = [wire_now(row) for row in self.listener.wires]
        news = News((), tuple(rows), True, False, 0, self.clock.now_ns)
        return Live(news.wires, news.here, news.zero_ns)

    def test_stay(self) -> None:
        """Who stays at an exchange sees the very same while hundreds follow, and finds back."""
        self.listen(FAST)
        with mock.patch.object(QMessageBox, "question"):
            bench = self.window.live.keeper.need()
        recorder = self.new_recorder(bench)
        kept = KeptCapture(bench, recorder.capture)
        capture = kept.capture()
        self.session.live[capture.key] = Live()
        self.session.add_capture(capture)
        self.window.live.keeper.throwaway = True
        stood = None
        for step in range(20):
            recorder.take(list(self.passes(1.8)))
            recorder.keep(now=True)
            self.session.hear(capture.key, self.told())
            self.wait_for(lambda: not self.session.moving, "the views have gone on")
            if step == 3:
                self.assertTrue(self.session.follows)
                self.press("PgUp")
                stood = (self.session.number, self.session.report)
            if stood is not None:
                self.assertEqual(stood[0], self.session.number)
                self.assertEqual(stood[1].readings, self.session.report.readings)
                self.assertFalse(self.session.follows)
        newest = self.session.captures[0].wires[0]
        self.assertGreater(newest.first, stood[0])
        self.press("PgDown")
        self.assertEqual(stood[0] + 1, self.session.number)
        self.press("End")
        self.assertTrue(self.session.follows)
        self.assertEqual(newest.end - 1, self.session.number)
        self.check_closing(bench.path)

    def check_closing(self, path: Path) -> None:
        """A bench without a name: the person is asked, and may stay, save, or throw it away."""
        self.window.live.keeper.throwaway = False
        kinds = QMessageBox.StandardButton
        with mock.patch.object(QMessageBox, "question", return_value=kinds.Cancel) as asked:
            self.window.close()
            asked.assert_called_once()
        self.assertTrue(self.window.isVisible())
        self.assertTrue(path.exists())
        other = self.folder / "kept.pivet"
        with (
            mock.patch.object(QMessageBox, "question", return_value=kinds.Save),
            mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(other), "")),
        ):
            self.window.close()
        self.assertFalse(self.window.isVisible())
        self.assertFalse(path.exists())
        bench = BenchFile.open(other)
        self.addCleanup(bench.close)
        self.assertGreater(bench.count(1), 500)
