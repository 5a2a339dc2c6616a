"""The window with 1-Wire and echo wires: rows, devices, roles, air, vessel, bytes by hand."""

from unittest import mock

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog, QLabel, QMenu

from pivet.judge.echo.pulses import ECHO
from pivet.judge.verdict import Verdict
from pivet.person.roles import Role, Roles
from pivet.person.roles_file import load_roles, save_roles
from pivet.readings.sound import Vessel
from pivet.sheets.load import find_sheet
from pivet.ui.answer.echo_settings import VesselDialog
from pivet.ui.window.by_hand import ByHandPane
from pivet.ui.window.main_window import MainWindow
from tests.base import CAPTURES
from tests.night import demo_night
from tests.ui.base import WHEELS, WheelsTest, WindowTest, texts

VAT = (0, 3)
LEFT, DIPPED, ROUND = 239, 330, 3
"""Exchanges of the demo: a probe that left, one whose supply dipped, the end of a search."""


class OneWire(WheelsTest):
    """Transactions in the stack, devices at the lower left."""

    def setUp(self) -> None:
        super().setUp()
        self.stack = self.page.stack
        self.list = self.page.devices.devices

    def go(self, index: int) -> None:
        """Shows an exchange."""
        self.session.choose_exchange(index)
        self.settle()

    def row(self, code: str) -> int:
        """Where a device stands in the list."""
        return [row.code for row in self.page.devices.rows].index(code)

    def test_newcomers(self) -> None:
        """See who left and when, and why 85."""
        # The list says it, and so does the exchange.
        gone = next(row for row in self.page.devices.rows if row.silent_since_ns is not None)
        self.assertEqual("wheel 3, core", gone.role)
        self.assertEqual(22 * 60 + 33, gone.silent_since_ns // 10**9)
        self.go(LEFT)
        said = texts(self.page.answer)
        self.assertIn("a device has left", said)
        self.assertIn("wheel 3, core (28-01193cf2e5d0) answered before and does not", said)
        self.assertIn("No reading: nobody answered", said)
        # 85 °C is struck through with its reason, and the scratchpad is explained.
        self.go(DIPPED)
        said = texts(self.page.answer)
        self.assertIn("85.0 °C", said)
        self.assertIn("refused: 85 °C from power-on", said)
        self.assertIn("its supply dipped in between", said)
        self.assertTrue(self.page.answer.parts["one-wire"].isVisible())
        self.assertIn("12 bit", self.page.answer.parts["one-wire"].accessibleDescription())
        self.assertIn(
            "1360 / 16 = 85.0 °C;", self.page.answer.parts["one-wire"].accessibleDescription()
        )
        self.press("U")
        self.assertIn(
            "85.0 °C = 185.00 °F;", self.page.answer.parts["one-wire"].accessibleDescription()
        )
        # The warning stands above the list; its link shows the pass.
        self.assertIn("The order shifted at", texts(self.page.devices))
        label = next(
            row for row in self.page.devices.findChildren(QLabel) if "shifted" in row.text()
        )
        for x in range(2, label.width(), 8):
            for y in range(4, label.height(), 8):
                self.click(label, x, y)
        codes = [row.code for row in self.session.report.findings]
        self.assertIn("order-shifted", codes)
        # The list goes with the wire.
        self.session.choose_wire((0, 0))
        self.assertFalse(self.page.devices.isVisible())
        self.assertFalse(self.page.answer.parts["one-wire"].isVisible())
        self.session.choose_wire(WHEELS)
        self.assertTrue(self.page.devices.isVisible())

    def test_under_the_pointer(self) -> None:
        """Slots, bytes and triplets, by pointer, keys and wheel."""
        # A slot under the pointer, a byte on its name, reset and presence above.
        self.go(DIPPED)
        rows = self.stack.rows
        place = rows.geometry(self.stack.shown, self.session.report.detail)
        cell = place.places[3].cells[2]
        self.move(self.stack, *cell.box.centre)
        self.assertEqual(frozenset({2 * cell.slot}), self.session.lit)
        label = place.places[-9].label.centre
        self.click(self.stack, label[0] - 20, label[1])
        self.assertEqual(8, len(self.session.chosen))
        self.move(self.stack, place.head.left + 60, place.head.top + 30)
        self.assertEqual(frozenset({-3}), self.session.lit)
        # Right by a pulse, down by a byte.
        self.go(DIPPED)
        self.session.choose_pulses(frozenset({0}))
        self.key(self.stack, Qt.Key.Key_Right)
        self.assertEqual(frozenset({1}), self.session.chosen)
        self.session.choose_pulses(frozenset({0}))
        self.key(self.stack, Qt.Key.Key_Down)
        self.assertEqual(frozenset({16}), self.session.chosen)
        # A triplet under the pointer is said in words and lights its three slots.
        self.go(ROUND)
        place = self.stack.rows.geometry(self.stack.shown, self.session.report.detail)
        tree = place.tree
        self.move(self.stack, tree.left + 84 + 7.4 * 3, tree.top + 40)
        self.assertEqual(3, len(self.session.lit))
        self.assertIn("search bit 4 · bit 0, complement 0: devices differ", self.stack._said)
        self.assertIn("search, 4 devices so far", texts(self.page.answer))
        # At the smallest size the last byte is reached by the wheel.
        self.window.resize(1140, 690)
        self.go(DIPPED)
        shown = self.stack.shown
        overflow = self.stack.rows.overflow(shown)
        self.assertGreater(overflow, 0)
        self.wheel(self.stack, 300, 300, -9)
        self.assertEqual(overflow, self.stack.shown.top)

    def test_names(self) -> None:
        """Given, replaced, copied."""
        # The menu of a device; its code is copied.
        self.list.setCurrentRow(0)
        code = self.page.devices.current.code
        self.list.customContextMenuRequested.emit(QPoint(20, 20))
        self.settle()
        menu = self.list.findChild(QMenu)
        next(act for act in menu.actions() if act.text() == "Copy code").trigger()
        self.assertEqual(code, QGuiApplication.clipboard().text())
        menu.close()
        # F2 asks; the name is everywhere; undo takes it back.
        self.list.setCurrentRow(self.row("28-00000a41d9b2"))
        with mock.patch.object(QInputDialog, "getText", return_value=("wheel 3, new", True)):
            self.key(self.list, Qt.Key.Key_F2)
        self.assertEqual("wheel 3, new", self.session.roles.names["28-00000a41d9b2"])
        self.key(self.list, Qt.Key.Key_Return)
        self.assertIn("wheel 3, new", texts(self.page.answer))
        self.press("Ctrl+Z")
        self.assertNotIn("28-00000a41d9b2", self.session.roles.names)
        # The role's readings before and after belong together.
        before = next(row for row in self.session.tracks if row.name == "wheel 3, core")
        self.list.setCurrentRow(self.row("28-01193cf2e5d0"))
        with mock.patch.object(QInputDialog, "getItem") as ask:
            ask.side_effect = lambda *words: (
                next(text for text in words[3] if text.startswith("28-00000a41d9b2")),
                True,
            )
            self.page.devices.ask_replacement()
        after = next(row for row in self.session.tracks if row.name == "wheel 3, core")
        self.assertGreater(after.at.size, before.at.size)
        self.assertEqual("28-00000a41d9b2", after.rom)
        self.assertEqual("wheel 3, core, before", self.session.roles.names["28-01193cf2e5d0"])

    def test_every_exchange_is_painted(self) -> None:
        """A walk over all kinds of transactions; Qt has nothing to say."""
        for path in ("iv_ow_basic.vcd", "av_ow_read.vcd", "av_ow_search.vcd"):
            self.open(CAPTURES / path)
            for index in range(len(self.session.wire)):
                self.go(index)
                self.assertFalse(self.window.grab().isNull())


class Kept(WindowTest):
    """Roles are kept by code, in a file of their own."""

    def test_kept_from_start_to_start(self) -> None:
        """Written when named, read at the next start; the demo's names are not kept."""
        path = self.folder / "own" / "roles.json"
        for number in range(2):
            with mock.patch("pivet.ui.window.settings._roles_path", return_value=path):
                window = MainWindow()
            if number:
                self.assertEqual({"28-0000000000aa": "lab"}, window.session.roles.names)
            window._on_demo(demo_night())
            roles = window.session.roles.named("10-000802b3a1c4", "brine")
            roles = roles.named("28-0000000000aa", "lab")
            window.session.edits.change_roles(roles, "test")
            window.close()
            window.deleteLater()
        kept = load_roles(path)
        self.assertEqual([Role("lab", ("28-0000000000aa",))], list(kept.roles))

    def test_broken_file_is_said_and_left(self) -> None:
        """One sentence; the file stays as it was."""
        path = self.folder / "roles.json"
        path.write_text("{", encoding="utf-8")
        with mock.patch("pivet.ui.window.settings._roles_path", return_value=path):
            window = MainWindow()
        self.assertIn("is no JSON", window.notice.text)
        window.session.edits.change_roles(Roles().named("28-0000000000aa", "lab"), "test")
        self.assertEqual("{", path.read_text(encoding="utf-8"))
        window.close()
        window.deleteLater()

    def test_round_trip(self) -> None:
        """What is saved is loaded."""
        path = self.folder / "r.json"
        roles = (
            Roles()
            .named("28-0000000000aa", " a  b ")
            .replaced("28-0000000000aa", "28-0000000000bb")
        )
        save_roles(roles, path)
        self.assertEqual(roles, load_roles(path))
        self.assertEqual("a b", roles.names["28-0000000000bb"])


class Echo(WindowTest):
    """Shots in the stack, air and vessel in the answer."""

    def setUp(self) -> None:
        super().setUp()
        self.show_demo()
        self.session.choose_wire(VAT)
        self.settle()

    def test_pointed_at(self) -> None:
        """How far the brine is; shots, readout and strip."""
        # Distance, level, fill, and what they rest on.
        said = texts(self.page.answer)
        for part in ("0.580", "level", "0.820", "by the median, 1.4 m deep", "from shelf_A"):
            self.assertIn(part, said)
        # By click, by arrow keys, by the wheel.
        stack = self.page.stack
        self.session.choose_exchange(100)
        self.settle()
        rows = stack.rows
        place = rows._layout(stack.shown)
        self.click(stack, place.grid.centre[0], place.grid.top + 10)
        self.assertEqual(place.numbers.start, self.session.index)
        self.assertEqual(rows._layout(stack.shown).numbers.start, self.session.index - 6)
        index = self.session.index
        self.key(stack, Qt.Key.Key_Down)
        self.assertEqual(index + 1, self.session.index)
        self.wheel(stack, 300, 300, 1)
        self.assertEqual(index, self.session.index)
        # Cursors snap to the edges of either line.
        strip = self.page.strip
        self.assertTrue(strip._lane(1).top() > strip._lane(0).bottom())
        self.session.choose_pulses(frozenset({ECHO}))
        self.press("M")
        start, end = strip.cursors
        self.assertIn(start, self.session.wire.lines[1].edges_ns)
        self.assertEqual(self.session.report.detail.flight_us, (end - start) / 1000)
        # Time and distance under the pointer; the echo lights everywhere.
        stack = self.page.stack
        grid = stack.rows._layout(stack.shown).grid
        self.move(stack, grid.left + 300, grid.top + 10)
        self.assertRegex(stack._said, r"ms after the rise · \d+\.\d cm")
        self.assertEqual(frozenset({ECHO}), self.session.lit)
        for _ in range(3):
            self.press("Shift+U")
        self.press("U")
        self.move(stack, grid.left + 301, grid.top + 10)
        self.assertRegex(stack._said, r"ms after the rise · \d+\.\d\d in")
        self.page.answer.parts["echo-pulse"].give_air(30.0)
        box = self.page.answer.parts["echo-pulse"].air_box
        self.assertIn("86 °F given", [box.itemText(at) for at in range(box.count())])

    def test_air_and_vessel(self) -> None:
        """Given, taken back, and by hand."""
        # Annotations, from a probe in a wheel, assumed; each can be undone.
        box = self.page.answer.parts["echo-pulse"].air_box
        before = self.session.report.readings[0].value
        self.page.answer.parts["echo-pulse"].give_air(30.0)
        self.settle()
        self.assertGreater(self.session.report.readings[0].value, before * 1.02)
        self.assertIn("30 °C given", [box.itemText(at) for at in range(box.count())])
        names = [box.itemText(at) for at in range(box.count())]
        at = next(n for n, text in enumerate(names) if text.startswith("from wheels, "))
        box.setCurrentIndex(at)
        box.activated.emit(at)
        self.settle()
        self.assertIn("from wheels", self.session.report.detail.air_from)
        for _ in range(2):
            self.press("Ctrl+Z")
        self.assertEqual(before, self.session.report.readings[0].value)
        # Without one the ribbon shows distances; a wrong one cannot be entered.
        echo = self.page.answer.parts["echo-pulse"]
        echo.take_vessel(None)
        self.settle()
        self.assertEqual(["distance"], [row.quantity for row in self.session.report.readings])
        self.assertEqual("distance", self.session.tracks[0].quantity)
        dialog = VesselDialog(Vessel(1.0, 0.9), self.window)
        dialog.full_box.setValue(2.0)
        ok = dialog._buttons.button(dialog._buttons.StandardButton.Ok)
        self.assertFalse(ok.isEnabled())
        dialog.full_box.setValue(0.8)
        dialog.diameter_box.setValue(1.0)
        self.assertTrue(ok.isEnabled())
        echo.take_vessel(dialog.vessel())
        self.settle()
        self.assertEqual("volume", self.session.report.readings[-1].quantity)
        dialog.deleteLater()
        # trigger,echo can be typed where lines are not recognised.
        self.open(CAPTURES / "av_echo.vcd")
        self.window.add_wire("ECHO", find_sheet("hc-sr04"))
        self.finish_jobs()
        self.assertEqual("echo-pulse", self.session.wire.family.key)


class ByHand(WindowTest):
    """The pane for bytes from elsewhere."""

    def setUp(self) -> None:
        super().setUp()
        self.press("Ctrl+B")
        self.pane = self.window.findChild(ByHandPane)

    def type(self, text: str) -> None:
        """Types into the pane."""
        self.pane.text.clear()
        QTest.keyClicks(self.pane.text, text)
        self.settle()

    def test_typed(self) -> None:
        """Frames and codes, and the whole explanation as text."""
        # Too few bytes are said; five are a frame of every type.
        self.assertIn("Paste bytes", self.pane.said)
        self.type("02 8c")
        self.assertIn("no type has 2 bytes", self.pane.said)
        self.type("02 8c 01 5f ee")
        self.assertEqual("", self.pane.said)
        self.assertIs(Verdict.SOUND, self.pane.found[0].verdict)
        self.assertIn("65.2 %RH, 35.1 °C", texts(self.pane))
        self.assertFalse(self.pane.grab().isNull())
        # The whole explanation as text.
        self.type("28-0000051b2c7d")
        self.pane._copy.click()
        self.assertIn("its CRC is 8c", QGuiApplication.clipboard().text())
