"""Margins, Rehearsal and Printed in the real window, by keys and clicks."""

import os
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QInputDialog

from pivet.insight.outcomes import Outcome
from pivet.insight.printed.check import Crosscheck
from pivet.insight.registry import insight_of
from pivet.ui.drawing.theme import ThemeChoice, apply_theme, theme
from pivet.ui.margins.page import MarginsPage
from pivet.ui.printed.page import PrintedPage
from pivet.ui.printed.table import PairTable
from pivet.ui.registry import VIEWS
from pivet.ui.rehearsal.page import RehearsalPage
from pivet.ui.window.choosing import ChoiceBox
from tests.base import CAPTURES
from tests.ui.base import WindowTest

NODE, SHELF = "shelf_node", "shelf_A"


class ManyTest(WindowTest):
    """The demo is open, and a view of many exchanges is shown."""

    def choose(self, box: object, text: str) -> None:
        """Chooses a row of a list as a person does: by typing its name."""
        box.setFocus()  # type: ignore[attr-defined]
        at = box.findText(text)  # type: ignore[attr-defined]
        self.assertGreaterEqual(at, 0, text)
        box.setCurrentIndex(at)  # type: ignore[attr-defined]
        box.activated.emit(at)  # type: ignore[attr-defined]
        self.finish()

    def finish(self) -> None:
        """Waits for what is worked out beside the window."""
        self.finish_jobs()
        page = self.window.views.page
        if isinstance(page, RehearsalPage | PrintedPage):
            self.wait_for(lambda: not page.beside.busy, "the rehearsal ends")
        self.settle()

    def shown(self, keys: str) -> object:
        """The page of a view."""
        self.press(keys)
        self.finish()
        return self.window.views.page


class Margins(ManyTest):
    """Every pulse in its window."""

    def setUp(self) -> None:
        super().setUp()
        self.show_demo()
        page = self.shown("Ctrl+6")
        assert isinstance(page, MarginsPage)
        self.margins = page

    def test_shown(self) -> None:
        """The chosen wire's lanes, what lies between 0 and 1, what is suggested."""
        page = self.margins
        assert page.found is not None
        self.assertEqual(360, page.found.margins.exchanges)
        self.assertEqual(7, len(page.found.lanes))
        self.assertIn("26.6 µs apart", page.told.text())
        self.assertIn("0, high: 9097 pulses", page.lanes.accessibleDescription())

    def test_a_mark_leads_to_its_exchange(self) -> None:
        """By keys, and by a click: the stray pulse's exchange is shown."""
        lanes = self.margins.lanes
        stray = next(at for at, (cross, _) in enumerate(lanes.crosses) if "outside" in cross.says)
        lanes.setFocus()
        for _ in range(stray + 1):
            self.key(lanes, Qt.Key.Key_Right)
        self.key(lanes, Qt.Key.Key_Return)
        self.assertEqual("exchange", self.window.views.kind.key)
        self.assertEqual(lanes.crosses[stray][0].exchange, self.session.number)
        self.shown("Ctrl+6")
        cross, at = lanes.crosses[0]
        self.click(lanes, at.x(), at.y())
        self.assertEqual(cross.exchange, self.session.number)
        self.shown("Ctrl+6")
        self.click(lanes, 3, 3)
        self.assertEqual("margins", self.window.views.kind.key)

    def test_before_and_after(self) -> None:
        """Another wire as outline: verdict, shifts and reasons."""
        page = self.margins
        self.choose(page.before, NODE)
        assert page.found is not None and page.found.comparison is not None
        self.assertIn("Worse", page.headline.text())
        self.assertIn("no-answer", page.told.text())
        moved = {shift.window.key: shift.verdict for shift in page.found.comparison.shifts}
        self.assertEqual(("moved", "same"), (moved["answer_low"], moved["ask"]))
        self.choose(page.before, "its first half")
        assert page.found is not None and page.found.comparison is not None
        halves = (page.found.comparison.before.total, page.found.comparison.after.total)
        self.assertEqual((180, 180), halves)
        with mock.patch.object(QInputDialog, "getText", return_value=("100..199", True)):
            self.choose(page.which, "by number…")
        self.choose(page.before, "all before these")
        assert page.found is not None and page.found.comparison is not None
        stretches = (page.found.comparison.before.total, page.found.comparison.after.total)
        self.assertEqual((100, 100), stretches)
        with mock.patch.object(QInputDialog, "getText", return_value=("some", True)):
            self.choose(page.which, "by number…")
        self.assertEqual("all", page.which.currentText())
        self.choose(page.before, "nothing")
        assert page.found is not None
        self.assertIsNone(page.found.comparison)
        self.assertEqual(-1, page.before.findText("wheels"))

    def test_some_exchanges_and_my_limit(self) -> None:
        """Only a device's; the person's threshold beside what is free."""
        page = self.margins
        page.limit.setValue(28.0)
        self.settle()
        self.assertIn(
            "mine", "".join(str(shape) for one in page.lanes._pictures for shape in one.shapes)
        )
        self.choose(page.wire, "wheels")
        assert page.found is not None
        every = page.found.margins.exchanges
        self.choose(page.which, page.which.itemText(3))
        assert page.found is not None
        self.assertLess(0, page.found.margins.exchanges)
        self.assertLess(page.found.margins.exchanges, every)
        self.choose(page.which, "the hour of the chosen one")
        assert page.found is not None
        self.assertEqual(every, page.found.margins.exchanges)  # the night of the demo has one

    def test_empty_and_dark(self) -> None:
        """Without a capture it says what to do; other colours draw it anew."""
        apply_theme(self.app, ThemeChoice.DARK)
        self.margins.renew()
        self.finish()
        self.press("Ctrl+W")
        self.finish()
        self.assertTrue(self.margins.empty.isVisible() or not self.margins.isVisible())


