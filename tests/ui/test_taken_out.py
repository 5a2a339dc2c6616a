"""What is taken out of the window, of every family: pictures, copies, exports; and looks."""

import json
from pathlib import Path
from unittest import mock

from PySide6.QtGui import QColor, QGuiApplication, QImage
from PySide6.QtWidgets import QFileDialog

from pivet.bench.demo import DEMO_ROLES
from pivet.files.captures import read_capture
from pivet.ui.drawing.pictures import write_picture
from pivet.ui.drawing.theme import DARK, ThemeChoice, apply_theme
from pivet.ui.window.adding import AddWireDialog
from tests.base import CAPTURES
from tests.ui.base import WindowTest

AVR = CAPTURES / "av_dht22.vcd"
CAVE = CAPTURES / "iv_dht22_cave.vcd"
DOCS = Path(__file__).parent.parent.parent / "docs"
SHOWN = ((2, 330), (2, 3), (2, 4), (3, 118), (3, 64))
"""A scratchpad, a search, a conversion, a jump, a shot without echo."""


class Taking(WindowTest):
    """Copy, export, pictures."""

    def setUp(self) -> None:
        super().setUp()
        self.open(AVR)

    def save_as(self, keys: str, name: str, kind: str) -> Path:
        """Answers the dialog that some keys open."""
        path = self.folder / name
        answer = (str(path), kind)
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=answer):
            self.press(keys)
        self.finish_jobs()
        return path

    def test_files(self) -> None:
        """A copy, readings, the capture, a picture."""
        # Ctrl+C copies the exchange in full.
        self.session.choose_exchange(2)
        self.press("Ctrl+C")
        text = QGuiApplication.clipboard().text()
        self.assertIn("gives ec, but fc was sent", text)
        self.assertIn("1, high", text)
        # CSV and JSON Lines; an ending is added where the name has none.
        self.save_as("Ctrl+E", "r", "CSV, a column a quantity (*.csv)")
        self.assertIn("88.7", (self.folder / "r.csv").read_text(encoding="utf-8"))
        rows = self.save_as("Ctrl+E", "rows.jsonl", "").read_text(encoding="utf-8").splitlines()
        self.assertEqual("humidity", json.loads(rows[0])["readings"][0]["quantity"])
        path = self.save_as("Ctrl+Shift+E", "r.jsonl", "")
        first = json.loads(path.read_text(encoding="utf-8").splitlines()[0])
        self.assertEqual("039c007615", first["bytes"])
        self.assertIn("r.jsonl was written", self.window.notice.text)
        # The capture as VCD.
        path = self.save_as("Ctrl+Shift+S", "c.vcd", "")
        self.assertEqual(344, read_capture(path).edge_count)
        # PNG with twice the pixels, and SVG.
        png = self.save_as("Ctrl+P", "p.png", "")
        self.assertEqual(2 * self.page.width(), QImage(str(png)).width())
        svg = self.save_as("Ctrl+P", "p.svg", "")
        self.assertIn("<svg", svg.read_text(encoding="utf-8")[:500])

    def test_trouble_is_said(self) -> None:
        """A place that cannot be written to, and a full disk."""
        for keys in ("Ctrl+E", "Ctrl+Shift+S", "Ctrl+P"):
            self.window.notice.hide()
            ending = ".png" if keys == "Ctrl+P" else ".csv"
            self.save_as(keys, "no/such/place" + ending, "")
            self.assertIn("the folder is not there", self.window.notice.text)
        with mock.patch("os.fsync", side_effect=OSError(28, "No space left on device")):
            self.save_as("Ctrl+E", "r.csv", "")
        self.assertIn("the disk is full", self.window.notice.text)
        self.assertEqual([], list(self.folder.iterdir()))

    def test_add_a_wire(self) -> None:
        """A line that was not recognised can be added, and taken back."""
        self.open(CAVE)
        self.window.choose_wire_to_add()
        dialog = self.window.findChild(AddWireDialog)
        dialog.line_box.setCurrentText("tb.clk")
        self.assertIn("may be an echo line without its trigger", dialog._says.text())
        dialog.accept()
        self.settle()
        self.finish_jobs()
        wire = self.session.wire
        self.assertEqual(("tb.clk", "hc-sr04"), (wire.name, wire.sheet.id))
        self.window.activateWindow()
        self.settle()
        self.press("Ctrl+Z")
        self.window.add_wire("tb.clk")
        self.finish_jobs()
        self.assertIn("tb.clk looks like no sensor known here", self.window.notice.text)
        self.assertEqual(["tb.data"], [wire.name for wire in self.session.capture.wires])


