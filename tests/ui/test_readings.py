"""Readings over time in the real window: a night's bench, and captures from files."""

from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialogButtonBox

from pivet.files.readings_table import Form
from pivet.judge.verdict import Verdict
from pivet.person.annotations import read_annotations, read_crossings
from pivet.readings.correction import by_offset
from pivet.readings.limits import Limit
from pivet.readings.series import Sensor
from pivet.standin.long_night import BREATH_S, WET_FROM_S
from pivet.ui.agreement.page import AgreementPage
from pivet.ui.overview.page import OverviewPage
from pivet.ui.readings.limits import LimitsDialog
from tests.base import CAPTURES
from tests.night import BEGAN_NS, copy_of_evening
from tests.ui.night import NightTest, TrendTest

SHELF, WASH = Sensor("shelf_A", "", "humidity"), Sensor("wash_room", "", "humidity")
HOUR_NS = 3600 * 10**9


class Trend(TrendTest):
    """Curves."""

    def test_by_keys_and_under_the_pointer(self) -> None:
        """Zoom, units, values with their reasons; to an exchange and back."""
        # By key, by wheel, by button.
        QTest.keyClick(self.plots, Qt.Key.Key_2)
        low, high = self.plots.view_ns
        self.assertAlmostEqual(HOUR_NS, high - low, delta=0.03 * HOUR_NS)
        QTest.keyClick(self.plots, Qt.Key.Key_1)
        low, high = self.plots.view_ns
        self.assertAlmostEqual(600e9, high - low, delta=20e9)
        QTest.keyClick(self.plots, Qt.Key.Key_Left)
        self.assertLess(self.plots.view_ns[0], low)
        self.key(Qt.Key.Key_A)
        low, high = self.plots.view_ns
        self.assertGreater(high - low, 8 * HOUR_NS)
        middle = self.plots.viewport().rect().center()
        self.wheel(self.plots.viewport(), middle.x(), middle.y(), 2)
        self.settle()
        self.assertLess(self.plots.view_ns[1] - self.plots.view_ns[0], high - low)
        # All that is shown, at the same moment; a failed reading says why.
        series = self.views.store.series(WASH)
        assert series is not None
        failed = int((~series.given).nonzero()[0][0])
        self.plots.point(int(series.times_ns[failed]))
        text = self.over_time.aside.values.text()
        for part in ("wash_room, humidity", series.why_text(failed), "shelf_A, temperature"):
            self.assertIn(part, text)
        self.plots.point(None)
        self.assertIn("shelf_A", text)
        # Plots, values, cards and answer, back after three.
        self.key(Qt.Key.Key_U)
        plot = self.plots.plot("temperature")
        assert plot is not None
        self.assertIn("°F", plot.item.getAxis("left").labelText)
        self.assertIn("°F", self.over_time.aside.values.text())
        self.assertIn("°F", self.cards[1].spoken)
        report = self.session.report
        assert report is not None
        (told,) = [row for row in self.page.strip._in_units(report).values() if "°" in row]
        self.assertIn("°F", told)
        self.assertEqual("°F", self.session.shown.units.of("dew point").symbol)
        for _ in range(2):
            self.key(Qt.Key.Key_U)
        self.assertIn("°C", self.cards[1].spoken)

    def test_to_an_exchange_and_back(self) -> None:
        """A double click goes there; the view of before is still there behind it."""
        at_ns = BEGAN_NS + 3 * HOUR_NS
        self.plots.look_at(at_ns - 60 * 10**9, at_ns + 60 * 10**9)
        self.settle()
        before = self.plots.view_ns
        point = self.scene_point(at_ns, WASH)
        QTest.mouseClick(self.plots.viewport(), Qt.MouseButton.LeftButton, pos=point)
        self.settle()
        series = self.views.store.series(WASH)
        assert series is not None
        wanted = int(series.number[series.nearest(at_ns) or 0])
        self.assertEqual(("wash_room", wanted), (self.session.wire_name, self.session.number))
        QTest.mouseDClick(self.plots.viewport(), Qt.MouseButton.LeftButton, pos=point)
        self.wait_for(lambda: self.views.kind.key == "exchange", "the exchange")
        self.go("trend")
        self.assertEqual(before, self.plots.view_ns)
        self.assertAlmostEqual(at_ns, self.views.store.chosen_ns, delta=6 * 10**9)
        # A plot takes long in the making: events come between any two, and all are made first.
        page = self.views.page
        with mock.patch("pivet.ui.trend.page.turns") as later:
            page.renew()
        asked = [call.args[1:] for call in later().add.call_args_list]
        made = [what[0] for work, *what in asked if work == self.plots.make]
        # Of what follows from them nothing is shown before somebody chooses it.
        self.assertEqual(["humidity", "level", "temperature"], sorted(made))
        self.assertEqual(len(made), len(asked[1:-2]))

    def test_marks_exports_and_choice(self) -> None:
        """What a person marks, takes out, and chooses to see."""
        # At the moment under the pointer; kept in the file; undone by Ctrl+Z.
        self.plots.point(BEGAN_NS + 2 * HOUR_NS)
        self.key(Qt.Key.Key_B)
        self.finish_jobs()
        marks = self.over_time.aside.marks
        self.assertEqual(3, marks.count())
        item = marks.currentItem()
        item.setText("door")
        self.settle()
        self.assertIn("door", [mark.text for mark in read_annotations(self.kept()).marks])
        for _ in range(2):
            self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(2, marks.count())
        self.assertEqual(2, len(read_annotations(self.kept()).marks))
        # What is in sight, and the view as a picture.
        QTest.keyClick(self.plots, Qt.Key.Key_1)
        path = self.folder / "seen.csv"
        self.views.out.export(path, Form.WIDE, True)
        self.finish_jobs()
        lines = path.read_text(encoding="utf-8").splitlines()
        self.assertTrue(40 < len(lines) < 60, len(lines))
        for name in ("trend.png", "trend.svg"):
            self.window.exports.save_picture(self.folder / name)
            self.finish_jobs()
            self.assertEqual(f"{name} was written.", self.window.notice.text)
            self.assertIs(Verdict.SOUND, self.window.notice._mark._verdict)
            self.assertGreater((self.folder / name).stat().st_size, 5000)
        for path, why in ((self.folder / "trend.bmp", "in .png or .svg"), (self.folder, "in .png")):
            self.window.exports.save_picture(path)
            self.finish_jobs()
            self.assertIn(why, self.window.notice.text)
        self.window.exports.save_picture(self.folder / "nowhere" / "trend.png")
        self.finish_jobs()
        self.assertRegex(self.window.notice.text, "nowhere.* was not written")
        self.assertIs(Verdict.UNSOUND, self.window.notice._mark._verdict)
        for name, said in (("s.txt", "in the hour from"), ("s.csv", "shelf_A,dht22,1200,")):
            self.views.out.export_statistics(self.folder / name)
            self.finish_jobs()
            self.assertIn(said, (self.folder / name).read_text(encoding="utf-8"))
        # Dew point is shown when it is wanted, and has a plot of its own.
        dew = Sensor("shelf_A", "", "dew point")
        self.assertNotIn("dew point", self.plots.quantities)
        self.over_time.choice.check(dew, True)
        self.settle()
        self.assertIn("dew point", self.plots.quantities)
        for sensor in self.over_time.choice.checked:
            self.over_time.choice.check(sensor, False)
        self.settle()
        self.assertTrue(self.over_time.empty.isVisible())


