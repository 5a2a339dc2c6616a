"""Figures of listening in the window: repaints during a flood, and from edge to screen.

python benchmarks/live_window.py flood [SECONDS]     repaints while 200,000 edges a second come
python benchmarks/live_window.py latency [SECONDS]   from the last edge to its row on the screen
python benchmarks/live_window.py any FILE            any exchange of a bench file on the screen
"""

import os
import random
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PySide6.QtCore import QPoint
from PySide6.QtGui import QPaintEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from benchmarks.live import FIVE, RATE, standin
from pivet.bench.live_bench import News
from pivet.listening import events as ev
from pivet.listening.setup import WireSetup
from pivet.sheets.load import find_sheet
from pivet.sources.probe import ProbeSource
from pivet.ui.app import make_app
from pivet.ui.drawing.theme import ThemeChoice, apply_theme
from pivet.ui.exchange.page import ExchangePage
from pivet.ui.live.thread import ListeningThread
from pivet.ui.window.main_window import MainWindow
from pivet.ui.wires.panel import WiresPanel

SETTLE_S = 5.0
"""Opening, the first search and the first pictures are not counted."""


class Watched(WiresPanel):
    """The list of wires, telling when it has painted."""

    painted: Callable[[], None] = staticmethod(lambda: None)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paints, and tells."""
        super().paintEvent(event)
        Watched.painted()


def window() -> tuple[QApplication, MainWindow]:
    """The application with its window."""
    import pivet.ui.exchange.page as page

    page.WiresPanel = Watched  # type: ignore[attr-defined]
    app = make_app()
    apply_theme(app, ThemeChoice.LIGHT)
    shown = MainWindow(remembers=False)
    shown.live.keeper.throwaway = True
    shown.show()
    return app, shown


def run(app: QApplication, seconds: float, turn: Callable[[int], None] = lambda _: None) -> None:
    """Lets the window live for a while; ``turn`` is called every time round."""
    until, number = time.monotonic() + seconds, 0
    while time.monotonic() < until:
        turn(number)
        app.processEvents()
        time.sleep(0.001)
        number += 1


def flood(seconds: float) -> None:
    """How often the list is painted anew, and what is lost meanwhile."""
    app, shown = window()
    with tempfile.TemporaryDirectory() as name, standin(Path(name), "--flood", str(RATE)) as link:
        bench = shown.live.keeper.need()
        onewire = find_sheet("onewire")
        with ProbeSource(link) as source:
            names = [row.name for row in source.open().lines if row.name.startswith("flood")]
        setups = [WireSetup(row, (row,), onewire) for row in names]
        shown.live.listening.listen(link, bench, setups)
        run(app, SETTLE_S)
        times: list[float] = []
        first = shown.views.page
        assert isinstance(first, ExchangePage)
        stack = first.stack
        own_paint = stack.rows.paint  # type: ignore[union-attr]

        def painted(painter: Any, what: Any) -> None:
            own_paint(painter, what)
            times.append(time.monotonic())

        stack.rows.paint = painted  # type: ignore[union-attr, method-assign]

        def point(number: int) -> None:
            """A person moves the pointer over the stack: each move lights other bits."""
            x = 120 + (number * 23) % (stack.width() - 240)
            QTest.mouseMove(stack, QPoint(x, 150 + number % 3 * 40))

        edges, began = bench.edge_count(), time.monotonic()
        run(app, seconds, point)
        passed = time.monotonic() - began
        edges = bench.edge_count() - edges
        gaps = sum(len(bench.gaps(1, row)) for row in names)
        pauses = 1000 * np.diff(times)
        print(f"{edges / passed:,.0f} edges/s stored for {passed:.0f} s, {gaps} gaps")
        print(
            f"{len(times) / passed:.0f} repaints of the stack a second under the pointer; pause "
            f"median {np.median(pauses):.0f} ms, 99 % {np.percentile(pauses, 99):.0f} ms, "
            f"longest {pauses.max():.0f} ms"
        )
        shown.close()


def latency(seconds: float) -> None:
    """At the demo's rate, from the last edge of a reading to its card being painted."""
    app, shown = window()
    waiting: list[tuple[str, int]] = []
    late: dict[str, list[float]] = {}
    taken = ListeningThread.news

    def news(self: ListeningThread) -> News | None:
        found = taken(self)
        for event in found.events if found is not None else ():
            if isinstance(event, ev.Heard) and not event.revised:
                tracks = event.shown.tracks
                if any(row.given[row.at == event.index].any() for row in tracks):
                    end_ns = int(event.shown.exchanges.end_ns[event.index])
                    waiting.append((event.wire, found.zero_ns + end_ns if found else 0))
        return found

    def painted() -> None:
        now = time.time_ns()
        for wire, end_ns in waiting:
            late.setdefault(wire, []).append((now - end_ns) / 1e6)
        waiting.clear()

    ListeningThread.news = news  # type: ignore[method-assign]
    Watched.painted = staticmethod(painted)
    with tempfile.TemporaryDirectory() as name, standin(Path(name)) as link:
        setups = [WireSetup(row[0], row[1], find_sheet(row[2]), 0.0) for row in FIVE]
        shown.live.listening.listen(link, shown.live.keeper.need(), setups)
        run(app, SETTLE_S)
        late.clear()
        run(app, seconds)
        shown.close()
    for wire, rows in late.items():
        print(f"  {wire}: median {np.median(rows):.0f} ms, latest {max(rows):.0f} ms")
    every = [row for rows in late.values() for row in rows]
    found = np.percentile(every, (50, 99, 100))
    print(
        f"{len(every)} readings on the screen: median {found[0]:.0f} ms, 99 % {found[1]:.0f} ms, "
        f"latest {found[2]:.0f} ms"
    )


def any_exchange(path: Path) -> None:
    """Opens a bench file, and goes to exchanges anywhere in it."""
    app, shown = window()
    began = time.monotonic()
    shown.open_files([path])
    while not shown.session.captures:
        app.processEvents()
    app.processEvents()
    print(f"opened and painted in {1000 * (time.monotonic() - began):.0f} ms")
    session, times = shown.session, []
    (capture,) = session.captures
    for at, wire in enumerate(capture.wires):
        session.choose_wire((0, at))
        app.processEvents()
        for _ in range(40):
            number = random.randrange(wire.end)
            start = time.monotonic()
            session.choose_number(number)
            app.processEvents()
            times.append(1000 * (time.monotonic() - start))
        print(f"  {wire.label}: any of {wire.end} exchanges in {max(times[-40:]):.0f} ms at most")
    print(f"median {np.median(times):.0f} ms, 99 % {np.percentile(times, 99):.0f} ms")
    shown.close()


if __name__ == "__main__":
    chosen, *words = sys.argv[1:] or ["flood"]
    usual = {"flood": 60.0, "latency": 60.0}
    if chosen == "any":
        any_exchange(Path(words[0]))
    else:
        {"flood": flood, "latency": latency}[chosen](float(words[0]) if words else usual[chosen])
