"""A monkey at the window: seeded random keys, clicks, drags, sizes, dialogs, files, drops.

It knows nothing of what should happen.  What counts: no exception, no message of Qt, and no event
that holds the window for long.
"""

import gzip
import random
import shutil
import sys
import time
import traceback
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from types import TracebackType
from unittest import mock

import numpy as np
from PySide6.QtCore import (
    QEvent,
    QMimeData,
    QPoint,
    QPointF,
    QRect,
    Qt,
    QTimer,
    QtMsgType,
    QUrl,
    qInstallMessageHandler,
)
from PySide6.QtGui import QAction, QDragEnterEvent, QDropEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QMenu,
    QMessageBox,
    QWidget,
)
from shiboken6 import isValid

from pivet.files.captures import read_capture, write_capture
from pivet.signal.trace import Level, Line, Trace
from pivet.ui.app import make_app
from pivet.ui.drawing.theme import ThemeChoice, apply_theme
from pivet.ui.window.main_window import MainWindow
from pivet.ui.work.collector import Collector
from tests.base import CAPTURES, older_bench

# The last says that this machine has no font for a script that somebody typed.
HARMLESS = (
    "propagateSizeHints",
    "plugin does not support",
    "This plugin supports",
    "OpenType support missing",
)
LONG_S, BEAT_MS = 0.2, 10
KEYS = (
    *("PgUp", "PgDown", "Home", "End", "Left", "Right", "Up", "Down", "Tab", "Shift+Tab"),
    *("Return", "Escape", "Space", "Delete", "F1", "F2", "F3", "F5", "F6", "Shift+F6", "M", "N"),
    *("U", "Shift+U", "+", "-", "0", "7", "A", "B", "C", "D", "E", "F", "G", "Ctrl+Z", "Ctrl+C"),
    *("Ctrl+Shift+Z", "Ctrl+T", "Ctrl+G", "Ctrl+I", "Ctrl+B", "Ctrl+J", "Ctrl+End", "Ctrl+."),
    *("Shift+PgDown", "Shift+PgUp", "Shift+Left", "Shift+Right", "Ctrl+Left", "Ctrl+Right"),
    *("Ctrl+1", "Ctrl+2", "Ctrl+3", "Ctrl+4", "Alt+1", "Alt+2", "Alt+3", "Alt+4"),
)
NEVER = ("&Quit", "Your own timing &sheets")
"""These leave the window, or Pivet."""

TRIES = 60
"""So often a widget that can be seen is looked for among all of a window."""


@dataclass
class Seen:
    """What went wrong.

    Attributes:
        mistakes: exceptions, with the action before.
        messages: of Qt.
        long: actions of which one event held the window: how long, s, and which.
        done: so many of each kind.
    """

    mistakes: list[str] = field(default_factory=list)
    messages: list[str] = field(default_factory=list)
    long: list[tuple[float, str]] = field(default_factory=list)
    done: Counter[str] = field(default_factory=Counter)


def materials(folder: Path) -> list[Path]:
    """Files of 0 to 60 wires, of every family, a bench, and what cannot be used."""
    # Copies: what is written goes beside what was opened last.
    names = ("av_dht22.vcd", "av_ow_search.vcd", "av_echo.vcd", "csv_edges_dht22.csv")
    made = [Path(shutil.copy(CAPTURES / name, folder)) for name in names]
    source = read_capture(CAPTURES / "av_dht22.vcd")
    (line,) = source.find("DHT")
    for wires in (0, 12, 60):
        lines = tuple(Line(f"many.w{at}", line.initial, line.edges_ns + at) for at in range(wires))
        clock = np.arange(1_000, source.end_ns, 1_000_003, dtype=np.int64)
        trace = Trace((*lines, Line("many.clk", Level.LOW, clock)), 0, source.end_ns + 100, 1)
        made.append(folder / f"wires{wires}.vcd")
        write_capture(trace, made[-1])
    made.append(older_bench(4, folder))
    for name, content in (
        ("empty.vcd", b""),
        ("cut.vcd", (CAPTURES / "av_dht22.vcd").read_bytes()[:400]),
        ("rubbish.csv", b"\x00\x01;;;\n" * 40),
        ("packed.vcd.gz", gzip.compress((CAPTURES / "av_ow_read.vcd").read_bytes())),
    ):
        made.append(folder / name)
        made[-1].write_bytes(content)
    return [*made, folder / "is not there.vcd"]