class Breath(TrendTest):
    """Where it was asked often enough."""

    night = staticmethod(copy_of_evening)

    def test_the_breath_and_its_time_constant(self) -> None:
        """Chosen from the list of marks; told with its uncertainty."""
        marks = self.over_time.aside.marks
        self.assertEqual("breath", marks.item(0).text())
        marks.setCurrentRow(0)
        self.finish_jobs()
        self.settle()
        text = self.over_time.aside.response.text()
        self.assertRegex(text, r"humidity<br>answer: time constant <b>3\.\d+ ± 0\.\d+ s")
        self.assertRegex(text, r"return: time constant <b>1\d\.\d ± 0\.\d s")
        self.assertIn("noise", text)
        low, high = self.plots.view_ns
        breath = BEGAN_NS + round(BREATH_S * 1e9)
        self.assertTrue(low < breath < high < breath + HOUR_NS)


class Loading(NightTest):
    """Readings that are cancelled, corrected and limited."""

    def test_begun_anew_and_corrected(self) -> None:
        """A look that was cancelled, then limits and corrections."""
        # Nothing is half shown; the next look reads all of it, beside the window.
        self.views.show_view("trend")
        self.window.jobs.cancel()
        self.finish_jobs()
        store = self.views.store
        self.views.show_view("exchange")
        self.go("trend")
        self.assertEqual(1200, len(store.series(SHELF) or ()))
        # What a correction lifts over a line crosses it; what it takes away is inside again.
        self.go("overview")
        store = self.views.store
        store.change(store.annotations.limited(WASH, Limit(high=90.0)), "limits")
        self.settle()
        self.assertEqual({}, store.open_crossings)
        store.change(store.annotations.corrected(WASH, by_offset(14.0)), "correction")
        self.settle()
        self.assertEqual([WASH], list(store.open_crossings))
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual({}, store.open_crossings)

    def test_closed_while_it_is_read(self) -> None:
        """Nobody waits for it any more: nothing is said, and the next file is read."""
        for jobs_first in (True, False):
            self.views.show_view("trend")
            if not jobs_first:
                self.finish_jobs()
                self.views.store.change(
                    self.views.store.annotations.corrected(WASH, by_offset(1.0)), "correction"
                )
            self.window.close_capture()
            self.finish_jobs()
            self.assertNotIn("cannot be read", self.window.notice.text)
            self.assertNotIn("closed", self.window.notice.text)
            self.assertEqual(0, len(self.views.store.readings))
            self.open(self.path)
            self.go("overview")
            self.assertEqual(1200, len(self.views.store.series(SHELF) or ()))