class TakenOut(WindowTest):
    """Every kind of exchange."""

    def setUp(self) -> None:
        super().setUp()
        self.session.put_roles(DEMO_ROLES)
        self.show_demo()

    def go(self, wire: int, index: int) -> None:
        """Shows an exchange of the demo."""
        self.session.choose_wire((0, wire))
        self.session.choose_exchange(index)
        self.settle()

    def test_pictures_and_copies(self) -> None:
        """SVG with its words as text; an exchange as text; every key is documented."""
        # SVG with its words as text.
        for wire, index in SHOWN:
            self.go(wire, index)
            svg = self.folder / "p.svg"
            write_picture(self.page, svg)
            content = svg.read_text(encoding="utf-8")
            self.assertIn(f"Exchange {index}", content)
            self.assertIn("</svg>", content)
        # By their roles, where they have one.
        self.go(2, 3)
        path = self.folder / "p.svg"
        write_picture(self.page.stack, path)
        content = path.read_text(encoding="utf-8")
        for part in ("0 · brine", "1 · wheel 3, core", "complement", "serial number"):
            self.assertIn(part, content)
        # An exchange as text, with the check written out and all windows.
        self.go(2, 330)
        self.press("Ctrl+C")
        copied = QGuiApplication.clipboard().text()
        for part in ("CRC-8 of the scratchpad", "read 0, low", "15 to 60 µs", "85 °C"):
            self.assertIn(part, copied)
        self.go(3, 118)
        self.press("Ctrl+C")
        copied = QGuiApplication.clipboard().text()
        for part in ("stands alone", "m/s at", "wait, low", "(assumed)"):
            self.assertIn(part, copied)
        # docs/json.md names each key of each family.
        from pivet.files.jsonl import exchange_object

        text = (DOCS / "json.md").read_text(encoding="utf-8")
        for wire, index in SHOWN:
            row = exchange_object(self.session.captures[0].wires[wire].report(index))
            for key in row:
                self.assertIn(f"`{key}`", text)
        # Each wire is shown where it was left, with its own rows and parts.
        self.go(2, 330)
        self.go(3, 118)
        self.go(0, 158)
        self.session.choose_wire((0, 2))
        self.settle()
        self.assertEqual(330, self.session.index)
        self.assertEqual("Stack of bytes", self.page.stack.accessibleName())
        self.session.choose_wire((0, 3))
        self.assertEqual("Stack of measurements", self.page.stack.accessibleName())
        self.session.choose_wire((0, 0))
        self.assertEqual("Stack of bits", self.page.stack.accessibleName())

    def test_exports_name_the_roles(self) -> None:
        """Readings as CSV and JSON Lines."""
        from functools import partial

        from pivet.bench.export import export_readings

        path = self.folder / "r.csv"
        export = partial(export_readings, roles=self.session.roles)
        self.window.exports._export(path, export)
        self.finish_jobs()
        text = path.read_text(encoding="utf-8")
        self.assertIn('"wheel 1, core",28-0000051b2c7d', text)
        self.assertIn("read before it was converted", text)
        lines = self.folder / "r.jsonl"
        self.window.exports._export(lines, export)
        self.finish_jobs()
        rows = [json.loads(row) for row in lines.read_text(encoding="utf-8").splitlines()]
        self.assertEqual({"dht22", "dht11", "onewire", "hc-sr04"}, {row["sensor"] for row in rows})

    def test_dark_and_light(self) -> None:
        """The kept pictures of ribbon, marks and cells follow the theme."""
        self.go(2, 330)
        self.page.renew()
        light = self.window.grab().toImage()
        apply_theme(self.app, ThemeChoice.DARK)
        self.page.renew()
        self.settle()
        dark = self.window.grab().toImage()
        spot = self.page.stack.mapTo(self.window, self.page.stack.rect().center())
        self.assertEqual(
            QColor(DARK.panel).lightness() < 128, dark.pixelColor(spot).lightness() < 128
        )
        self.assertNotEqual(light, dark)

    def test_sizes(self) -> None:
        """All kinds are painted at any size; nothing scrolls where all is seen."""
        # All kinds are painted at any size that the window can have.
        for size in ((1140, 690), (1280, 800), (1900, 1000)):
            self.window.resize(*size)
            for wire, index in SHOWN:
                self.go(wire, index)
                self.assertFalse(self.window.grab().isNull())
        # Nothing scrolls where everything is to be seen.
        self.window.resize(1900, 1000)
        self.go(2, 330)
        self.wheel(self.page.stack, 300, 300, -3)
        self.assertEqual(0.0, self.page.stack.shown.top)


class Details(WindowTest):
    """Captures of other programs."""

    def test_capture_details(self) -> None:
        """What had to be assumed is said for every wire."""
        self.open(CAPTURES / "iv_ping3.vcd")
        self.press("Ctrl+I")
        from pivet.ui.help.viewer import TextViewer

        text = self.window.findChild(TextViewer).text.toPlainText()
        self.assertIn("x or z taken as high", text)
        self.assertIn("1 edge before or between the exchanges left out", text)

    def test_next_that_is_not_sound(self) -> None:
        """Over transactions as over frames."""
        self.session.put_roles(DEMO_ROLES)
        self.show_demo()
        self.session.choose_wire((0, 2))
        self.press("Shift+PgDown")
        self.assertEqual(179, self.session.index)
        self.press("Shift+PgUp")
        self.assertIn("is sound", self.window.notice.text)
