"""What views and dialogs need is loaded before anybody asks for it, while nobody waits.

Classes of Qt are made in the window's thread only: there they are looked up without Python's lock,
and a table of them that grows in another thread at that moment ends the program.  What has nothing
of Qt is imported beside the window; the rest in its thread, a little between two events.
"""

from collections.abc import Generator, Iterator
from importlib import import_module

from PySide6 import QtCore, QtGui, QtWidgets

from pivet.progress import Progress, each, silent
from pivet.ui.piecemeal import import_piecemeal
from pivet.ui.registry import DIALOGS, VIEWS

WITHOUT_QT = (
    "pivet.keeping.log",
    "pivet.listening.heard_wire",
    "pivet.bench.live_bench",
    "pivet.listening.asking.explore",
    "pivet.sources.port",
    "pivet.insight.compare",
    "pivet.insight.rehearsal",
    "pivet.insight.tell",
    "pivet.insight.drawn.lanes",
    "pivet.insight.printed.check",
    "pivet.person.annotations",
    "pivet.history.open",
    "pivet.history.agree",
    "pivet.decode.echo",
    "pivet.decode.onewire",
    "pivet.bench.export",
    "pivet.feeds.feeds",
    "pivet.feeds.allowed",
    "pivet.standin.live.cave",
    "jinja2",
    "pivet.insight.report.gather",
    "pivet.insight.report.write",
    "xml.etree.ElementTree",
    "multiprocessing",
    "subprocess",
    "pydoc",
)
"""Of what pages and dialogs import, what takes longest; first what can be asked for first."""

PLOTS, BEFORE_PLOTS = "pyqtgraph", ("PySide6.QtSvg", "PySide6.QtTest", "PySide6.QtOpenGLWidgets")
"""What plots are drawn with, and what that imports of Qt."""


def load_beside(progress: Progress = silent) -> None:
    """Imports what has nothing of Qt; in any thread.

    Args:
        progress: called before each.
    """
    for name in each(WITHOUT_QT, progress):
        import_module(name)


def steps() -> Generator[None, None, None]:
    """Loads the rest, a little at each step; in the window's thread.

    Who leaves it before its end closes it: what is half loaded goes then.
    """
    for module in (QtCore, QtGui, QtWidgets):
        for name in dir(module):
            # Each class is made when it is first asked for, and plots ask for all at once.
            getattr(module, name, None)
            yield
    # Dialogs first: they can be asked for before all is loaded, and views wait for it.
    yield from _imported(*DIALOGS, *BEFORE_PLOTS)
    yield from import_piecemeal(PLOTS)
    yield from _imported(*(f"pivet.ui.{kind.key}.page" for kind in VIEWS))


def _imported(*names: str) -> Iterator[None]:
    for name in names:
        import_module(name)
        yield
