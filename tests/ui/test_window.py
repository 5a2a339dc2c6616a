"""The window as a person uses it: opening, stepping, judging anew, exporting."""

import io
import sys
import threading
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QByteArray, QEventLoop, QSettings, Qt, QTimer
from PySide6.QtWidgets import QComboBox, QFileDialog, QLabel, QPushButton, QSplitter

from pivet.captures.capture import open_capture
from pivet.judge.verdict import Verdict
from pivet.progress import Progress
from pivet.sheets.load import find_sheet
from pivet.ui.app import watch_mistakes
from pivet.ui.drawing.theme import DARK, LIGHT, ThemeChoice, theme
from pivet.ui.help.viewer import HelpViewer, TextViewer
from pivet.ui.registry import VIEWS
from pivet.ui.session import edits
from pivet.ui.strip.view import StripView
from pivet.ui.window.adding import AddWireDialog
from pivet.ui.window.empty import shown_folder
from pivet.ui.window.main_window import MainWindow
from tests.base import CAPTURES
from tests.ui.base import WindowTest

AVR = CAPTURES / "av_dht22.vcd"
CAVE = CAPTURES / "iv_dht22_cave.vcd"


def borders(window: MainWindow) -> list[QSplitter]:
    """What can be dragged between the parts of all views."""
    pages = [window.views.page_of(kind.key) for kind in VIEWS]
    return [splitter for page in pages for splitter in page.findChildren(QSplitter)]


