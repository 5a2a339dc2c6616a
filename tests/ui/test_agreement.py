"""The Agreement view in the real window: a sensor against a reference."""

from datetime import datetime
from unittest import mock

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog

from pivet.person.annotations import Reference, read_annotations
from pivet.readings.correction import by_offset
from pivet.readings.series import Sensor
from pivet.ui.agreement.correcting import CorrectionDialog, ReferenceDialog
from pivet.ui.agreement.page import AgreementPage
from tests.night import BEGAN_NS
from tests.ui.night import NightTest

SHELF, WASH = Sensor("shelf_A", "", "humidity"), Sensor("wash_room", "", "humidity")
HOUR_NS = 3600 * 10**9


class AgreementView(NightTest):
    """A sensor against a reference."""

    def setUp(self) -> None:
        super().setUp()
        page = self.go("agreement")
        assert isinstance(page, AgreementPage)
        self.agreement = page

    def test_chosen(self) -> None:
        """Nothing unasked; only what can be compared."""
        # Which sensors hang side by side only the person knows; what they gave is taken.
        self.assertIsNone(self.agreement.comparison)
        self.assertIn("Choose a reference", self.agreement.empty.text())
        self.assertTrue(self.agreement.empty.isVisible())
        self.assertIn("as they were read", self.agreement.correction.text())
        self.assertFalse(self.agreement.keep.isEnabled())
        at_ns = BEGAN_NS + HOUR_NS
        given = Reference("hall humidity", "humidity", np.array([at_ns]), np.array([91.0]))
        store = self.views.store
        store.change(store.annotations.referred(given), "wall")
        self.agreement.sensor.setCurrentIndex(self.agreement.sensor.findText("shelf_A: humidity"))
        self.agreement.sensor.activated.emit(self.agreement.sensor.currentIndex())
        self.settle()
        self.assertEqual("hall humidity (reference)", self.agreement.reference.currentText())
        assert self.agreement.comparison is not None
        self.agreement.point_out()
        self.settle()
        self.assertIn("humidity", self.agreement.reference.currentText())
        # Sensors and references of the same kind of quantity, never the sensor itself.
        page, store = self.agreement, self.views.store
        for quantity in ("temperature", "humidity"):
            row = Reference(f"wall {quantity}", quantity, np.array([BEGAN_NS]), np.array([50.0]))
            store.change(store.annotations.referred(row), "wall")
        page.choose(SHELF, "")
        texts = [page.reference.itemText(at) for at in range(page.reference.count())]
        self.assertNotIn("shelf_A: humidity", texts)
        self.assertIn("wash_room: humidity", texts)
        self.assertEqual("wall humidity (reference)", texts[-1])
        self.assertTrue(all("humidity" in text for text in texts), texts)
        page.reference.setCurrentIndex(texts.index("wash_room: humidity"))
        page.reference.activated.emit(page.reference.currentIndex())
        page.sensor.setCurrentIndex(page.sensor.findText("shelf_A: temperature"))
        page.sensor.activated.emit(page.sensor.currentIndex())
        self.assertEqual("wall temperature (reference)", page.reference.currentText())

    def test_compared(self) -> None:
        """Drawn once, and beside the window where it is much."""
        # However often what is compared changed since the events before, with the last of it.
        page, store = self.agreement, self.views.store
        drawn = mock.Mock(wraps=page.plots.show_comparison)
        with (
            mock.patch.object(type(store), "is_little", True),
            mock.patch.object(page.plots, "show_comparison", drawn),
        ):
            page.choose(WASH, "shelf_A: humidity")
            page.choose(SHELF, "wash_room: humidity")
            drawn.assert_not_called()
            self.settle()
        assert page.comparison is not None
        self.assertEqual(SHELF, page.comparison.series.sensor)
        drawn.assert_called_once_with(page.comparison, mock.ANY, True)
        # It says so meanwhile; the same pair again leaves what stands there.
        page, store = self.agreement, self.views.store
        with mock.patch.object(type(store), "is_little", False):
            page.choose(WASH, "shelf_A: humidity")
            self.assertIn("are being compared", page.empty.text())
            self.assertEqual("e TLC", self.can())
            self.settle()
            self.assertIsNotNone(page.comparison)
            page._compare()
            self.assertIsNotNone(page.comparison)
            page.choose(SHELF, "wash_room: humidity")
            self.assertIsNone(page.comparison)
            page.choose(SHELF, "")
            self.settle()
            self.assertIsNone(page.comparison)
            page.choose(SHELF, "wash_room: humidity")
            self.assertIn("are being compared", page.empty.text())

    def test_corrected(self) -> None:
        """Shelf A and wash room; a correction is kept, acts everywhere, and can be undone."""
        self.agreement.choose(WASH, "shelf_A: humidity")
        self.settle()
        self.assertIn("more than both sheets allow (±5 and ±2", self.agreement.headline.text())
        self.assertIn("offset", self.agreement.figures.text())
        QTest.mouseClick(self.agreement.keep, Qt.MouseButton.LeftButton)
        self.settle()
        self.assertIn("inside", self.agreement.headline.text())
        (kept,) = read_annotations(self.kept()).corrections.items()
        self.assertEqual(WASH, kept[0])
        self.assertAlmostEqual(14.0, kept[1].offset, delta=1.0)
        card = next(row for row in self.cards if row.short == "wash_room")
        self.assertIn("%RH*", card.spoken)
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertIn("more than both", self.agreement.headline.text())
        self.assertFalse(read_annotations(self.kept()).corrections)
        # On the cards, before anybody looks at readings over time.
        self.agreement.choose(WASH, "shelf_A: humidity")
        self.settle()
        self.agreement.keep_offset()
        self.window.close_capture()
        self.settle()
        self.assertFalse(self.session.captures)
        self.open(self.path)
        card = next(row for row in self.cards if row.short == "wash_room")
        self.assertIn("%RH*", card.spoken)

    def can(self) -> str:
        """What is to be seen and pressed, a letter each."""
        page = self.agreement
        shown = (page.plots, page.empty, page.headline, page.figures, page.mark)
        used = (page.forget, page.type_value, page.read_log, page.points, page.remove, page.keep)
        return "".join(
            letter
            for letter, there in zip(
                "pehfm FTLCRK",
                [*(one.isVisible() for one in shown), True, *(one.isEnabled() for one in used)],
                strict=True,
            )
            if there
        )

    def test_what_can_be_done_and_two_points(self) -> None:
        """Two points in the unit that is shown; only what makes sense can be done."""
        # In the unit that is shown; nonsense is said and changes nothing.
        warm = Sensor("shelf_A", "", "temperature")
        self.key(Qt.Key.Key_U)
        dialog = CorrectionDialog(warm, by_offset(0.0), self.session.shown.units)
        dialog.by_points.setChecked(True)
        for spin, value in zip(dialog.spins, (32.0, 33.8, 32.0, 50.0), strict=True):
            spin.setValue(value)
        dialog.accept()
        self.assertIsNone(dialog.correction)
        dialog.spins[2].setValue(212.0)
        dialog.spins[3].setValue(213.8)
        dialog.accept()
        assert dialog.correction is not None
        self.assertAlmostEqual(1.0, dialog.correction.applied(0.0))
        self.assertAlmostEqual(51.0, dialog.correction.applied(50.0))
        # Only what makes sense: with a pair, a reference of the person's, a correction, none.
        page, store = self.agreement, self.views.store
        self.assertEqual("e TLC", self.can())
        page.choose(WASH, "shelf_A: humidity")
        self.settle()
        self.assertEqual("phfm TLCK", self.can())
        page.keep_offset()
        self.settle()
        self.assertEqual("phfm TLCRK", self.can())
        self.assertIn("; the raw values are kept", page.correction.text())
        QTest.mouseClick(page.remove, Qt.MouseButton.LeftButton)
        self.settle()
        self.assertEqual("phfm TLCK", self.can())
        given = Reference("wall", "humidity", np.array([BEGAN_NS]), np.array([91.0]))
        page.add_reference(given)
        self.settle()
        self.assertEqual("phfm FTLCK", self.can())
        self.assertEqual("wall (reference)", page.reference.currentText())
        QTest.mouseClick(page.forget, Qt.MouseButton.LeftButton)
        self.settle()
        self.assertNotIn("F", self.can())
        self.assertFalse(store.annotations.references)
        self.window.close_capture()
        self.settle()
        page._list_sensors()
        self.assertEqual((-1, 0), (page.sensor.currentIndex(), page.sensor.count()))
        self.assertIn("Nothing was read yet", page.empty.text())
        self.assertEqual("", page.correction.text())
        page.ask_value()
        page.ask_correction()
        page.keep_offset()

    def test_logs_and_values(self) -> None:
        """Of an instrument, typed, and of the column that is meant."""
        # With its own times and unit; of a column that is found by its name.
        path = self.folder / "wall.csv"
        rows = ["time,temperature (°F),humidity (%)"]
        for minute in range(0, 480, 5):
            at = datetime.fromtimestamp(BEGAN_NS / 1e9 + 60 * minute).astimezone()
            rows.append(f"{at.isoformat()},53.2,91.0")
        path.write_text("\n".join(rows), encoding="utf-8")
        self.agreement.choose(SHELF, "")
        self.agreement.take_log(path)
        self.settle()
        assert self.agreement.comparison is not None and self.agreement.comparison.found is not None
        self.assertAlmostEqual(1.0, self.agreement.comparison.found.offset, delta=0.6)
        self.assertIn("no accuracy is stated for the reference", self.agreement.headline.text())
        (reference,) = read_annotations(self.kept()).references
        self.assertEqual(96, reference.times_ns.size)
        path.write_text("a;b\nx;y\n", encoding="utf-8")
        self.agreement.take_log(path)
        self.assertIn("no column", self.window.notice.text)
        QTest.mouseClick(self.agreement.forget, Qt.MouseButton.LeftButton)
        self.assertFalse(read_annotations(self.kept()).references)
        # Counts about its moment; with its accuracy it is said whether that is allowed.
        units, at_ns = self.session.shown.units, BEGAN_NS + HOUR_NS
        dialog = ReferenceDialog(SHELF, units, at_ns, True)
        dialog.value.setValue(91.5)
        dialog.accuracy.setValue(1.0)
        self.agreement.choose(SHELF, "")
        self.agreement.add_reference(dialog.reference())
        self.settle()
        assert self.agreement.comparison is not None and self.agreement.comparison.found is not None
        self.assertLess(len(self.agreement.comparison.found.pairs), 50)
        self.assertIn("inside what both sheets allow", self.agreement.headline.text())
        # Asked where several may be meant; nothing is taken when nobody answers.
        QTest.mouseClick(self.agreement.forget, Qt.MouseButton.LeftButton)
        path = self.folder / "wall.csv"
        at = datetime.fromtimestamp(BEGAN_NS / 1e9 + 60).astimezone().isoformat()
        path.write_text(f"time,left (%),right (%)\n{at},90,70\n", encoding="utf-8")
        self.agreement.choose(SHELF, "")
        for chosen in (False, True):
            with mock.patch.object(
                QInputDialog, "getItem", return_value=("right (%)", chosen)
            ) as asked:
                self.agreement.take_log(path)
            names = asked.call_args[0][3]
            self.assertEqual(2, len(names))
            self.assertEqual(int(chosen), len(self.views.store.annotations.references))
        (taken,) = self.views.store.annotations.references
        self.assertEqual(([70.0], "humidity"), (taken.values.tolist(), taken.quantity))
        self.assertTrue(taken.name.startswith("wall, right"))
