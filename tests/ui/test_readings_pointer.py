"""The Trend and the Overview under the pointer: values, reasons, the way to an exchange."""

from unittest import mock

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QToolTip, QWidget

from pivet.readings.limits import Limit
from pivet.readings.series import Sensor
from pivet.standin.long_night import WET_FROM_S
from pivet.ui.overview.page import OverviewPage
from pivet.ui.readings.limits import LimitsDialog
from tests.night import BEGAN_NS
from tests.ui.night import NightTest, TrendTest

SHELF, WASH = Sensor("shelf_A", "", "humidity"), Sensor("wash_room", "", "humidity")
HOUR_NS = 3600 * 10**9


def told_at(widget: QWidget, point: QPoint, part: str) -> bool:
    """Whether a tip tells it where the pointer is; a hand is never quite still."""
    for moved in (point, point + QPoint(1, 0)):
        QTest.mouseMove(widget, moved)
    return part in QToolTip.text()


class TrendPointer(TrendTest):
    """What is pointed at."""

    def lane_point(self, at_ns: int, name: str) -> QPoint:
        """Where a moment stands in the lane of failures."""
        lane = self.plots._lane
        assert lane is not None
        names = [shown.series.sensor.wire for shown, _ in lane._rows]
        x = (at_ns - self.plots.base_ns) / 1e9
        there = lane.item.getViewBox().mapViewToScene(QPointF(x, names.index(name)))
        return self.plots.mapFromScene(there)

    def point(self, point: QPoint) -> None:
        """Moves the pointer over the plots."""
        QTest.mouseMove(self.plots.viewport(), point)
        self.settle()

    def test_pointed_at(self) -> None:
        """Values, reasons, and what is seen and chosen there."""
        # By the calendar, of every plot; the last when the pointer leaves.
        at_ns = BEGAN_NS + 3 * HOUR_NS
        newest = self.over_time.aside.values.text()
        self.point(self.scene_point(at_ns, SHELF))
        self.wait_for(lambda: self.over_time.aside.values.text() != newest, "values there")
        self.assertAlmostEqual(at_ns, self.over_time._pointed, delta=60e9)
        for plot in self.plots._plots:
            self.assertTrue(plot._pointer.isVisible())
        QApplication.sendEvent(self.plots, QEvent(QEvent.Type.Leave))
        self.settle()
        self.assertEqual(newest, self.over_time.aside.values.text())
        # A row without a failure near by has no reason, and leads nowhere.
        quiet = self.lane_point(BEGAN_NS + HOUR_NS, "brine_vat")
        self.point(quiet)
        self.wait_for(lambda: "brine_vat" in QToolTip.text(), "the row's name")
        self.assertNotIn("exchange", QToolTip.text())
        QTest.mouseDClick(self.plots.viewport(), Qt.MouseButton.LeftButton, pos=quiet)
        self.settle()
        self.assertEqual("trend", self.views.kind.key)

    def test_zoomed_and_seen(self) -> None:
        """By key about the exchange that is looked at; a single reading is a point."""
        at_ns = BEGAN_NS + 5 * HOUR_NS
        point = self.scene_point(at_ns, SHELF)
        QTest.mouseClick(self.plots.viewport(), Qt.MouseButton.LeftButton, pos=point)
        self.settle()
        chosen, (low, high) = self.views.store.chosen_ns, self.plots.view_ns
        share = (chosen - low) / (high - low)
        QTest.keyClick(self.plots, Qt.Key.Key_Up)
        near, far = self.plots.view_ns
        self.assertAlmostEqual((high - low) / 1.5, far - near, delta=10**9)
        self.assertAlmostEqual(share, (chosen - near) / (far - near), places=3)
        QTest.keyClick(self.plots, Qt.Key.Key_Down)
        self.assertAlmostEqual(low, self.plots.view_ns[0], delta=10**9)
        # A line needs two; a single one is a point.
        wet_ns = BEGAN_NS + round(WET_FROM_S * 1e9)
        self.plots.look_at(wet_ns, wet_ns + HOUR_NS)
        self.settle()
        series = self.views.store.series(WASH)
        plot = self.plots.plot("humidity")
        assert series is not None and plot is not None
        given = series.given
        inside = (series.times_ns >= wet_ns) & (series.times_ns <= wet_ns + HOUR_NS)
        alone = given[1:-1] & ~given[:-2] & ~given[2:] & inside[1:-1]
        (curve,) = [row for row in plot.curves if row.shown.series.sensor == WASH]
        colour = curve.shown.style.colour
        drawn = [row for row in plot._signs._signs if row.colour == colour]
        self.assertGreater(int(alone.sum()), 4)
        self.assertLessEqual(int(alone.sum()), sum(row.x.size for row in drawn))
        # The reason and the exchange by a tip; a click looks at it, a double click goes there.
        series = self.views.store.series(WASH)
        assert series is not None
        row = int((~series.given).nonzero()[0][3])
        at_ns = int(series.times_ns[row])
        self.plots.look_at(at_ns - 60 * 10**9, at_ns + 60 * 10**9)
        self.settle()
        self.point(self.lane_point(at_ns, "wash_room"))
        self.wait_for(lambda: "exchange" in QToolTip.text(), "the reason")
        said = f"{series.why_text(row)}, exchange {series.number[row]}"
        self.assertIn(said, QToolTip.text())
        point = self.lane_point(at_ns, "wash_room")
        QTest.mouseDClick(self.plots.viewport(), Qt.MouseButton.LeftButton, pos=point)
        self.wait_for(lambda: self.views.kind.key == "exchange", "the exchange")
        self.settle()
        self.assertEqual(int(series.number[row]), self.session.number)