class Opening(WindowTest):
    """Files come by dialog, drop, argument and the list of recent ones."""

    def test_begun(self) -> None:
        """By dialog, drop and demo button; the same file takes its own place."""
        # Without a capture the window says how to begin; actions on exchanges are grey.
        self.assertTrue(self.window.empty.isVisible())
        texts = [button.text() for button in self.window.empty.findChildren(QPushButton)]
        self.assertEqual(
            [
                "Open a capture…",
                "Listen to a wire…",
                "Show the demo night",
                "Listen to the simulated cave",
            ],
            texts,
        )
        self.assertFalse(any(action.isEnabled() for action in self.window.menus.gated))
        # Ctrl+O asks for files.
        chosen = ([str(AVR), str(CAVE)], "")
        with mock.patch.object(QFileDialog, "getOpenFileNames", return_value=chosen):
            self.press("Ctrl+O")
        self.finish_jobs()
        self.assertEqual([AVR.name, CAVE.name], [row.name for row in self.session.captures])
        self.assertTrue(self.page.isVisible())
        self.assertIn(CAVE.name, self.window.windowTitle())
        # Dropped files become captures of their own.
        self.drop(AVR, CAPTURES / "csv_edges_dht22.csv")
        self.assertEqual(3, len(self.session.captures))
        # The same file is not shown twice.
        self.open(AVR, AVR)
        self.assertEqual(3, len(self.session.captures))

    def test_recent(self) -> None:
        """An opened file stands in the menu and, when all is closed, on the start page."""
        self.open(AVR)
        self.window.menus.fill_recent()
        self.assertEqual(str(AVR), self.window.menus.recent.actions()[0].text())
        self.press("Ctrl+W")
        self.assertTrue(self.window.empty.isVisible())
        links = [
            b
            for b in self.window.empty.findChildren(QPushButton)
            if b.text().startswith(f"{AVR.name} ")
        ]
        self.assertTrue(links[0].text().endswith(shown_folder(AVR)))
        links[0].click()
        self.finish_jobs()
        self.assertEqual(AVR.name, self.session.capture.name)
        self.window.menus.fill_recent()
        self.window.menus.recent.actions()[-1].trigger()
        self.window.menus.fill_recent()
        self.assertEqual("Nothing opened yet", self.window.menus.recent.actions()[0].text())

    def test_demo_button(self) -> None:
        """The demo night is one click away."""
        buttons = self.window.empty.findChildren(QPushButton)
        next(b for b in buttons if "demo" in b.text()).click()
        self.finish_jobs()
        self.assertEqual(7, len(self.session.capture.wires))

    def test_bad_files(self) -> None:
        """One sentence from the reader, with file and line; the work stays."""
        # One sentence; what was open and chosen stays.
        self.open(AVR)
        self.session.choose_exchange(2)
        bad = self.folder / "bad.vcd"
        bad.write_bytes(b"\0\1\2" * 99)
        self.drop(bad, self.folder / "none.vcd")
        self.assertIn("is not there", self.window.notice.text)
        self.assertEqual((AVR.name, 2), (self.session.capture.name, self.session.index))
        self.window.notice.findChild(QPushButton).click()
        self.assertEqual("", self.window.notice.text)
        # The sentence comes from the reader.
        bad = self.folder / "bad.csv"
        bad.write_text("time_s,a\n0,1\nsoon,0\n", encoding="utf-8")
        self.open(bad)
        self.assertIn("bad.csv, line 3, has the time 'soon'", self.window.notice.text)
        # An error that is not the file's fault is named as ours, and the window lives.
        self.open(AVR)
        broken = mock.patch(
            "pivet.ui.window.main_window.open_capture", side_effect=KeyError("oops")
        )
        with broken, mock.patch("sys.stderr", io.StringIO()) as written:
            self.open(CAVE)
        self.assertIn("Pivet made a mistake (KeyError: 'oops')", self.window.notice.text)
        self.assertIn("Traceback", written.getvalue())
        self.assertEqual(AVR.name, self.session.capture.name)

    def test_nothing_found(self) -> None:
        """Lines of another kind are offered to be decoded all the same."""
        path = self.folder / "valve.csv"
        path.write_text("time_s,valve\n0,0\n1,1\n2,0\n3.5,1\n", encoding="utf-8")
        self.open(path)
        self.assertTrue(self.window.empty.isVisible())
        links = self.window.empty.findChildren(QPushButton)
        next(b for b in links if b.text() == "valve").click()
        dialog = self.window.findChild(AddWireDialog)
        dialog.sensor_box.setCurrentIndex(dialog.sensor_box.findData(find_sheet("hc-sr04")))
        dialog.accept()
        self.settle()
        self.finish_jobs()
        self.window.activateWindow()
        self.settle()
        self.assertEqual(["valve"], [wire.name for wire in self.session.capture.wires])
        self.press("Ctrl+Z")
        self.assertEqual(((), True), (self.session.capture.wires, self.window.empty.isVisible()))

    def test_a_mistake_in_painting_is_said(self) -> None:
        """No painter stays open, which Qt would complain about, or not survive."""
        watch_mistakes(self.window)
        self.open(AVR)
        broken = mock.patch.object(StripView, "_paint_title", side_effect=KeyError("oops"))
        with broken, mock.patch("sys.stderr", io.StringIO()):
            self.page.strip.update()
            # Where single events are asked for, older PySide raises it there, and tells nobody.
            # To quit the program here would end every later dialog of this process at once.
            loop = QEventLoop()
            QTimer.singleShot(200, loop.quit)
            loop.exec()
        self.assertIn("Pivet made a mistake (KeyError: 'oops')", self.window.notice.text)
        self.page.strip.update()
        self.settle()
        self.assertEqual([], self.complaints)

    def test_turns_are_short(self) -> None:
        """A view that is painted while much is worked out waits for its turn a hundred times."""
        self.assertLessEqual(sys.getswitchinterval(), 0.001)

    def test_remembered(self) -> None:
        """Size, colours, borders and recent files are there at the next start."""
        place = (QSettings.Format.NativeFormat, QSettings.Scope.UserScope)
        before = QSettings("Pivet", "Pivet").fileName()
        QSettings.setPath(*place, str(self.folder))
        self.addCleanup(QSettings.setPath, *place, str(Path(before).parent.parent))
        kept: list[QByteArray] = []
        for turn in range(2):
            window = MainWindow()
            window.show()
            self.settle()
            if turn == 0:
                window.resize(780, 640)
                window.choose_theme(ThemeChoice.DARK)
                for at, splitter in enumerate(borders(window)):
                    splitter.resize(700, 700)
                    splitter.setSizes([300 + at, *[200] * (splitter.count() - 1)])
                    kept.append(splitter.saveState())
                window._settings.add_recent(AVR)
            else:
                self.assertEqual((780, 640), (window.width(), window.height()))
                self.assertIs(ThemeChoice.DARK, window._settings.theme)
                self.assertEqual(kept, [splitter.saveState() for splitter in borders(window)])
                self.assertEqual([AVR.resolve()], window._settings.recent())
            window.close()
            window.deleteLater()
            self.settle()


