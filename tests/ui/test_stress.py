"""What the monkey and others found: dialogs that go, views that come back, gone sensors."""

import gc
import sys
from pathlib import Path
from random import Random
from unittest import mock

from pyqtgraph import PlotCurveItem
from PySide6.QtCore import QEvent, QTimer
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QFileDialog, QMessageBox, QWidget

from pivet.captures.offers import Offer
from pivet.keeping.log import LogWish
from pivet.readings.units import AS_KEPT, Dimension
from pivet.sheets.load import find_sheet
from pivet.ui.drawing.asking import accepted
from pivet.ui.drawing.theme import DARK, LIGHT, ThemeChoice, theme
from pivet.ui.readings.out import LogDialog, ask_figures
from pivet.ui.readings.store import ReadingsStore
from pivet.ui.registry import VIEWS
from pivet.ui.trend.kind import TREND
from pivet.ui.trend.line import KnownLine
from pivet.ui.trend.page import TrendPage
from pivet.ui.trend.plot import QuantityPlot
from pivet.ui.window.adding import AddWireDialog
from pivet.ui.window.empty import DropPlace, shown_folder
from pivet.ui.window.settings import Settings
from pivet.ui.work.turns import turns
from tests.base import CAPTURES
from tests.ui.base import WindowTest
from tests.ui.night import NightTest

PING, CAVE, AVR = (CAPTURES / f"{name}.vcd" for name in ("iv_ping3", "iv_dht22_cave", "av_echo"))
MISSING = CAPTURES / "missing.vcd"


class Dialogs(WindowTest):
    """They go when they are answered."""

    def test_answered(self) -> None:
        """Forms that need a name, or none."""
        # Without one, or with that of a folder, there is nothing to accept.
        dialog = LogDialog(LogWish(self.folder / "log.csv"), str(self.folder), AS_KEPT, self.window)
        ok = dialog.findChild(QDialogButtonBox).button(QDialogButtonBox.StandardButton.Ok)
        for text, fits in (("", False), ("  ", False), (str(self.folder), False), ("log", True)):
            dialog.path.setText(text)
            self.assertEqual(fits, ok.isEnabled(), text)
        dialog.path.setText("")
        dialog.form.setCurrentIndex(2)
        self.assertEqual("", dialog.path.text())
        dialog.path.setText(" here/log.csv ")
        dialog.form.setCurrentIndex(0)
        self.assertEqual(Path("here/log.csv"), dialog.wish().path)
        dialog.deleteLater()
        # A file dialog that tells no kind makes a text.
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=("/a/b", "")):
            self.assertEqual(Path("/a/b.txt"), ask_figures(self.window, "/"))
        # Accepted or refused, and when the window under it went first.
        for answer in (True, False):
            dialog = QDialog(self.window)
            QTimer.singleShot(0, dialog.accept if answer else dialog.reject)
            gone: list[bool] = []
            dialog.destroyed.connect(lambda _=None, gone=gone: gone.append(True))
            self.assertEqual(answer, accepted(dialog))
            self.settle()
            self.assertEqual([True], gone)
        parent = QDialog(self.window)
        child = QDialog(parent)

        def lose(dialog: QDialog) -> int:
            parent.deleteLater()
            self.app.sendPostedEvents(parent, QEvent.Type.DeferredDelete)
            return 1

        with mock.patch.object(QDialog, "exec", lose):
            self.assertFalse(accepted(child))

    def test_none_is_left(self) -> None:
        """Twenty of each that the menus open are none in the end."""
        self.show_demo()
        gc.collect()
        before = len(self.window.findChildren(QDialog))
        self.session.choose_number(3)
        with mock.patch.object(QDialog, "exec", lambda dialog: dialog.result()):
            for _ in range(20):
                self.window.live.go_to()
                self.window.views.out.choose_log()
                self.window.views.ask_limits()
                self.finish_jobs()
        for _ in range(20):
            self.window.live.add_wire()
            dialog = self.window.live.dialog
            assert dialog is not None
            dialog.reject()
            self.assertIsNone(self.window.live.dialog)
        self.settle()
        self.assertEqual(before, len(self.window.findChildren(QDialog)))