class HalfHours(NightTest):
    """Where the hours begin at another quarter."""

    def setUp(self) -> None:
        self.in_zone("Asia/Kathmandu")
        super().setUp()

    def test_hours_of_the_wall(self) -> None:
        """Each begins when the clock on the wall strikes; a click shows that hour."""
        page = self.go("overview")
        assert isinstance(page, OverviewPage)
        page.choose("wash_room")
        self.settle()
        box = page.hours._boxes()[5]
        point = QPoint(round(box.center().x()), round(box.center().y()))
        self.wait_for(lambda: told_at(page.hours, point, "unsound"), "the hour's figures")
        self.assertIn("From 2026-03-08 07:00\n", QToolTip.text())
        QTest.mouseClick(page.hours, Qt.MouseButton.LeftButton, pos=point)
        self.finish_jobs()
        self.settle()
        low, _ = self.over_time.plots.view_ns
        self.assertAlmostEqual(75 * 60 * 10**9, low % (3600 * 10**9) + 3600 * 10**9, delta=10**9)


class OverviewPointer(NightTest):
    """The table and the hours, as those of UTC."""

    def setUp(self) -> None:
        self.in_zone("UTC")
        super().setUp()
        page = self.go("overview")
        assert isinstance(page, OverviewPage)
        self.overview = page

    def test_pointed_at(self) -> None:
        """Hours, limits, and the way to an exchange."""
        # Counts, shares and the commonest reason; a click looks at it in the Trend.
        self.overview.choose("wash_room")
        self.settle()
        hours = self.overview.hours
        box = hours._boxes()[5]
        point = QPoint(round(box.center().x()), round(box.center().y()))
        self.wait_for(lambda: told_at(hours, point, "unsound"), "the hour's figures")
        self.assertIn("unsound: 56 (74.7 %)", QToolTip.text())
        self.assertIn("mostly: no answer", QToolTip.text())
        # Its button asks for them; what crossed them is listed, the last first.
        self.overview.choose("shelf_A")

        def fill(dialog: LimitsDialog) -> None:
            self.assertEqual(SHELF, dialog.sensor.currentData())
            dialog.has_high.setChecked(True)
            dialog.high.setValue(95.0)

        def press() -> None:
            QTest.mouseClick(self.overview.limits, Qt.MouseButton.LeftButton)

        self.in_dialog(press, LimitsDialog, fill)
        self.assertEqual(95.0, self.views.store.annotations.limits[SHELF].high)
        self.assertEqual(2, self.overview.told.text().count("humidity above"))
        row = next(n for n, state in enumerate(self.overview._states) if state.wire == "shelf_A")
        self.assertEqual("inside", self.overview.table.item(row, 4).text())
        self.in_dialog(press, LimitsDialog, lambda dialog: dialog.high.setValue(50.0))
        self.assertIn("crossed", self.overview.table.item(0, 4).text())
        # Is said in the form, and nothing changes.
        dialog = LimitsDialog(self.session, self.views.store, SHELF, self.window)
        dialog.has_low.setChecked(True)
        dialog.has_high.setChecked(True)
        dialog.low.setValue(90.0)
        dialog.high.setValue(10.0)
        with mock.patch.object(self.views.store, "change") as change:
            dialog.accept()
        change.assert_not_called()
        self.assertTrue(dialog._said.text())
        dialog.deleteLater()
        store = self.views.store
        store.change(store.annotations.limited(SHELF, Limit(high=95.0)), "limits")
        dialog = LimitsDialog(self.session, store, SHELF, self.window)
        dialog.none.click()
        self.assertNotIn(SHELF, store.annotations.limits)
        dialog.deleteLater()
        # By a double click.
        self.overview.choose("blast_chiller")
        item = self.overview.table.currentItem()
        place = self.overview.table.visualItemRect(item).center()
        port = self.overview.table.viewport()
        QTest.mouseClick(port, Qt.MouseButton.LeftButton, pos=place)
        QTest.mouseDClick(port, Qt.MouseButton.LeftButton, pos=place)
        self.wait_for(lambda: self.views.kind.key == "exchange", "the exchange")
        self.assertEqual("blast_chiller", self.session.wire_name)
        self.assertEqual(len(self.session.wire) - 1, self.session.index)