class Jobs(WindowTest):
    """Long work is shown, and can be stopped."""

    def test_cancel(self) -> None:
        """A job that takes long shows a bar with Cancel; nothing comes of it then."""
        done = []

        def endless(progress: Progress) -> None:
            while True:
                progress(0.5)

        self.window.jobs.start("Endless", endless, done.append)
        self.wait_for(self.window.jobs.isVisible, "the bar shows")
        self.assertEqual("Endless", self.window.jobs.findChild(QLabel).text())
        self.window.jobs.findChild(QPushButton).click()
        self.finish_jobs()
        self.assertEqual(([], False), (done, self.window.jobs.isVisible()))

    def test_closing_stops_jobs(self) -> None:
        """The window can be closed in the middle of a job."""

        def endless(progress: Progress) -> None:
            while True:
                progress(0.1)

        self.window.jobs.start("Endless", endless, lambda _: None)
        self.window.close()
        self.wait_for(lambda: not self.window.jobs.busy, "the job has gone")


class Stepping(WindowTest):
    """Keys lead from exchange to exchange."""

    def setUp(self) -> None:
        super().setUp()
        self.show_demo()

    def test_stepped(self) -> None:
        """By keys and by the ribbon, from wire to wire."""
        # Page Down and Up, Home and End; the ends hold.
        for keys, index in (
            ("PgDown", 1),
            ("PgDown", 2),
            ("PgUp", 1),
            ("End", 359),
            ("PgDown", 359),
            ("Home", 0),
            ("PgUp", 0),
        ):
            self.press(keys)
            self.assertEqual(index, self.session.index, keys)
        # Down in the list chooses the next wire; each remembers its exchange.
        self.press("End")
        self.key(self.page.wires, Qt.Key.Key_Down)
        self.assertEqual((0, 1), self.session.place)
        self.assertEqual(0, self.session.index)
        self.key(self.page.wires, Qt.Key.Key_Up)
        self.assertEqual(((0, 0), 359), (self.session.place, self.session.index))
        # A drag over the ribbon chooses along; arrow keys step.
        ribbon = self.page.ribbon
        self.drag(ribbon, (40, 60), (ribbon.width() - 5, 60))
        self.assertEqual(359, self.session.index)
        self.click(ribbon, ribbon.width() / 2, 60)
        self.assertAlmostEqual(180, self.session.index, delta=2)
        before = self.session.index
        self.key(ribbon, Qt.Key.Key_Right)
        self.key(ribbon, Qt.Key.Key_Right)
        self.key(ribbon, Qt.Key.Key_Left)
        self.assertEqual(before + 1, self.session.index)
        # Shift leads to what is not sound, and says when there is no more.
        self.press("Home")
        wire = self.session.wire
        expected = [n for n in range(len(wire)) if wire.verdicts[n] != Verdict.SOUND]
        for index in expected[:4]:
            self.press("Shift+PgDown")
            self.assertEqual(index, self.session.index)
        self.press("Shift+PgUp")
        self.assertEqual(expected[2], self.session.index)
        self.press("Home")
        self.press("Shift+PgUp")
        self.assertIn("Every exchange before this one is sound", self.window.notice.text)

    def test_everything_is_reachable_by_tab(self) -> None:
        """Tab passes wires, ribbon, stack, strip, type, windows and findings."""
        self.session.choose_exchange(158)
        self.settle()
        self.page.wires.setFocus()
        seen = set()
        for _ in range(14):
            widget = self.app.focusWidget()
            seen.add(type(widget).__name__)
            QTestTab(widget)
            self.settle()
        self.assertLessEqual(
            {
                "WiresPanel",
                "RibbonView",
                "StackView",
                "StripView",
                "ChoiceBox",
                "NeedleList",
                "FindingCard",
            },
            seen,
        )


