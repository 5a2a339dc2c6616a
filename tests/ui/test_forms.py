"""Small forms and bars: views by name, air and vessel, and what happens to an unnamed bench."""

from contextlib import closing
from pathlib import Path
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QMessageBox

from pivet.files.benchfile.store import BenchFile
from pivet.readings.sound import COLDEST_C, WARMEST_C
from pivet.ui.answer.echo_settings import VesselDialog
from pivet.ui.registry import VIEWS
from tests.night import copy_of_sparse_night
from tests.ui.base import texts
from tests.ui.night import NightTest

VAT = "brine_vat"
ASK = QMessageBox.StandardButton


class Names(NightTest):
    """The names of the views in the bar."""

    def test_by_pointer_and_keys(self) -> None:
        """A click shows a view; left and right its neighbours, round the ends."""
        tabs = self.views.tabs
        for number, kind in reversed(list(enumerate(VIEWS))):
            box = tabs._boxes()[number]
            self.move(tabs, box.center().x(), box.center().y())
            self.assertEqual(number, tabs._hovered)
            self.click(tabs, box.center().x(), box.center().y())
            self.finish_jobs()
            self.assertIs(kind, self.views.kind)
            self.assertIn(kind.name, tabs.accessibleName())
        QTest.keyClick(tabs, Qt.Key.Key_Left)
        self.finish_jobs()
        self.assertIs(VIEWS[-1], self.views.kind)
        QTest.keyClick(tabs, Qt.Key.Key_Right)
        self.settle()
        self.assertEqual("exchange", self.views.kind.key)


class Echo(NightTest):
    """What a distance rests on, asked for in the shown unit."""

    def setUp(self) -> None:
        super().setUp()
        self.show_demo()
        number = len(self.session.captures) - 1
        names = [wire.label for wire in self.session.captures[number].wires]
        self.session.choose_wire((number, next(n for n, row in enumerate(names) if VAT in row)))
        self.settle()
        self.echo = self.page.answer.parts["echo-pulse"]

    def test_air_and_vessel(self) -> None:
        """In the units that are shown."""
        # Annotations, then taken away: distances again.

        def fill(dialog: VesselDialog) -> None:
            dialog.depth_box.setValue(2.0)
            dialog.full_box.setValue(1.5)

        self.in_dialog(self.echo.ask_vessel, VesselDialog, fill)
        self.assertEqual(2.0, self.session.wire.choices.vessel.depth_m)
        self.in_dialog(self.echo.ask_vessel, VesselDialog, lambda dialog: dialog._none.click())
        self.assertIsNone(self.session.wire.choices.vessel)
        self.assertEqual("distance", self.session.tracks[0].quantity)
        # Asked for and told so; what nobody changes stays exact.
        for keys in ("Ctrl+Z", "Ctrl+Z", "Shift+U", "Shift+U", "Shift+U"):
            self.press(keys)
        before = self.session.wire.choices.vessel

        def fill_again(dialog: VesselDialog) -> None:
            self.assertEqual("55.12 in", dialog.depth_box.text())
            dialog.full_box.setValue(40.0)

        self.in_dialog(self.echo.ask_vessel, VesselDialog, fill_again)
        after = self.session.wire.choices.vessel
        self.assertEqual(before.depth_m, after.depth_m)
        self.assertEqual(before.area_m2, after.area_m2)
        self.assertAlmostEqual(1.016, after.full_m)
        said = texts(self.page.answer)
        self.assertIn("full at 40.00 in", said)
        self.assertRegex(said, r"median of 5: 22\.8\d in, spread 0\.0\d in")
        self.assertNotIn(" m deep", said)
        # Offered within what the formula bears, kept in °C; left as it was when not given.
        self.press("U")
        with mock.patch("pivet.ui.answer.echo_settings.ask_number", return_value=50.0) as ask:
            self.echo.ask_air()
        _parent, _title, text, _usual, least, most, _places = ask.call_args.args
        self.assertIn("°F", text)
        self.assertAlmostEqual(COLDEST_C * 1.8 + 32, least)
        self.assertAlmostEqual(WARMEST_C * 1.8 + 32, most)
        self.settle()
        self.assertAlmostEqual(10.0, float(self.session.wire.choices.air.values[0]))
        self.assertIn("50 °F given", self.echo.air_box.currentText())
        before = self.session.wire.choices.air
        with mock.patch("pivet.ui.answer.echo_settings.ask_number", return_value=None):
            self.echo.ask_air()
        self.assertIs(before, self.session.wire.choices.air)


class Unnamed(NightTest):
    """A bench without a name is not thrown away unasked."""

    def setUp(self) -> None:
        super().setUp()
        folder = self.folder / "unnamed"
        folder.mkdir()
        self.keeper = self.window.live.keeper
        self.keeper._own_folder = folder
        self.kept_path = copy_of_sparse_night(folder)
        self.open(self.kept_path)
        self.assertTrue(self.keeper.unnamed)
        self.addCleanup(setattr, self.keeper, "throwaway", True)

    def close(self, answer: ASK, name: Path | None = None) -> int:
        """Closes the window and answers; how often it was asked."""
        chosen = ("" if name is None else str(name), "")
        with (
            mock.patch.object(QMessageBox, "question", return_value=answer) as asked,
            mock.patch.object(QFileDialog, "getSaveFileName", return_value=chosen),
        ):
            self.window.close()
        self.settle()
        return asked.call_count

    def stays(self) -> None:
        """Window, file and readings are there."""
        self.assertTrue(self.window.isVisible())
        self.assertTrue(self.kept_path.exists())
        self.assertTrue(self.session.captures)
        self.assertIsNotNone(self.keeper.bench)

    def test_cancelled_or_without_a_name(self) -> None:
        """All stays as it was."""
        self.assertEqual(1, self.close(ASK.Cancel))
        self.stays()
        self.assertEqual(1, self.close(ASK.Save))
        self.stays()

    def test_where_nothing_can_be_written(self) -> None:
        """It is said, and all stays as it was."""
        self.close(ASK.Save, self.folder / "no" / "such.pivet")
        self.assertIn("such.pivet", self.window.notice.text)
        self.stays()

    def test_saved(self) -> None:
        """Under its name, with the ending, whole."""
        with closing(BenchFile.open(self.kept_path)) as bench:
            before = sum(bench.count(row.id) for row in bench.wires())
        self.close(ASK.Save, self.folder / "good night")
        self.assertFalse(self.window.isVisible())
        self.assertFalse(self.kept_path.exists())
        with closing(BenchFile.open(self.folder / "good night.pivet")) as bench:
            self.assertEqual(before, sum(bench.count(row.id) for row in bench.wires()))

    def test_thrown_away(self) -> None:
        """Only when the person says so."""
        self.close(ASK.Discard)
        self.assertFalse(self.window.isVisible())
        self.assertFalse(self.kept_path.exists())
