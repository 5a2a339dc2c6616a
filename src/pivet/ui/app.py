"""Starting the window."""

import locale
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import (
    QMessageLogContext,
    QTimer,
    QtMsgType,
    qInstallMessageHandler,
)
from PySide6.QtGui import QIcon, QPainter
from PySide6.QtWidgets import QApplication

from pivet.person.own_folder import own_folder
from pivet.ui.drawing.theme import apply_theme
from pivet.ui.window.main_window import MainWindow
from pivet.ui.window.settings import Settings
from pivet.ui.window.signals import SignalWatch
from pivet.ui.work.collector import Collector
from pivet.ui.work.way import WAY

NO_DISPLAY = (
    "no display can be reached, so there is no window: use `pivet decode FILE` in the terminal, or "
    "set QT_QPA_PLATFORM (offscreen runs it unseen)."
)
EXIT_UNUSABLE = 2
SWITCH_S = 0.0002
"""The window and what works beside it take turns so often.  A view that is painted waits for its
turn some hundred times: with the usual 5 ms that can take seconds."""

LOAD_AFTER_MS = 1500
"""When the window stands, the other views are loaded and made."""

STYLE = "Fusion"
ICON = Path(__file__).parent / "icons" / "org.pivet.Pivet.svg"


def make_app() -> QApplication:
    """The application, with its name, icon and style."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        # A style that is set later comes back as an object, whose class takes a while to load.
        app = QApplication([*sys.argv[:1], "-style", STYLE])
        app.setApplicationName("pivet")
        app.setApplicationDisplayName("Pivet")
        app.setDesktopFileName("org.pivet.Pivet")
        app.setWindowIcon(QIcon(str(ICON)))
        # Qt turns all of the C library to the person's language: what the system says of a
        # mistake would stand in it, within our sentences.
        for part in (locale.LC_MESSAGES, locale.LC_NUMERIC):
            locale.setlocale(part, "C")
    sys.setswitchinterval(SWITCH_S)
    WAY.watch()
    return app


def _on_message(kind: QtMsgType, _where: QMessageLogContext, text: str | None) -> None:
    """Without a display Qt ends the process; before it does, one sentence is said."""
    if kind == QtMsgType.QtFatalMsg:
        sys.stderr.write(f"pivet: {NO_DISPLAY}\n")
        sys.stderr.flush()
        os._exit(EXIT_UNUSABLE)


def watch_mistakes(window: MainWindow) -> None:
    """A mistake of Pivet in what Qt calls is told in the window, which lives on."""

    def on_mistake(
        _kind: type[BaseException], error: BaseException, trace: TracebackType | None
    ) -> None:
        _end_painters(trace)
        window.show_mistake(error)

    sys.excepthook = on_mistake


def _end_painters(trace: TracebackType | None) -> None:
    """Ends what was being painted when it went wrong: Qt does not survive one that stays open."""
    while trace is not None:
        for value in trace.tb_frame.f_locals.values():
            if isinstance(value, QPainter) and value.isActive():
                value.end()
        trace = trace.tb_next


def run(paths: Sequence[Path], demo: bool = False, board: str | None = None) -> int:
    """Opens the window and stays until it is closed.

    Args:
        paths: captures to open.
        demo: listen to the simulated cave.
        board: port of the simulated board; None for none.
    """
    qInstallMessageHandler(_on_message)
    app = make_app()
    qInstallMessageHandler(None)
    settings = Settings()
    apply_theme(app, settings.theme)
    window = MainWindow()
    watch_mistakes(window)
    SignalWatch(window.end, window)
    Collector(window)
    window.show()
    if any(own_folder().glob("*.toml")):
        window.own_sheets.read()
    if demo:
        window.live.listen_to_cave()
    if board is not None:
        window.live.listen_to_board(board)
    window.open_files(paths)
    QTimer.singleShot(LOAD_AFTER_MS, window, window.views.get_ready)
    return app.exec()