class Monkey:
    """Plays with a window.

    Args:
        seed: of all that it does.
        folder: for its files.
        live: starts the simulated cave, too.
    """

    def __init__(self, seed: int, folder: Path, live: bool = False) -> None:
        self.seen, self.log = Seen(), list[str]()
        self._random, self._folder, self._live = random.Random(seed), folder, live
        self._files = materials(folder)
        self.app = make_app()
        apply_theme(self.app, ThemeChoice.LIGHT)
        self.window = MainWindow(remembers=False)
        self.window._settings.folder = str(folder)
        self.window.resize(1280, 800)
        self.window.show()
        self.window.views.get_ready()  # as a moment after every start
        self._collector = Collector(self.window)
        # A button with a menu waits until the menu is gone.
        self._closer = QTimer()
        self._closer.setInterval(100)
        self._closer.timeout.connect(self._close_popup)
        self._closer.start()
        self._held_s, self._beat_at = 0.0, 0.0
        self._heart = QTimer()
        self._heart.setTimerType(Qt.TimerType.PreciseTimer)
        self._heart.setInterval(BEAT_MS)
        self._heart.timeout.connect(self._beat)
        self._heart.start()

    def _close_popup(self) -> None:
        popup = self.app.activePopupWidget()
        if popup is not None:
            popup.close()

    def play(self, count: int, watch: Callable[[int], None] = lambda _: None) -> Seen:
        """Does so many things, and tells what went wrong."""
        kinds: list[tuple[int, str, Callable[[], str]]] = [
            (30, "key", self._key),
            (30, "click", self._click),
            (12, "menu", self._menu),
            (8, "drag", self._drag),
            (8, "wheel", self._wheel),
            (3, "size", self._size),
            (3, "open", self._open),
            (2, "drop", self._drop),
            (4, "wait", self._wait),
            (2, "theme", self._theme),
        ]
        weights = [weight for weight, _, _ in kinds]
        with self._watched():
            for number in range(count):
                _, name, act = self._random.choices(kinds, weights)[0]
                self._do(name, act)
                watch(number)
            self._end()
        return self.seen

    def _do(self, name: str, act: Callable[[], str]) -> None:
        self._held_s, self._beat_at = 0.0, time.perf_counter()
        self.log.append(name)
        self.log[-1] = f"{name} {act()}"
        self._beat()
        self.app.processEvents()
        self._beat()
        self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        self.seen.done[name] += 1
        if self._held_s > LONG_S:
            self.seen.long.append((self._held_s, self.log[-1]))

    def _beat(self) -> None:
        """Between two events: nothing else happened since the beat before, or since one was due."""
        now = time.perf_counter()
        self._held_s = max(self._held_s, now - self._beat_at)
        self._beat_at = now

    @contextmanager
    def _watched(self) -> Iterator[None]:
        """Nothing blocks, and everything that goes wrong is noted."""
        pick, files = self._random.choice, self._files
        ends = (".csv", ".png", ".vcd", ".jsonl", ".xlsx", ".pivet", "")
        targets = [f"{self._folder / 'out'}{end}" for end in ends]

        def some(*texts: str) -> tuple[str, bool]:
            return pick(texts), pick((True, False))

        answers: dict[tuple[type, str], Callable[..., object]] = {
            (QFileDialog, "getOpenFileName"): lambda *_, **__: (str(pick(files)), ""),
            (QFileDialog, "getOpenFileNames"): lambda *_, **__: ([str(pick(files))], ""),
            (QFileDialog, "getSaveFileName"): lambda *_, **__: (pick(targets), ""),
            (QFileDialog, "getExistingDirectory"): lambda *_, **__: pick(("", str(self._folder))),
            (QInputDialog, "getItem"): lambda _p, _t, _l, items, *_: some(*items),
            (QInputDialog, "getText"): lambda *_, **__: some("", "wheel", "x" * 99),
            (QInputDialog, "getMultiLineText"): lambda *_, **__: some("", "a\nb"),
            (QMessageBox, "about"): lambda *_: None,
            (QMessageBox, "question"): lambda *_, **__: pick(
                (QMessageBox.StandardButton.Discard, QMessageBox.StandardButton.Cancel)
            ),
            (QDialog, "exec"): lambda dialog: self._exec(dialog),
            (QMenu, "exec"): lambda menu, *_: self._exec_menu(menu),
        }
        with ExitStack() as stack:
            for (owner, name), answer in answers.items():
                stack.enter_context(mock.patch.object(owner, name, answer))
            stack.enter_context(mock.patch.object(sys, "excepthook", self._on_mistake))
            stack.enter_context(mock.patch.object(self.window, "show_mistake", self._on_error))
            before = qInstallMessageHandler(self._on_message)
            try:
                yield
            finally:
                qInstallMessageHandler(before)

    def _on_mistake(
        self, kind: type[BaseException], error: BaseException, trace: TracebackType | None
    ) -> None:
        told = "".join(traceback.format_exception(kind, error, trace))
        self.seen.mistakes.append(f"{' | '.join(self.log[-4:])}\n{told}")

    def _on_error(self, error: BaseException) -> None:
        self._on_mistake(type(error), error, error.__traceback__)

    def _on_message(self, kind: QtMsgType, _context: object, text: str) -> None:
        if kind is not QtMsgType.QtDebugMsg and not any(part in text for part in HARMLESS):
            self.seen.messages.append(f"{self.log[-1:]}: {text}")

    def _exec(self, dialog: QDialog) -> int:
        """A dialog that waits for its answer: some things are done in it, then it is closed."""
        dialog.show()
        for _ in range(self._random.randrange(6)):
            if not dialog.isVisible():
                break
            self._random.choice((self._click, self._key))()
            self.app.processEvents()
        if dialog.isVisible():
            (dialog.accept if self._random.random() < 0.5 else dialog.reject)()
        return dialog.result()

    def _exec_menu(self, menu: QMenu) -> QAction | None:
        """A menu that waits: one of its actions, or none."""
        found = [one for one in menu.actions() if one.isEnabled() and not one.isSeparator()]
        chosen = self._random.choice([None, *found])
        if chosen is not None:
            chosen.trigger()
        return chosen

    def _tops(self) -> list[QWidget]:
        """The windows; of those that bar the others only the last."""
        tops = [top for top in self.app.topLevelWidgets() if top.isVisible()]
        barring = [top for top in tops if top.isModal()]
        return barring[-1:] or tops

    def _widget(self) -> QWidget | None:
        """Any widget that can be seen; those that can be pressed more often."""
        tops = self._tops()
        if not tops:
            return None
        top = self._random.choice(tops)
        found = top.findChildren(QWidget)
        if self._random.random() < 0.3:
            found = [one for one in found if isinstance(one, QAbstractButton | QComboBox)]
        # Most stand on pages that are not shown; to ask all of them takes long.
        for _ in range(TRIES if found else 0):
            one = self._random.choice(found)
            if one.isVisible() and one.isEnabled():
                return one
        return top

    def _place(self, widget: QWidget) -> QPoint:
        area: QRect = widget.rect()
        across, down = max(area.width(), 1), max(area.height(), 1)
        return QPoint(self._random.randrange(across), self._random.randrange(down))

    def _key(self) -> str:
        key = self._random.choice(KEYS)
        tops = self._tops()
        target = self.app.focusWidget() if self._random.random() < 0.6 else self._widget()
        target = target or (tops[-1] if tops else None)
        if target is None:
            return "nowhere"
        name = type(target).__name__
        QTest.keySequence(target, key)
        return f"{key} in {name}"

    def _click(self) -> str:
        widget = self._widget()
        # One that was about to go may be gone as soon as nobody looks at all of them.
        if widget is None or not isValid(widget):
            return "nowhere"
        name, place = type(widget).__name__, self._place(widget)
        keys = self._random.choice(
            (Qt.KeyboardModifier.NoModifier,) * 4
            + (Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier)
        )
        text = widget.text() if isinstance(widget, QAbstractButton) else ""
        chance = self._random.random()
        left = Qt.MouseButton.LeftButton
        if isinstance(widget, QComboBox):
            # A list that opens waits for a choice: keys choose without it.
            if widget.count():
                widget.setCurrentIndex(self._random.randrange(widget.count()))
                widget.activated.emit(widget.currentIndex())
        elif chance < 0.1:
            QTest.mouseDClick(widget, left, keys, place)
        else:
            QTest.mouseClick(widget, left, keys, place)
        return f"{name} {text!r} {place.x()},{place.y()}"

    def _drag(self) -> str:
        widget = self._widget()
        if widget is None:
            return "nowhere"
        name, left = type(widget).__name__, Qt.MouseButton.LeftButton
        none = Qt.KeyboardModifier.NoModifier
        QTest.mousePress(widget, left, none, self._place(widget))
        for _ in range(3):
            QTest.mouseMove(widget, self._place(widget))
        QTest.mouseRelease(widget, left, none, self._place(widget))
        return name

    def _wheel(self) -> str:
        widget = self._widget()
        if widget is None:
            return "nowhere"
        place, name = QPointF(self._place(widget)), type(widget).__name__
        with_keys = Qt.KeyboardModifier
        event = QWheelEvent(
            place,
            widget.mapToGlobal(place),
            QPoint(),
            QPoint(0, 120 * self._random.choice((-3, -1, 1, 3))),
            Qt.MouseButton.NoButton,
            self._random.choice((with_keys.NoModifier, with_keys.ControlModifier)),
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(widget, event)
        return name

    def _menu(self) -> str:
        """An action of the menus, as its shortcut or the menu would trigger it."""
        if any(top.isModal() for top in self._tops()):
            return self._key()
        menus = self.window.menuBar().findChildren(QMenu)
        # Older bindings destroy the menu that they give for an action.
        opening = [menu.menuAction() for menu in menus]
        found = [
            action
            for menu in menus
            for action in menu.actions()
            if action.isEnabled() and action not in opening and not action.isSeparator()
        ]
        action = self._random.choice(found)
        text = action.text()
        if text in NEVER or ("cave" in text and not self._live) or "colours" in text:
            return f"not {text}"
        if "whole night" in text and self._random.random() < 0.9:
            return "no night"
        action.trigger()
        return text

    def _size(self) -> str:
        if self._random.random() < 0.3:
            self.window.resize(1280, 800)
        else:
            self.window.resize(self._random.randrange(640, 2000), self._random.randrange(400, 1300))
        return f"{self.window.width()} x {self.window.height()}"

    def _open(self) -> str:
        path = self._random.choice(self._files)
        if len(self.window.session.captures) > 6:
            self.window.close_capture()
        self.window.open_files([path])
        return path.name

    def _drop(self) -> str:
        data, paths = QMimeData(), self._random.sample(self._files, self._random.randrange(3))
        data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
        actions, keys = Qt.DropAction.CopyAction, Qt.KeyboardModifier.NoModifier
        button, place = Qt.MouseButton.LeftButton, QPoint(300, 300)
        QApplication.sendEvent(self.window, QDragEnterEvent(place, actions, data, button, keys))
        QApplication.sendEvent(self.window, QDropEvent(QPointF(place), actions, data, button, keys))
        return ", ".join(path.name for path in paths)

    def _wait(self) -> str:
        until = time.monotonic() + self._random.choice((0.01, 0.05, 0.2))
        while time.monotonic() < until:
            self.app.processEvents()
            time.sleep(0.002)
        return ""

    def _theme(self) -> str:
        choice = self._random.choice(list(ThemeChoice))
        self.window.choose_theme(choice)
        return str(choice)

    def _end(self) -> None:
        """Closes all, and lets Qt tidy up."""
        self.log.append("end")
        self._closer.stop()
        self._heart.stop()
        self._collector.end()
        for top in self.app.topLevelWidgets():
            if isinstance(top, QDialog):
                top.reject()
        self.window.end()
        self.window.deleteLater()
        for _ in range(5):
            self.app.processEvents()
            self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)
