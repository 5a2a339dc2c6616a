"""Own timing sheets in the window."""

from PySide6.QtCore import QUrl

from pivet.person.own_sheets import copy_text
from pivet.sheets.load import own_sheets, use_own
from pivet.ui.window.adding import AddWireDialog
from pivet.ui.window.own_sheets import OwnSheets
from tests.ui.base import WindowTest


class Own(WindowTest):
    """A folder that a person edits while the window stands."""

    def setUp(self) -> None:
        super().setUp()
        self.shown: list[QUrl] = []

    def seen(self, url: QUrl) -> bool:
        """Stands in for the file manager."""
        self.shown.append(url)
        return True

    def test_read_again_when_saved(self) -> None:
        """A new one is offered, a broken one is said with its line, a mended one counts again."""
        self.addCleanup(use_own, ())
        folder = self.folder / "sheets"
        notice = self.window.notice
        sheets = OwnSheets(notice, folder, self.seen)
        sheets.read()
        self.assertEqual({}, dict(own_sheets()))
        sheets.show_folder()
        self.assertEqual([str(folder)], [url.toLocalFile() for url in self.shown])
        self.assertIn("none yet", notice.text)
        path = folder / "mine.toml"
        path.write_text(copy_text("dht22", "mine"), encoding="utf-8")
        self.wait_for(lambda: "mine" in own_sheets(), "the sheet is read")
        dialog = AddWireDialog(["data"], ())
        names = [dialog.sensor_box.itemText(row) for row in range(dialog.sensor_box.count())]
        self.assertIn("mine (from 22-type) (mine)", names)
        text = path.read_text(encoding="utf-8")
        path.write_text(text.replace("typ_us = 50", "typ_us = 500", 1), encoding="utf-8")
        self.wait_for(lambda: "mine" not in own_sheets(), "it is left out")
        self.assertRegex(notice.text, r"left out: .*mine\.toml, line \d+: max_us of bit_low")
        path.write_text(text, encoding="utf-8")
        self.wait_for(lambda: "mine" in own_sheets(), "it counts again")
        dialog.deleteLater()
