"""Driving the real window: by keys, clicks, wheel and drops, without a display."""

import os
import re
import sys
import time
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import (
    QAbstractEventDispatcher,
    QEvent,
    QMimeData,
    QPoint,
    QPointF,
    Qt,
    QtMsgType,
    QUrl,
    qInstallMessageHandler,
)
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QWidget

from pivet.bench.demo import DEMO_ROLES
from pivet.ui.app import make_app
from pivet.ui.drawing.theme import ThemeChoice, apply_theme
from pivet.ui.exchange.kind import EXCHANGE
from pivet.ui.exchange.page import ExchangePage
from pivet.ui.window.main_window import MainWindow
from pivet.ui.wires.model import Row, WiresModel
from pivet.ui.work.collector import Collector
from pivet.ui.work.turns import turns
from tests.base import PivetTest
from tests.night import demo_night
from tests.patience import PATIENCE_S

WHEELS = (0, 2)
"""Where the 1-Wire line of the demo stands."""

HARMLESS = ("propagateSizeHints", "plugin does not support")
"""What the offscreen platform says of itself."""


MARKS = re.compile(r"</(?:span|a|p|td|s)>|<br>|&nbsp;")


def is_plain(label: QLabel) -> bool:
    """Whether a label shows what is written in it, letter by letter."""
    return label.textFormat() is Qt.TextFormat.PlainText