class Overview(NightTest):
    """The start of a day, where hours begin with those of UTC."""

    def setUp(self) -> None:
        self.in_zone("UTC")
        super().setUp()
        page = self.go("overview")
        assert isinstance(page, OverviewPage)
        self.overview = page

    def choose(self, name: str) -> None:
        """Chooses a sensor."""
        names = [state.name for state in self.overview._states]
        self.overview.table.selectRow(names.index(name))
        self.settle()

    def test_the_hour_in_which_the_wash_room_failed(self) -> None:
        """What is silent comes first; the hour is named, with its reason, and can be gone to."""
        self.assertEqual("wheels, wheel 3, core", self.overview._states[0].name)
        self.choose("wash_room")
        self.assertIn("no answer", self.overview.told.text())
        bars = self.overview.hours
        hour = round(WET_FROM_S / 3600)
        box = bars._boxes()[hour]
        QTest.mouseClick(bars, Qt.MouseButton.LeftButton, pos=box.center().toPoint())
        self.finish_jobs()
        self.settle()
        self.assertEqual("trend", self.views.kind.key)
        low, high = self.over_time.plots.view_ns
        self.assertAlmostEqual(BEGAN_NS + hour * HOUR_NS, low, delta=10**9)
        self.assertAlmostEqual(HOUR_NS, high - low, delta=10**9)

    def test_night(self) -> None:
        """What is silent, limits that are crossed, and the ways to Trend and exchange."""
        # However many cells are others, also when only ages are.
        table, changes = self.overview.table, list[int]()
        before = [table.item(row, 3).text() for row in range(table.rowCount())]
        table.model().dataChanged.connect(lambda *_: changes.append(1))
        for renew, live in ((self.overview.renew, False), (self.overview._renew_ages, True)):
            for row in range(table.rowCount()):
                table.item(row, 3).setText("long ago, and longer")
            changes.clear()
            with mock.patch.object(type(self.views.store), "live", live):
                renew()
            self.assertEqual([1], changes)
            after = [table.item(row, 3).text() for row in range(table.rowCount())]
            self.assertNotIn("long ago, and longer", after)
            self.assertEqual(not live, before == after)
            wide = table.columnWidth(3)
            self.assertLess(wide, table.fontMetrics().horizontalAdvance("long ago, and longer"))
        # Annotations in a form, told as a state, kept with their crossings in the bench.
        dialog = LimitsDialog(self.session, self.views.store, SHELF)
        dialog.accept()
        self.assertIn("needs a line", dialog._said.text())
        dialog.has_high.setChecked(True)
        dialog.high.setValue(96.0)
        dialog.hysteresis.setValue(2.0)
        QTest.mouseClick(
            dialog.findChild(QDialogButtonBox).button(QDialogButtonBox.StandardButton.Ok),
            Qt.MouseButton.LeftButton,
        )
        self.settle()
        bench = self.kept()
        self.assertEqual(96.0, read_annotations(bench).limits[SHELF].high)
        crossings = read_crossings(bench)
        self.assertEqual(2, len(crossings))
        self.assertAlmostEqual(BEGAN_NS + BREATH_S * 1e9, crossings[0][1].since_ns, delta=30e9)
        self.choose("shelf_A")
        self.assertIn("humidity above its limit from 2", self.overview.told.text())
        self.assertIn("at worst 99.6 %RH", self.overview.told.text())
        states = {state.name: state for state in self.overview._states}
        self.assertEqual("inside", self.overview._limits(states["shelf_A"]))
        low = LimitsDialog(self.session, self.views.store, WASH)
        low.has_low.setChecked(True)
        low.low.setValue(99.0)
        low.accept()
        self.settle()
        self.assertIn("below its limit", self.overview._states[0].says)
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertNotIn(WASH, read_annotations(self.kept()).limits)
        # A double click shows the last exchange.
        self.choose("brine_vat")
        self.overview._enter()
        self.settle()
        self.assertEqual("exchange", self.views.kind.key)
        self.assertEqual("brine_vat", self.session.wire_name)