class Meanwhile(WindowTest):
    """What was asked of one thing is not done to another that took its place."""

    def setUp(self) -> None:
        super().setUp()
        self.open(PING, CAVE)

    def test_a_capture_that_was_closed(self) -> None:
        """Its added wire comes to nothing, and to no other capture; one that moved gets it."""
        names = [[wire.name for wire in one.wires] for one in self.session.captures]
        for closed, wires in ((1, [names[0]]), (0, [[*names[1], "tb.clk"]])):
            self.session.choose_wire((1, 0))
            self.window.add_wire("tb.clk", find_sheet("hc-sr04"))
            self.session.close_capture(closed)
            self.finish_jobs()
            self.assertEqual(wires, [[w.name for w in one.wires] for one in self.session.captures])
            self.session.close_capture(0)
            self.open(PING, CAVE)

    def test_a_capture_that_is_not_shown(self) -> None:
        """A form, and an offer, are for that of which they were shown."""
        self.session.choose_wire((1, 0))
        self.window.choose_wire_to_add("tb.clk")
        dialog = self.window.findChild(AddWireDialog)
        self.session.choose_wire((0, 0))
        dialog.accept()
        self.finish_jobs()
        self.assertEqual("tb.clk", self.session.captures[1].wires[-1].name)
        self.press("Ctrl+Z")
        offer, capture = Offer("tb.clk", "may be", find_sheet("hc-sr04")), self.session.captures[1]
        self.session.choose_wire((0, 0))
        self.window.take_offer(offer, capture)
        self.finish_jobs()
        self.assertEqual("tb.clk", self.session.captures[1].wires[-1].name)

    def test_results_wait_for_an_answer(self) -> None:
        """What is opened behind a dialog comes when it is answered, and so do errors."""
        dialog = QDialog(self.window)
        dialog.open()
        self.window.open_files([MISSING, AVR])
        self.window.jobs._worker.wait()
        self.settle()
        self.assertEqual((2, True), (len(self.session.captures), self.window.jobs.busy))
        self.assertNotIn(MISSING.name, self.window.notice.text)
        said: list[str] = []
        self.window.jobs.failed.connect(lambda error: said.append(str(error)))
        dialog.accept()
        self.finish_jobs()
        self.assertIn(MISSING.name, "".join(said))
        self.assertEqual(AVR.name, self.session.capture.name)

    def test_a_mistake_keeps_no_other_result(self) -> None:
        """What came behind a dialog is taken, though the first of it went wrong."""
        dialog, came, told = QDialog(self.window), [], []
        dialog.open()
        self.window.jobs.start("a", lambda _: "a", lambda _: [][0])
        self.window.jobs.start("b", lambda _: "b", came.append)
        with mock.patch.object(sys, "excepthook", lambda *error: told.append(error[0])):
            dialog.accept()
            self.finish_jobs()
        self.assertEqual((["b"], [IndexError]), (came, told))