class Printed(ManyTest):
    """What was printed beside the wire."""

    def setUp(self) -> None:
        super().setUp()
        self.show_demo()
        page = self.shown("Ctrl+8")
        assert isinstance(page, PrintedPage)
        self.printed = page
        self.choose(page.wire, "blast_chiller")
        own = page._own
        assert own is not None
        self.lines = [
            "read failed"
            if not fact.truths
            else "hum {} temp {}".format(
                fact.truths["humidity"].text, fact.truths["temperature"].text.replace("-", "")
            )
            for fact in insight_of(own).facts(own)
        ]

    def checked(self) -> Crosscheck:
        """What was found of the text of now."""
        page = self.printed
        self.wait_for(lambda: not page._later.isActive() and not page.beside.busy, "it is compared")
        assert page.found is not None
        return page.found

    def test_pasted(self) -> None:
        """Each line beside its exchange, the mistake by its name; Enter shows the exchange."""
        page = self.printed
        QGuiApplication.clipboard().setText("\n".join(self.lines))
        self.click(page.paste, 5, 5)
        found = self.checked()
        self.assertEqual("sign-as-magnitude", found.explained[0][0])
        self.assertIn("sign-as-magnitude", page.told.text())
        self.assertEqual(len(found.pairs), page.pairs.rowCount())
        self.assert_table(page.pairs)
        self.choose(page.only, page.only.itemText(2))
        self.assertEqual(found.explained[0][1], page.pairs.rowCount())
        page.table.setFocus()
        page.table.selectRow(3)
        self.key(page.table, Qt.Key.Key_Return)
        self.assertEqual("exchange", self.window.views.kind.key)
        fact = page.pairs.pairs[3].fact
        assert fact is not None
        self.assertEqual(fact.exchange, self.session.number)

    def assert_table(self, table: PairTable) -> None:
        """What the table shows of its first row, by role."""
        roles = Qt.ItemDataRole
        cells = [
            table.data(table.index(0, column), roles.DisplayRole)
            for column in range(table.columnCount())
        ]
        self.assertEqual(["1", "18.0", "≠", "-18.0", "0", "sign-as-magnitude"], cells)
        tip = table.data(table.index(0, 1), roles.ToolTipRole)
        self.assertIn("the sign bit is taken for a part of the number. 0x80b4", tip)
        self.assertEqual(theme().unsound, table.data(table.index(0, 1), roles.ForegroundRole))
        centred = [
            table.data(table.index(0, column), roles.TextAlignmentRole) is not None
            for column in range(table.columnCount())
        ]
        self.assertEqual([True, False, True, False, True, False], centred)
        heads = [table.headerData(at, Qt.Orientation.Horizontal) for at in range(6)]
        self.assertEqual(["line", "printed", "", "on the wire", "exchange", "what it is"], heads)
        self.assertIsNone(table.headerData(0, Qt.Orientation.Vertical))
        failed = next(at for at, pair in enumerate(table.pairs) if pair.code == "nothing")
        self.assertEqual("no reading", table.data(table.index(failed, 3)))
        self.assertEqual("–", table.data(table.index(failed, 2)))

    def test_opened_and_refused(self) -> None:
        """A file; one that cannot be read changes nothing; text without numbers is told."""
        page, path = self.printed, self.folder / "console.txt"
        path.write_text("\n".join(self.lines), encoding="utf-8")
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(path), "")):
            self.click(page.open, 5, 5)
        self.checked()
        page.open_text(self.folder / "nothing.txt")
        self.settle()
        self.assertIn("hum", page.text.toPlainText())
        page.text.setPlainText("node is up")
        self.wait_for(lambda: page.found is None, "nothing is found")
        self.assertIn("--bind", page.headline.text())

    def test_a_long_text(self) -> None:
        """It comes piece by piece, whole and in order; another that comes meanwhile counts."""
        page, path = self.printed, self.folder / "long.txt"
        lines = [f"line {number}: h={number % 100}.5" for number in range(40_000)]
        path.write_bytes("\r\n".join(lines).encode())
        page.open_text(path)
        self.assertTrue(page.busy)
        self.assertLess(len(page.text.toPlainText()), 200_000)
        self.app.processEvents()
        page.open_text(path)
        most, before = 0, len(page.text.toPlainText())
        while page._pieces:
            self.app.processEvents()
            most = max(most, len(page.text.toPlainText()) - before)
            before = len(page.text.toPlainText())
        self.assertLessEqual(most, 100_000)
        self.assertEqual(lines, page.text.toPlainText().split("\n"))
        page.text.undo()
        self.assertEqual(lines, page.text.toPlainText().split("\n"))
        page.open_text(path)
        page._hear("one more\r\n")
        self.assertEqual("\n".join(lines) + "one more\n", page.text.toPlainText())
        QGuiApplication.clipboard().setText("a\nb")
        page.open_text(path)
        page._paste()
        self.finish()
        self.assertEqual("a\nb", page.text.toPlainText())
        QTest.keyClicks(page.text, "x")
        page.text.undo()
        self.assertEqual("a\nb", page.text.toPlainText())

    def test_listened_to(self) -> None:
        """Lines that come at a port are laid beside the wire; a port that is none is refused."""
        page = self.printed
        ahead, behind = os.openpty()
        self.addCleanup(os.close, ahead)
        page.listen_at(os.ttyname(behind), 115200)
        os.close(behind)
        self.assertEqual("Stop", page.listen.text())
        os.write(ahead, "\r\n".join(self.lines[:40]).encode())
        self.wait_for(lambda: page.found is not None and page.found.paired > 30, "lines are heard")
        self.click(page.listen, 5, 5)
        self.assertFalse(page.console.listens)
        page.listen_at(str(self.folder / "tty"), 9600)
        self.settle()
        self.assertEqual("Listen…", page.listen.text())


