"""The window: start, stepping, zooming; without a display."""

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np

from benchmarks.material import echo_edges, humidity_edges, onewire_edges, trace_of
from benchmarks.table import Figure
from pivet.captures.capture import capture_of
from pivet.files.vcd_write import write_vcd
from pivet.signal.trace import Level

EXCHANGES = 1000
MANY_EDGES = 10_000_000
STEPS = 120
PAIRS = 7

BARE = """
import numpy
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QWidget

class Window(QWidget):
    def paintEvent(self, event):
        QTimer.singleShot(0, app.quit)

app = QApplication([])
window = Window()
window.resize(1280, 800)
window.show()
app.exec()
"""

OWN = """
import sys
from pathlib import Path
from pivet.__main__ import load_window
load_window()
from pivet.ui import app
from PySide6.QtCore import QEvent, QObject, QTimer

class Watch(QObject):
    def eventFilter(self, target, event):
        if event.type() is QEvent.Type.Paint:
            QTimer.singleShot(0, application.quit)
        return False

def watch():
    window = next(w for w in application.topLevelWidgets() if hasattr(w, "views"))
    window.views.page.stack.installEventFilter(watcher)

application = app.make_app()
watcher = Watch()
QTimer.singleShot(0, watch)
app.run([Path(sys.argv[1])])
"""


def _wall_s(code: str, *words: str) -> float:
    with tempfile.TemporaryDirectory() as home:
        environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_CONFIG_HOME": home}
        environment.pop("PYTHONDONTWRITEBYTECODE", None)
        start = time.perf_counter()
        subprocess.run([sys.executable, "-c", code, *words], check=True, env=environment)
        return time.perf_counter() - start


def start_figure() -> Figure:
    """From start to a painted window with a capture, against a bare window and NumPy."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "thousand.vcd"
        write_vcd(trace_of(humidity_edges(EXCHANGES * 86)), path)
        _wall_s(OWN, str(path))  # the first start compiles the modules
        pairs = [(_wall_s(OWN, str(path)), _wall_s(BARE)) for _ in range(PAIRS)]
    ratio = float(np.median([own / bare for own, bare in pairs]))
    own, bare = (float(np.median(column)) for column in zip(*pairs, strict=True))
    said = f"{own:.2f} s / {bare:.2f} s, {EXCHANGES:,} exchanges"
    return Figure("start to painted window / bare window", ratio, 2.0, said)


def repaint_figures() -> list[Figure]:
    """Repaints a second of the whole window while stepping, and of the strip while zooming."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from pivet.ui.app import make_app
    from pivet.ui.drawing.theme import ThemeChoice, apply_theme
    from pivet.ui.window.main_window import MainWindow

    app = make_app()
    apply_theme(app, ThemeChoice.LIGHT)
    found = []
    for family, trace in (
        ("humidity", trace_of(humidity_edges(MANY_EDGES))),
        ("1-Wire", trace_of(onewire_edges(MANY_EDGES))),
        ("echo", trace_of(*echo_edges(MANY_EDGES), level=Level.LOW)),
    ):
        window = MainWindow(remembers=False)
        window.resize(1280, 800)
        window.show()
        window.session.add_capture(capture_of(Path("big.vcd"), trace))
        app.processEvents()
        found += _repaints(window, app, family)
        window.close()
        window.deleteLater()
    return found


def _repaints(window: Any, app: Any, family: str) -> list[Figure]:
    session, strip = window.session, window.views.page.strip
    stride = len(session.wire) // (STEPS + 2)
    start = time.perf_counter()
    for step in range(STEPS):
        session.choose_exchange(stride * step + step % 7 + 1)
        app.processEvents()
    stepping = STEPS / (time.perf_counter() - start)
    strip.show_all()
    app.processEvents()
    start = time.perf_counter()
    for step in range(STEPS):
        strip.zoom(1 if step < STEPS / 2 else -1)
        app.processEvents()
    zooming = STEPS / (time.perf_counter() - start)
    least = 60.0 if family == "1-Wire" else 30.0
    edges = f"{MANY_EDGES:,} edges, 1280 x 800"
    return [
        Figure(f"repaints a second, stepping, {family}", stepping, least, edges, at_least=True),
        Figure(f"repaints a second, zooming, {family}", zooming, 30.0, edges, at_least=True),
    ]


def figures() -> list[Figure]:
    """All figures of the window."""
    return [start_figure(), *repaint_figures()]