def QTestTab(widget) -> None:
    """Presses Tab."""
    from PySide6.QtTest import QTest

    QTest.keyClick(widget, Qt.Key.Key_Tab)


class SensorType(WindowTest):
    """The type of a wire can be changed, undone, and the wire is judged anew."""

    def setUp(self) -> None:
        super().setUp()
        self.show_demo()
        self.session.choose_wire((0, 5))
        self.settle()
        self.box = self.page.answer.findChild(QComboBox)

    def headline(self) -> str:
        """What the answer says first."""
        self.settle()
        return self.page.answer._headline.text()

    def choose(self, part: str) -> None:
        """Chooses an entry of the box as a person does."""
        number = next(n for n in range(self.box.count()) if part in self.box.itemText(n))
        self.box.setCurrentIndex(number)
        self.box.activated.emit(number)

    def test_made_right(self) -> None:
        """The named type is chosen, or recognised; undo and redo; the exchange stays."""
        # The named type is chosen; readings appear; undo and redo.
        self.assertEqual("Unsound: wrong sensor type chosen", self.headline())
        self.choose("(dht11-early)")
        self.assertIn("Sound", self.headline())
        self.assertEqual("70", self.session.report.readings[0].text)
        self.press("Ctrl+Z")
        self.assertEqual("Unsound: wrong sensor type chosen", self.headline())
        self.press("Ctrl+Shift+Z")
        self.assertIn("Sound", self.headline())
        # The exchange looked at stays chosen.
        self.session.choose_exchange(7)
        self.choose("(dht11-early)")
        self.assertEqual(7, self.session.index)
        # The first entry lets the type be recognised.
        self.choose("recognise")
        self.assertEqual(
            ("dht11-early", True), (self.session.wire.sheet.id, self.session.wire.recognised)
        )

    def test_long_wire_beside_the_window(self) -> None:
        """A long wire is judged in a job; undo brings it back."""
        with mock.patch.object(edits, "LONG_EDGES", 1):
            self.choose("(dht11-early)")
            self.assertEqual("22-type", self.session.wire.sheet.name)
            self.finish_jobs()
        self.assertIn("Sound", self.headline())
        self.press("Ctrl+Z")
        self.assertEqual("Unsound: wrong sensor type chosen", self.headline())

    def test_long_wire_cancelled_or_closed(self) -> None:
        """Nothing comes of judging that is cancelled, or whose capture is closed meanwhile."""
        shown = self.box.currentText()
        for stop in (self.window.jobs.cancel, self.window.close_capture):
            with self.subTest(stop=stop.__name__), mock.patch.object(edits, "LONG_EDGES", 1):
                before = threading.Event()
                self.window.jobs.start("Before", lambda _, row=before: row.wait(), lambda _: None)
                self.choose("(dht11-early)")
                self.assertNotEqual(shown, self.box.currentText())
                stop()
                before.set()
                self.finish_jobs()
                self.assertFalse(self.session.undo.canUndo())
                if stop == self.window.jobs.cancel:
                    self.assertEqual(shown, self.box.currentText())