class Glance(NightTest):
    """Large figures."""

    def test_figures_reasons_and_keys(self) -> None:
        """One or all, the next, another unit; what failed says so in place of a figure."""
        self.key(Qt.Key.Key_5, Qt.KeyboardModifier.ControlModifier)
        glance = self.views.glance
        assert glance is not None
        self.assertTrue(glance.windowFlags() & Qt.WindowType.WindowStaysOnTopHint)
        self.assertIn("shelf_A: 92.0 %RH, 11.8 °C", glance.accessibleName())
        QTest.keyClick(glance, Qt.Key.Key_S)
        self.assertEqual(1, len(glance.shown))
        QTest.keyClick(glance, Qt.Key.Key_Space)
        self.assertEqual("wash_room", glance.shown[0].name)
        QTest.keyClick(glance, Qt.Key.Key_U)
        self.assertEqual("°F", glance.shown[0].values[1].unit)
        glance.grab()
        QTest.keyClick(glance, Qt.Key.Key_Escape)
        self.settle()
        self.assertIsNone(self.views.glance)


class Files(NightTest):
    """Everything from captures too."""

    def test_a_capture(self) -> None:
        """Times since it began; marks and corrections live as long as it is open."""
        self.window.show_demo()
        self.finish_jobs()
        self.go("trend")
        store = self.views.store
        self.assertFalse(store.clock)
        self.assertIn("level", self.over_time.plots.quantities)
        self.over_time.plots.point(600 * 10**9)
        self.key(Qt.Key.Key_B)
        self.finish_jobs()
        self.assertEqual(1, len(store.annotations.marks))
        self.assertIn("0:10:00", self.over_time.aside.moment.text())
        marks = len(read_annotations(self.kept()).marks)
        self.session.choose_wire((0, 0))
        self.finish_jobs()
        self.assertEqual(marks, len(store.annotations.marks))
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(marks, len(read_annotations(self.kept()).marks))
        self.session.choose_wire((1, 0))
        self.finish_jobs()
        self.assertEqual(0, len(store.annotations.marks))
        page = self.go("agreement")
        assert isinstance(page, AgreementPage)
        page.take_log(self.path)
        self.assertIn("times by the calendar", self.window.notice.text)
        self.go("overview")
        self.session.choose_wire((0, 0))
        self.finish_jobs()
        self.assertTrue(store.clock)

    def test_nothing_to_show(self) -> None:
        """A capture without readings says so."""
        self.window.close_capture()
        self.open(CAPTURES / "iv_ow_basic.vcd")
        for view in ("trend", "agreement", "overview"):
            self.go(view)
        self.assertIs(QApplication.activeModalWidget(), None)
