"""Starting the window."""

import sys
from collections.abc import Sequence
from pathlib import Path

from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from pivet.ui.main_window import MainWindow
from pivet.ui.settings import Settings
from pivet.ui.theme import apply_theme

ICON = Path(__file__).parent / "icons" / "org.pivet.Pivet.svg"


def make_app() -> QApplication:
    """The application, with its name, icon and style."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
    app.setApplicationName("pivet")
    app.setApplicationDisplayName("Pivet")
    app.setDesktopFileName("org.pivet.Pivet")
    app.setStyle("Fusion")
    app.setWindowIcon(QIcon(str(ICON)))
    return app


def run(paths: Sequence[Path], demo: bool = False) -> int:
    """Opens the window and stays until it is closed.

    Args:
        paths: captures to open.
        demo: listen to the simulated cave.
    """
    app = make_app()
    settings = Settings()
    apply_theme(app, settings.theme)
    window = MainWindow()
    sys.excepthook = lambda _kind, error, _trace: window.show_mistake(error)
    window.show()
    if demo:
        window.live.listen_to_cave()
    window.open_files(paths)
    return app.exec()
