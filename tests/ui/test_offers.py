"""What lines may be that nobody recognised: said, and taken by one click."""

from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDialog, QLabel, QPushButton

from pivet.captures.offers import Offer
from pivet.files.captures import write_capture
from pivet.sheets.load import find_sheet
from pivet.sheets.reach import AS_IN_SHEET, Reach
from pivet.ui.answer.reach import ReachDialog
from pivet.ui.window.adding import AddWireDialog
from tests.physics import echo, humidity, strangers
from tests.physics.line import joined, traced
from tests.ui.base import WindowTest

RANDOM = np.random.default_rng(4)
FRAMES = joined([humidity.exchange(humidity.frame_22(60, 12), 2e4 + 2.1e6 * n) for n in range(4)])
SHOTS = echo.shots(RANDOM, RANDOM.uniform(0.3, 2.0, 30))


class Offers(WindowTest):
    """In the empty page, and in the bar over other wires."""

    def show(self, **lines: tuple[np.ndarray, bool]) -> None:
        """Opens a capture of some lines."""
        path: Path = self.folder / "made.vcd"
        write_capture(traced(dict(lines)), path)
        self.open(path)

    def click(self, words: str) -> None:
        """Presses the button with these words."""
        buttons = self.window.findChildren(QPushButton)
        (button,) = (row for row in buttons if row.text() == words and row.isVisible())
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        self.settle()

    def test_inverted_beside_another(self) -> None:
        """The bar says it; a click decodes it; undo takes it back."""
        self.show(data=(FRAMES, True), turned=(FRAMES + 40_000, False))
        self.assertIn("turned over it carries frames of a humidity sensor", self.window.notice.text)
        self.click("Decode it turned over")
        self.finish_jobs()
        self.assertEqual(["dht22"] * 2, [row.sheet.id for row in self.session.capture.wires])
        self.assertTrue(self.session.wire.lines[0].turned)
        self.assertEqual(4, len(self.session.wire))
        self.press("Ctrl+Z")
        self.assertEqual(1, len(self.session.capture.wires))

    def test_nothing_but_offers(self) -> None:
        """The empty page says of each line what it may be, with what would tell."""
        code = strangers.made_up_code(RANDOM)
        self.show(echo=(SHOTS.echoes.ravel(), False), code=(code, True))
        said = " ".join(row.text() for row in self.window.empty.findChildren(QPushButton))
        self.assertIn("Say what it is…", said)
        self.click("Say what it is…")
        dialog = self.window.findChild(AddWireDialog)
        self.assertIn("no sheet fits", dialog._says.text())
        dialog.reject()
        self.click("Decode it as four-pin echo sensor")
        self.finish_jobs()
        self.assertEqual("hc-sr04", self.session.wire.sheet.id)
        self.assertEqual(30, int(self.session.wire.judged.given.sum()))

    def test_reach_by_hand(self) -> None:
        """Timeout and farthest distance are given for the wire, kept with it, and undone."""
        self.show(trig=(SHOTS.triggers.ravel(), False), echo=(SHOTS.echoes.ravel(), False))
        settings = self.page.answer.parts["echo-pulse"]
        dialog = ReachDialog(AS_IN_SHEET, self.session.wire.sheet.echo)
        self.assertEqual("as in the sheet: 36 ms", dialog.timeout_box.text())
        words = " ".join(label.text() for label in dialog.findChildren(QLabel))
        self.assertIn("An echo means “nothing in range” from", words)
        self.assertEqual(AS_IN_SHEET, dialog.reach)
        dialog.farthest_box.setValue(1.0)
        self.assertEqual(Reach(None, 1.0), dialog.reach)
        before = int(self.session.wire.judged.given.sum())
        settings.take_reach(dialog.reach)
        self.settle()
        self.assertLess(int(self.session.wire.judged.given.sum()), before)
        said = [row.says for n in range(30) for row in self.session.wire.report(n).findings]
        self.assertTrue(any("beyond the 1 m" in row for row in said))
        self.press("Ctrl+Z")
        self.assertEqual(before, int(self.session.wire.judged.given.sum()))
        asked: list[str] = []

        def answer(shown: ReachDialog) -> QDialog.DialogCode:
            """Looks at what the sheet says, and gives half a metre."""
            asked.append(f"{shown.farthest_box.text()} {shown.timeout_box.text()}")
            shown.farthest_box.setValue(0.0)
            asked.append(shown.farthest_box.text())
            shown.farthest_box.setValue(0.5)
            return QDialog.DialogCode.Accepted

        with mock.patch.object(ReachDialog, "exec", answer):
            settings.ask_reach()
            self.assertEqual(Reach(None, 0.5), self.session.wire.choices.reach)
            settings.ask_reach()
        sheet = "as in the sheet: 4 m"
        self.assertEqual([f"{sheet} as in the sheet: 36 ms", sheet], asked[:2])
        self.assertEqual(["0.50 m as in the sheet: 36 ms", sheet], asked[2:])
        dialog._clear()
        dialog.timeout_box.setValue(0.2)
        self.assertEqual(Reach(1.0, None), dialog.reach)
        dialog.deleteLater()


class AddForm(WindowTest):
    """The form by which a wire is added."""

    def test_chooses_what_the_line_may_be(self) -> None:
        """With the line change sensor and turning over; what is given goes out."""
        sheet = find_sheet("hc-sr04")
        offers = [
            Offer("a", "turned over it carries frames", None, True),
            Offer("e", "may be an echo line", sheet),
        ]
        form = AddWireDialog(["a", "b", "e"], offers, "e", self.window)
        self.assertEqual(("e", sheet, False), form.wanted)
        self.assertEqual("e: may be an echo line.", form._says.text())
        form.line_box.setCurrentText("a")
        self.assertEqual(("a", sheet, True), form.wanted)
        form.line_box.setCurrentText("b")
        self.assertEqual("", form._says.text())
        form.line_box.setCurrentText(" e ")
        form.sensor_box.setCurrentIndex(0)
        self.assertEqual(("e", None, False), form.wanted)
        form.deleteLater()
