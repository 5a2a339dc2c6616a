"""The night's bench, open in the real window."""

from collections.abc import Callable
from typing import TypeVar

from PySide6.QtCore import QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QKeySequence
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QWidget

from pivet.files.benchfile.store import BenchFile
from pivet.readings.series import Sensor
from pivet.ui.registry import VIEWS
from pivet.ui.trend.page import TrendPage
from tests.night import copy_of_sparse_night
from tests.ui.base import WindowTest

Dialog = TypeVar("Dialog", bound=QDialog)


class NightTest(WindowTest):
    """The night's bench is open.

    Attributes:
        night: copies its file into a folder.
    """

    night = staticmethod(copy_of_sparse_night)

    def setUp(self) -> None:
        super().setUp()
        self.path = self.night(self.folder)
        self.open(self.path)
        self.views = self.window.views

    def go(self, view: str) -> QWidget:
        """Shows a view by its key, and waits for what it shows."""
        shortcut = next(kind.shortcut for kind in VIEWS if kind.key == view)
        QTest.keySequence(self.window, QKeySequence(shortcut))
        self.finish_jobs()
        self.settle()
        self.assertEqual(view, self.views.kind.key)
        return self.views.page

    def key(
        self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
    ) -> None:
        """Presses a key in the window."""
        QTest.keyClick(self.window, key, modifier)
        self.settle()

    @property
    def over_time(self) -> TrendPage:
        """The page that shows a stretch of time."""
        page = self.views.over_time
        assert isinstance(page, TrendPage)
        return page

    def kept(self) -> BenchFile:
        """The bench file, opened once more."""
        bench = BenchFile.open(self.path)
        self.addCleanup(bench.close)
        return bench

    def in_dialog(
        self, ask: Callable[[], object], kind: type[Dialog], do: Callable[[Dialog], object]
    ) -> None:
        """Asks for something, fills the form that appears, and presses Enter in it."""
        seen: list[Dialog] = []

        def fill() -> None:
            dialog = QApplication.activeModalWidget()
            if isinstance(dialog, kind):
                seen.append(dialog)
                do(dialog)
                dialog.accept()
            elif isinstance(dialog, QDialog):
                dialog.reject()

        QTimer.singleShot(0, fill)
        ask()
        self.window.activateWindow()
        self.settle()
        self.assertEqual(1, len(seen), f"a {kind.__name__} was to appear")


class TrendTest(NightTest):
    """The Trend view is shown."""

    def setUp(self) -> None:
        super().setUp()
        self.trend = self.go("trend")
        self.plots = self.over_time.plots

    def scene_point(self, at_ns: int, sensor: Sensor) -> QPoint:
        """Where a reading stands on the screen."""
        series = self.views.store.series(sensor)
        assert series is not None
        row = series.nearest(at_ns)
        assert row is not None
        plot = self.plots.plot(sensor.quantity)
        assert plot is not None
        x = (int(series.times_ns[row]) - self.plots.base_ns) / 1e9
        there = plot.item.getViewBox().mapViewToScene(QPointF(x, float(series.values[row])))
        return self.plots.mapFromScene(there)