class Colours(WindowTest):
    """Each part of a window has the style for itself."""

    def worn(self, widget: QWidget | None) -> str:
        """The theme that a widget, or what it stands in, was dressed for last."""
        while widget is not None and not widget.styleSheet():
            widget = widget.parentWidget()
        assert widget is not None
        names = {"light": LIGHT.accent.name(), "dark": DARK.accent.name()}
        return next(name for name, colour in names.items() if colour in widget.styleSheet())

    def test_all_windows_change(self) -> None:
        """What is seen at once, what is hidden when it is shown; the application has no style."""
        self.show_demo()
        views = self.window.views
        views.show_view("trend")
        views.show_view("exchange")
        views.show_glance()
        hidden = views.page_of("trend")
        seen = (views.page, views.glance, self.window.menuBar())
        self.assertEqual(["light"] * 3, [self.worn(one) for one in seen])
        for choice in (ThemeChoice.DARK, ThemeChoice.LIGHT, ThemeChoice.DARK):
            self.window.choose_theme(choice)
            self.settle()
            self.assertEqual([choice.value] * 3, [self.worn(one) for one in seen])
        self.assertEqual("light", self.worn(hidden))
        views.show_view("trend")
        self.assertEqual("dark", self.worn(hidden))
        self.assertEqual("", self.app.styleSheet())
        self.window.choose_theme(ThemeChoice.LIGHT)
        self.settle()
        self.assertEqual("light", self.worn(hidden))

    def test_a_part_at_a_turn(self) -> None:
        """What the person does meanwhile waits for one part of the window, not for all."""
        self.show_demo()
        views = self.window.views
        views.show_glance()
        self.settle()
        worn: list[str] = []
        for name, part in (("menus", self.window.menuBar()), ("glance", views.glance)):
            assert part is not None
            part.setStyleSheet("")
            wearing = mock.patch.object(
                part, "setStyleSheet", side_effect=lambda _, name=name: worn.append(name)
            )
            wearing.start()
            self.addCleanup(wearing.stop)
        renewed = mock.patch.object(views.page, "renew", side_effect=lambda: worn.append("page"))
        renewed.start()
        self.addCleanup(renewed.stop)
        self.window.choose_theme(ThemeChoice.DARK)
        self.window.choose_theme(ThemeChoice.DARK)
        self.assertEqual([], worn)
        most, before = 0, 0
        while turns().busy:
            self.app.processEvents()
            most, before = max(most, len(worn) - before), len(worn)
        self.assertEqual((1, ["glance", "menus", "page"]), (most, sorted(worn)))

    def test_texts_keep_their_colours(self) -> None:
        """However often the theme changes, and whatever is shown while parts still wait."""
        self.show_demo()
        headline = self.page.answer._headline
        for seed in range(3):
            random = Random(seed)
            for _ in range(random.randrange(2, 6)):
                choice = random.choice((ThemeChoice.DARK, ThemeChoice.LIGHT))
                self.window.choose_theme(choice)
                for _ in range(random.randrange(5)):
                    self.session.choose_number(random.randrange(len(self.session.wire)))
                    self.app.processEvents()
            self.settle()
            wanted = theme().verdict(self.session.report.verdict).rgb()
            drawn = headline.grab().toImage()
            there = {drawn.pixel(x, y) for x in range(drawn.width()) for y in range(drawn.height())}
            with self.subTest(seed):
                self.assertIn(wanted, there)

    def test_dialogs(self) -> None:
        """One of ours and one of Qt's over the window are dressed as it is, also later."""
        for dialog in (QDialog(self.window), QMessageBox(self.window)):
            dialog.show()
            self.assertEqual("light", self.worn(dialog))
            dialog.hide()
            self.window.choose_theme(ThemeChoice.DARK)
            dialog.show()
            self.assertEqual("dark", self.worn(dialog))
            self.window.choose_theme(ThemeChoice.LIGHT)
            self.settle()
            self.assertEqual("light", self.worn(dialog))
            dialog.deleteLater()


class Start(WindowTest):
    """The start page, and what is remembered for it."""

    def test_start(self) -> None:
        """Where a capture can be dropped; folders and recent files."""
        # Shown while nothing is open; gone where a capture has nothing.
        (place,) = self.window.empty.findChildren(DropPlace)
        self.assertTrue(place.isVisible())
        clock = self.folder / "clk.csv"
        clock.write_text("time_s,clk\n" + "".join(f"{n * 1e-3},{n & 1}\n" for n in range(9)))
        self.drop(clock)
        self.assertFalse(place.isVisible())
        # The home is short, and a long one keeps both its ends.
        self.assertEqual("~/a", shown_folder(Path.home() / "a" / "x.vcd"))
        self.assertEqual("~", shown_folder(Path.home() / "x.vcd"))
        self.assertEqual("/etc", shown_folder(Path("/etc/x.vcd")))
        shown = shown_folder(Path("/begin") / ("middle" * 20) / "end" / "x.vcd")
        self.assertTrue(shown.startswith("/begin") and shown.endswith("end") and "…" in shown)
        self.assertLessEqual(len(shown), 60)
        # What stands in the settings and is no name is passed over.
        settings = Settings(kept=False)
        for stored, names in (
            (["/a", 3, None, "", "/b"], ["/a", "/b"]),
            ("/c", ["/c"]),
            (7, []),
            (None, []),
            ([[], {}], []),
        ):
            settings._store.setValue("recent", stored)
            self.assertEqual(names, [str(path) for path in settings.recent()])