class Looks(WindowTest):
    """Themes, help, remembered state."""

    def test_themes(self) -> None:
        """Dark and light at a click; everything is painted."""
        self.show_demo()
        actions = {
            action.text(): action
            for action in self.window.findChildren(type(self.window.menus.gated[0]))
        }
        actions["Dark colours"].trigger()
        self.assertIs(DARK, theme())
        self.settle()
        corner = self.window.grab().toImage().pixelColor(3, 790)
        self.assertLess(corner.lightness(), 60)
        actions["Light colours"].trigger()
        self.assertIs(LIGHT, theme())
        self.assertIs(ThemeChoice.LIGHT, self.window._settings.theme)

    def test_help_and_details(self) -> None:
        """F1, a finding's question mark, Ctrl+I."""
        # Ctrl+I says how fine the capture is and what had to be assumed.
        self.press("Ctrl+I")
        self.assertIn("Open a capture first", self.window.notice.text)
        self.open(CAVE)
        self.press("Ctrl+I")
        viewer = self.window.findChildren(TextViewer)[0]
        self.assertIn("captured in steps of 1 ns", viewer.text.toPlainText())
        self.assertIn("x or z taken as high", viewer.text.toPlainText())
        viewer.close()
        # F1 opens the guide; a finding's question mark its section.
        self.window.activateWindow()
        self.settle()
        self.press("F1")
        viewers = self.window.findChildren(HelpViewer)
        self.assertIn("Reading the stack", viewers[0].windowTitle())
        self.show_demo()
        self.session.choose_exchange(158)
        self.page.answer.help_asked.emit("sum-wrong")
        self.settle()
        viewer = self.window.findChildren(HelpViewer)[-1]
        self.assertIn("sum-wrong", viewer.text.textCursor().block().text())
        for row in self.window.findChildren(HelpViewer):
            row.close()

    def test_small_and_large(self) -> None:
        """The bar grows with the window; a long name leaves room for the menus."""
        # In a narrow one the file's name makes room; in a wide one every view has its name.
        self.show_demo()
        for width, named in ((1280, True), (640, False), (1280, True)):
            self.window.resize(width, 700)
            self.settle()
            corner = self.window.menuBar().cornerWidget()
            self.assertEqual(named, self.window._file_label.isVisible(), width)
            self.assertGreaterEqual(corner.width(), corner.sizeHint().width(), width)
            self.assertLessEqual(corner.geometry().right(), width)
        # At its smallest the window still paints every wire of the demo.
        self.show_demo()
        self.window.resize(self.window.minimumSize())
        for place in range(6):
            self.session.choose_wire((0, place))
            self.settle()
        self.assertFalse(self.window.grab().isNull())
        # It is shortened in its middle, and told whole in its tip.
        self.show_demo()
        bar, label = self.window.menuBar(), self.window._file_label
        for width, long in ((1280, True), (1700, False), (1100, True)):
            capture = self.session.captures[0]
            path = capture.path.with_name("a bench of the third cellar, night of the storm.vcd")
            self.session.rename(capture.path, path)
            self.window.resize(width, 700)
            self.settle()
            last = bar.actionGeometry(bar.actions()[-1])
            self.assertLessEqual(last.right(), self.window._corner.geometry().left(), width)
            self.assertGreater(last.width(), 20, width)
            self.assertEqual(long, "…" in label.text(), (width, label.text()))
            self.assertEqual(path.name if long else "", label.toolTip())

    def test_every_exchange_of_the_demo_is_painted(self) -> None:
        """Each exchange that is not sound, and the first of each wire, paints and reports."""
        self.show_demo()
        for place in range(6):
            self.session.choose_wire((0, place))
            for index in [0, *self.session.wire.verdicts.nonzero()[0].tolist()[::4]]:
                self.session.choose_exchange(index)
                self.app.processEvents()
                self.assertIsNotNone(self.session.report)

    def test_wire_without_exchange(self) -> None:
        """A line that carries no exchange at all is an empty wire, not a crash."""
        capture = open_capture(CAPTURES / "iv_ow_basic.vcd", "dht22", "tb.pwr")
        self.session.add_capture(capture)
        self.settle()
        self.assertIsNone(self.session.report)
        for keys in ("PgDown", "End", "F", "A", "M", "Esc", "Ctrl+C"):
            self.press(keys)
        self.assertFalse(self.window.grab().isNull())
