"""How long the window stands still: the longest that one event holds its thread, by what was done.

python benchmarks/waits.py FILE     a bench file, best a long one
"""

import os
import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from pivet.ui.drawing.theme import ThemeChoice, apply_theme
from pivet.ui.registry import VIEWS
from pivet.ui.window.main_window import MainWindow

QUIET_S, LONGEST_S = 0.6, 60.0
WIDTH, HEIGHT = 1280, 800


class Watched(QApplication):
    """Notes how long the events of a stretch took."""

    longest, busy, depth = 0.0, 0.0, 0
    what = ""

    def notify(self, target: QObject, event: QEvent) -> bool:
        """Delivers an event."""
        if self.depth:
            return super().notify(target, event)
        self.depth += 1
        began = time.perf_counter()
        try:
            return super().notify(target, event)
        finally:
            self.depth -= 1
            took = time.perf_counter() - began
            self.busy += took
            if took > self.longest:
                name = type(target).__name__
                self.longest, self.what = took, f"{name}, {event.type().name}"


def watch(app: Watched, window: MainWindow, name: str, action: Callable[[], object]) -> None:
    """Does something and waits until the window is at rest; prints the longest stop."""
    app.longest, app.busy = 0.0, 0.0
    began = time.perf_counter()
    action()
    own = time.perf_counter() - began
    quiet = time.monotonic()
    while time.monotonic() - quiet < QUIET_S and time.perf_counter() - began < LONGEST_S:
        app.processEvents()
        if window.jobs.busy:
            quiet = time.monotonic()
        time.sleep(0.001)
    whole = time.perf_counter() - began
    longest = max(own, app.longest)
    what = "the call itself" if own >= app.longest else app.what
    print(f"{name:34} {longest * 1000:8.1f} ms   {whole - QUIET_S:6.2f} s in all   {what}")


def main(path: Path) -> None:
    """Walks through the views of a file."""
    app = Watched(sys.argv[:1])
    apply_theme(app, ThemeChoice.LIGHT)
    window = MainWindow(remembers=False)
    window.resize(WIDTH, HEIGHT)
    window.show()
    watch(app, window, "nothing", lambda: None)
    watch(app, window, f"open {path.name}", lambda: window.open_files([path]))
    watch(app, window, "getting the other views ready", window.views.get_ready)
    for kind in VIEWS * 2:
        watch(app, window, kind.name, partial(window.views.show_view, kind.key))
    first, over_time, *_ = VIEWS
    for kind, key in ((over_time, "A"), (over_time, "U"), (first, "Right")):
        window.views.show_view(kind.key)
        press = partial(QTest.keyClick, window, getattr(Qt.Key, f"Key_{key}"))
        watch(app, window, f"{kind.name}, {key}", press)
    window.told_to_end = True
    window.close()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