class Returns(NightTest):
    """A view that comes back makes nothing anew where nothing has changed."""

    def shown(self) -> TrendPage:
        """The Trend, now shown."""
        page = self.go(TREND.key)
        assert isinstance(page, TrendPage)
        return page

    def test_only_what_changed(self) -> None:
        """Other units, other colours, another exchange: then it does."""
        views, page = self.window.views, self.shown()
        other = next(kind.key for kind in VIEWS if kind.key != TREND.key)
        with mock.patch.object(page, "renew", wraps=page.renew) as renew:
            for change, times in (
                (lambda: None, 0),
                (lambda: views.next_unit(Dimension.TEMPERATURE), 1),
                (lambda: self.session.choose_number(3), 1),
                (lambda: self.window.choose_theme(ThemeChoice.DARK), 1),
            ):
                views.show_view(other)
                self.settle()
                change()
                self.settle()
                renew.reset_mock()
                views.show_view(TREND.key)
                self.settle()
                self.assertEqual(times, min(renew.call_count, 1))
        self.window.choose_theme(ThemeChoice.LIGHT)

    def test_drawn_once(self) -> None:
        """Whatever is shown, and wherever: each plot is drawn once for it; a zoom draws it too."""
        page = self.shown()
        plots = len(page.plots.quantities)
        self.assertGreater(plots, 1)
        draw = QuantityPlot.draw
        with mock.patch.object(QuantityPlot, "draw", autospec=True, side_effect=draw) as drawn:
            for show in (lambda: page._show(True), lambda: page._show(False)):
                page.plots.zoom(2.0)
                drawn.reset_mock()
                show()
                self.assertEqual(plots, drawn.call_count)
            drawn.reset_mock()
            page.plots.zoom(2.0)
            self.assertEqual(plots, drawn.call_count)
            with mock.patch.object(page.plots, "_put_series", side_effect=ValueError):
                self.assertRaises(ValueError, page._show, True)
            drawn.reset_mock()
            page.plots.zoom(2.0)
            self.assertEqual(plots, drawn.call_count)

    def test_the_end_is_followed(self) -> None:
        """What comes is drawn once, by the lines that are there; who looks elsewhere stays."""
        page = self.shown()
        plots, count = page.plots, len(page.plots.quantities)
        draw = QuantityPlot.draw
        lines = [curve.line for plot in plots._plots for curve in plot.curves]
        fails = [item for _, item in plots._lane._rows] if plots._lane is not None else []
        self.assertGreater(len(fails), 1)
        end = plots.view_ns[1]
        with (
            mock.patch.object(QuantityPlot, "draw", autospec=True, side_effect=draw) as drawn,
            mock.patch.object(ReadingsStore, "live", True),
        ):
            plots.show_last(600.0)
            drawn.reset_mock()
            page._go_on()
            self.assertEqual(count, drawn.call_count)
            low, high = plots.view_ns
            self.assertAlmostEqual(612e9, high - low, delta=1e6)
            self.assertAlmostEqual(end, high, delta=0.02 * (end - plots.base_ns))
            plots.look_at(low - 10**12, high - 10**12)
            page._go_on()
            self.assertAlmostEqual(high - 10**12, plots.view_ns[1], delta=1e6)
        self.assertEqual(lines, [curve.line for plot in plots._plots for curve in plot.curves])
        assert plots._lane is not None
        self.assertEqual(fails, [item for _, item in plots._lane._rows])
        first = plots._plots[0]
        shown = [curve.shown for curve in first.curves]
        for some in (shown[:1], [], shown):
            first.show(some, plots.base_ns, plots.units)
            there = [item for item in first.item.items if isinstance(item, KnownLine)]
            self.assertEqual([curve.line for curve in first.curves], there)
            self.assertEqual(some, [curve.shown for curve in first.curves])
            plots._lane.show(some, plots.base_ns)
            ticks = [item for item in plots._lane.item.items if isinstance(item, PlotCurveItem)]
            self.assertEqual([item for _, item in plots._lane._rows], ticks)

    def test_gone(self) -> None:
        """Readings of the bench before, and sensors that are gone, are passed over."""
        # While another bench is being read, what is shown belongs to no capture of it.
        store = self.window.views.store
        store.need(self, True)
        self.finish_jobs()
        series = store.series(store.sensors[0])
        assert series is not None and store._kept is not None
        self.assertIsNotNone(store.chosen_ns)
        self.assertIsNotNone(store.place_of(series, 0))
        with mock.patch.object(type(store._kept), "captures", []):
            self.assertIsNone(store.chosen_ns)
            self.assertIsNone(store.place_of(series, 0))
        store.need(self, False)
        # What was chosen and is not there any more is passed over.
        views, page = self.window.views, self.shown()
        with mock.patch.object(type(views.store), "sensors", []):
            page._show(True)
            page._tell()
        page.renew()