class WindowTest(PivetTest):
    """A window at 1280 x 800 that remembers nothing; Qt has no complaint, no slot a mistake."""

    def setUp(self) -> None:
        super().setUp()
        self.draw_few()
        self.app = make_app()
        apply_theme(self.app, ThemeChoice.LIGHT)
        self.complaints: list[str] = []
        qInstallMessageHandler(self.on_message)
        self.addCleanup(setattr, sys, "excepthook", sys.excepthook)
        sys.excepthook = self.on_mistake
        self.addCleanup(self.no_complaints)
        self.window = MainWindow(remembers=False)
        self.addCleanup(self.close_window)
        # As in the program: no other thread may destroy what stands for a widget.
        collector = Collector(self.window)
        self.addCleanup(collector.end)
        self.window.resize(1280, 800)
        self.window.show()
        self.settle()
        self.session = self.window.session
        page = self.window.views.page_of(EXCHANGE.key)
        assert isinstance(page, ExchangePage)
        self.page = page

    def on_message(self, kind: QtMsgType, _context: object, text: str) -> None:
        """Qt's messages."""
        if kind is not QtMsgType.QtDebugMsg and not any(part in text for part in HARMLESS):
            self.complaints.append(text)

    def on_mistake(self, kind: type, error: BaseException, trace: TracebackType | None) -> None:
        """An exception in what Qt calls."""
        self.complaints.append("".join(traceback.format_exception(kind, error, trace)))

    def no_complaints(self) -> None:
        """Qt had nothing to say."""
        qInstallMessageHandler(None)
        self.assertEqual([], self.complaints)

    def close_window(self) -> None:
        """Closes the window and lets Qt tidy up; no text of it showed marks as they are written."""
        shown = [row.text() for row in self.window.findChildren(QLabel) if is_plain(row)]
        self.window.close()
        self.window.deleteLater()
        self.settle()
        self.assertEqual([], [text for text in shown if MARKS.search(text)])

    def settle(self) -> None:
        """Lets events and deletions happen, and what is made beside the window."""
        made, read = self.window.views.background, self.window.session.reading
        for _ in range(5):
            self.app.processEvents()
            if made is not None:
                self.wait_for(lambda: not made.busy, "readings are made")
            self.wait_for(lambda: not read.busy, "a part is read")
            self.wait_for(lambda: not turns().busy, "all have had their turn")
            self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def wait_for(self, condition: Callable[[], bool], what: str) -> None:
        """Lets events happen until something is so."""
        until = time.monotonic() + PATIENCE_S
        while not condition():
            if time.monotonic() > until:
                self.fail(f"waited in vain: {what}")
            self.nap(0.002)

    def nap(self, seconds: float) -> None:
        """Lets events happen, then waits as a window does: who works beside it need not wait."""
        self.app.processEvents()
        QAbstractEventDispatcher.instance().aboutToBlock.emit()
        time.sleep(seconds)

    def look_at(self, number: int) -> None:
        """Goes to an exchange of the chosen wire, and sees it."""
        self.session.choose_number(number)
        self.settle()

    def finish_jobs(self) -> None:
        """Waits for all jobs."""
        window = self.window
        self.wait_for(lambda: not (window.jobs.busy or window.views.page.busy), "jobs end")
        self.settle()

    def open(self, *paths: Path) -> None:
        """Opens captures and waits for them."""
        self.window.open_files(paths)
        self.finish_jobs()

    def show_demo(self) -> None:
        """Shows the demo night, made once for all tests."""
        self.session.add_capture(demo_night())
        self.settle()

    @property
    def cards(self) -> list[Row]:
        """The rows of the list of wires."""
        model = self.page.wires.model()
        assert isinstance(model, WiresModel)
        return model.rows

    def press(self, keys: str, widget: QWidget | None = None) -> None:
        """Presses a key as ``Shift+PgDown``."""
        QTest.keySequence(widget or self.window, keys)
        self.settle()

    def key(self, widget: QWidget, key: Qt.Key) -> None:
        """Presses a key in a widget."""
        QTest.keyClick(widget, key)
        self.settle()

    def move(self, widget: QWidget, x: float, y: float) -> None:
        """Moves the pointer."""
        QTest.mouseMove(widget, QPoint(round(x), round(y)))
        self.settle()

    def click(
        self,
        widget: QWidget,
        x: float,
        y: float,
        keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
    ) -> None:
        """Clicks the left button."""
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, keys, QPoint(round(x), round(y)))
        self.settle()

    def drag(
        self,
        widget: QWidget,
        start: tuple[float, float],
        end: tuple[float, float],
        keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
    ) -> None:
        """Drags with the left button."""
        button = Qt.MouseButton.LeftButton
        first, last = QPoint(round(start[0]), round(start[1])), QPoint(round(end[0]), round(end[1]))
        QTest.mousePress(widget, button, keys, first)
        QTest.mouseMove(widget, (first + last) / 2)
        QTest.mouseMove(widget, last)
        QTest.mouseRelease(widget, button, keys, last)
        self.settle()

    def wheel(self, widget: QWidget, x: float, y: float, notches: int) -> None:
        """Turns the wheel."""
        place = QPointF(x, y)
        event = QWheelEvent(
            place,
            widget.mapToGlobal(place),
            QPoint(),
            QPoint(0, 120 * notches),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(widget, event)
        self.settle()

    def drop(self, *paths: Path) -> None:
        """Drops files on the window."""
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
        actions, keys = Qt.DropAction.CopyAction, Qt.KeyboardModifier.NoModifier
        button = Qt.MouseButton.LeftButton
        enter = QDragEnterEvent(QPoint(300, 300), actions, data, button, keys)
        QApplication.sendEvent(self.window, enter)
        self.assertTrue(enter.isAccepted())
        QApplication.sendEvent(
            self.window, QDropEvent(QPointF(300, 300), actions, data, button, keys)
        )
        self.finish_jobs()


class WheelsTest(WindowTest):
    """The demo's 1-Wire line is shown, its devices named."""

    def setUp(self) -> None:
        super().setUp()
        self.session.put_roles(DEMO_ROLES)
        self.show_demo()
        self.session.choose_wire(WHEELS)
        self.settle()


def texts(widget: QWidget) -> str:
    """All that the labels of a widget say."""
    return " ".join(label.text() for label in widget.findChildren(QLabel) if label.isVisible())