class Rehearsal(ManyTest):
    """What a firmware makes of a wire."""

    def setUp(self) -> None:
        super().setUp()
        self.show_demo()
        page = self.shown("Ctrl+7")
        assert isinstance(page, RehearsalPage)
        self.rehearsal = page
        self.choose(page.wire, NODE)

    def count(self, outcome: Outcome) -> int:
        """So many exchanges ended so."""
        assert self.rehearsal.found is not None
        return self.rehearsal.found.count(outcome)

    def type_constant(self, name: str, text: str) -> None:
        """Types a constant into its field."""
        box = self.rehearsal.constants.fields[name]
        box.setFocus()
        box.selectAll()
        QTest.keyClicks(box, text)
        QTest.keyClick(box, Qt.Key.Key_Return)
        self.finish()

    def test_a_list_that_outlived_its_wires(self) -> None:
        """Whoever left it open, and closed the capture elsewhere, chooses nothing by it."""
        for kind in VIEWS:
            self.window.views.show_view(kind.key)
            self.finish()
        self.window.views.show_view("exchange")
        boxes = [box for box in self.window.findChildren(ChoiceBox) if not box.isVisible()]
        self.assertGreater(len(boxes), 6)
        self.window.close_capture()
        self.settle()
        with mock.patch.object(QInputDialog, "getText", return_value=("", False)) as asked:
            for box in boxes:
                for number in range(box.count()):
                    box.setCurrentIndex(number)
                    box.activated.emit(number)
            self.finish()
        asked.assert_not_called()
        self.assertEqual([], self.session.captures)

    def test_constants(self) -> None:
        """What is suggested, what failed, and what stalls do."""
        # 28 µs fails one read in five, what is suggested none; before and after stand there.
        page = self.rehearsal
        self.type_constant("threshold_us", "28")
        self.assertEqual((309, 400), (self.count(Outcome.RIGHT), len(page.found.found)))  # type: ignore[union-attr]
        self.assertIn("77.2% would be right", page.headline.text())
        self.assertIn("a 0 taken for a 1", page.told.text())
        self.assertIn("refused by the check", page.title.text())
        self.click(page.take, 5, 5)
        self.finish()
        self.assertEqual(400, self.count(Outcome.RIGHT))
        self.assertIn("before, at 28 µs: 77.2%", page.headline.text())
        self.click(page.copy, 5, 5)
        self.assertIn("#define SENSOR_THRESHOLD_US 50u", QGuiApplication.clipboard().text())
        # On and back among the exchanges that are not read right.
        page = self.rehearsal
        self.type_constant("threshold_us", "28")
        first = page._shown
        self.click(page.on, 5, 5)
        self.assertGreater(page._shown, first)
        self.click(page.back, 5, 5)
        self.assertEqual(first, page._shown)
        assert page.exchange.picture is not None
        self.assertIn("0 → 1", str(page.exchange.picture.shapes))
        # How long, then how often: reads fail that were right; the same for the same seed.
        self.type_constant("threshold_us", "50")
        self.assertEqual(400, self.count(Outcome.RIGHT))
        self.type_constant("stall_us", "40")
        self.type_constant("stall_per_s", "100")
        stalled = self.count(Outcome.RIGHT)
        self.assertLess(stalled, 380)
        self.type_constant("threshold_us", "51")
        self.type_constant("threshold_us", "50")
        self.assertEqual(stalled, self.count(Outcome.RIGHT))

    def test_handle_and_map(self) -> None:
        """By pointer and arrows."""
        # Dragged with the pointer and moved with arrows; the field and the counts go with it.
        page, handle = self.rehearsal, self.rehearsal.handle
        self.drag(handle, (handle.x_of(50), 24), (handle.x_of(27), 24))
        self.finish()
        self.assertAlmostEqual(27.0, page.reader.threshold_us or 0, delta=0.5)
        self.assertEqual(page.reader.threshold_us, page.constants.fields["threshold_us"].value())
        less = self.count(Outcome.RIGHT)
        for _ in range(4):
            QTest.keyClick(handle, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
        self.finish()
        self.assertAlmostEqual(47.0, page.reader.threshold_us or 0, delta=0.5)
        self.assertLess(less, self.count(Outcome.RIGHT))
        # A click sets the constant; arrows go on from there; the map itself stays.
        page, view = self.rehearsal, self.rehearsal.map
        assert view.grid is not None
        grid, field = view.grid, view.field
        self.click(view, field.center().x(), field.bottom() - 2)
        self.finish()
        middle = float(grid.x[0] + grid.x[-1]) / 2
        self.assertAlmostEqual(middle, page.reader.threshold_us or 0, delta=1.0)
        before = page.reader.threshold_us or 0
        self.key(view, Qt.Key.Key_Left)
        self.finish()
        self.assertAlmostEqual(
            before - (grid.x[1] - grid.x[0]), page.reader.threshold_us or 0, delta=0.02
        )
        self.assertIs(grid, view.grid)
        self.assertIn("every one right", view.accessibleDescription())

    def test_undo(self) -> None:
        """Typed, dragged, suggested, another kind: each step back, and on again."""
        page, handle = self.rehearsal, self.rehearsal.handle
        begun = page.reader
        self.type_constant("threshold_us", "33")
        typed = page.reader
        self.drag(handle, (handle.x_of(33), 24), (handle.x_of(40), 24))
        self.finish()
        dragged = page.reader
        self.choose(page.kind, page.kind.itemText(1))
        self.finish()
        other = page.reader
        self.assertEqual(4, len({begun, typed, dragged, other}))
        for wanted in (dragged, typed, begun):
            self.press("Ctrl+Z")
            self.finish()
            self.assertEqual(wanted, page.reader)
            self.assertEqual(wanted, page.constants.reader(page.reader_kind))
        self.assertEqual(begun.kind, page.kind.currentData())
        for wanted in (typed, dragged, other):
            self.press("Ctrl+Shift+Z")
            self.finish()
            self.assertEqual(wanted, page.reader)
        self.choose(page.wire, "wheels")
        self.press("Ctrl+Z")
        self.finish()
        self.assertEqual("host", page.reader.kind)

    def test_kinds_and_families(self) -> None:
        """Each kind of reader has its own fields; 1-Wire and echo have theirs."""
        page = self.rehearsal
        self.choose(page.kind, "counts turns of a loop")
        self.assertEqual("poll", page.reader.kind)
        self.assertIn("period_us", page.constants.fields)
        self.assertFalse(page.handle.isVisible())
        self.choose(page.wire, SHELF)
        self.assertIn("Nothing can be suggested: a high is on the wrong side", page.told.text())
        self.assertNotIn("Take instead", page.told.text())
        self.choose(page.wire, "wheels")
        self.assertEqual("host", page.reader.kind)
        self.assertGreater(self.count(Outcome.RIGHT), 100)
        self.choose(page.wire, "brine_vat.trigger+echo") if page.wire.findText(
            "brine_vat.trigger+echo"
        ) >= 0 else self.choose(page.wire, page.wire.itemText(3))
        self.assertEqual("timer", page.reader.kind)

    def test_report(self) -> None:
        """From the menu, as HTML and PDF, with what was rehearsed; the same twice."""
        self.open(CAPTURES / "iv_dht22_cave.vcd")
        self.choose(
            self.rehearsal.wire, self.rehearsal.wire.itemText(self.rehearsal.wire.count() - 1)
        )
        self.type_constant("threshold_us", "20")
        for name, times in (("night.html", 1), ("night.pdf", 2)):
            path, contents = self.folder / name, []
            for _ in range(times):
                with mock.patch.object(
                    QFileDialog, "getSaveFileName", return_value=(str(path), "")
                ):
                    self.press("Ctrl+R")
                self.finish()
                contents.append(path.read_bytes())
            self.assertEqual(contents[0], contents[-1], name)
            if name.endswith("html"):
                html = contents[0].decode()
                self.assertIn("threshold_us 20.0", html)
                self.assertIn("iv_dht22_cave", html)
            else:
                self.assertTrue(contents[0].startswith(b"%PDF-"))
                self.assertNotIn(b"D:2026", contents[0])
