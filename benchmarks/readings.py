"""Figures of readings over time, each as a ratio or a rate within one run.

python benchmarks/readings.py trend     a million readings: first paint, panning
python benchmarks/readings.py numbers   statistics and agreement over them, against numpy.sort
python benchmarks/readings.py log       the running log of 100 wires at their fastest
"""

import os
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from functools import partial
from itertools import count
from pathlib import Path

import numpy as np

from pivet.bench.demo import demo_capture
from pivet.files.readings_table import Form
from pivet.keeping.log import LogWish, ReadingsLog
from pivet.listening.events import Heard
from pivet.listening.setup import least_interval_s
from pivet.readings.agreement import agreement, paired
from pivet.readings.series import Sensor, Series
from pivet.readings.statistics import summarise

MILLION = 1_000_000
TURNS = 5
WIRES = 100
PAN_S = 4.0
ROWS = 20_000
"""So many exchanges of each family are written to learn what one costs."""


def _next(moments: Iterator[int], _t_ns: int) -> int:
    """The calendar goes on by one at each question."""
    return next(moments)


def best(run: Callable[[], object]) -> float:
    """Shortest of a few turns, s."""
    times = []
    for _ in range(TURNS):
        began = time.perf_counter()
        run()
        times.append(time.perf_counter() - began)
    return min(times)


def numbers() -> None:
    """At most 30 x numpy.sort."""
    random = np.random.default_rng(1)
    values = random.normal(50, 5, MILLION)
    values[:: MILLION // 500] = np.nan
    times = np.arange(MILLION, dtype=np.int64) * 2_000_000_000
    other = values + random.normal(0.3, 0.2, MILLION)
    unit = best(lambda: np.sort(values))
    for name, run in (
        ("statistics", lambda: summarise(values)),
        ("agreement", lambda: agreement(paired(times, values, times + 777, other), 0.1, 2.5)),
    ):
        print(f"{name} of a million readings: {best(run) / unit:.1f} x numpy.sort")


def made_series(quantity: str, count: int, seed: int) -> Series:
    """A day of readings with gaps."""
    random = np.random.default_rng(seed)
    times = np.arange(count, dtype=np.int64) * 345_600_000 + seed
    values = 50 + np.cumsum(random.normal(0, 0.02, count))
    why = (random.random(count) < 0.002).astype(np.int16)
    values[why > 0] = np.nan
    zeros = np.zeros(count, dtype=np.int32)
    sensor = Sensor(f"wire {seed}", "", quantity)
    number = np.arange(count, dtype=np.int64)
    verdict = np.zeros(count, dtype=np.uint8)
    reasons = ("", "no answer")
    return Series(sensor, sensor.wire, "dht22", times, values, why, reasons, number, zeros, verdict)


def trend() -> None:
    """First paint under 0.3 s, 30 repaints a second while panning."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtCore import QEvent
    from PySide6.QtGui import QPaintEvent
    from PySide6.QtWidgets import QApplication

    from pivet.ui.drawing.theme import ThemeChoice, apply_theme
    from pivet.ui.readings.lines import LineStyle
    from pivet.ui.trend.plot import PlottedSeries
    from pivet.ui.trend.plots import Plots

    class Counted(Plots):
        """Counts how often it is painted."""

        painted = 0

        def paintEvent(self, event: QPaintEvent) -> None:
            """Paints."""
            super().paintEvent(event)
            self.painted += 1

    app = QApplication([])
    apply_theme(app, ThemeChoice.LIGHT)
    quantities = ("humidity", "temperature")
    parts = [
        PlottedSeries(made_series(quantities[at % 2], MILLION // 8, at), LineStyle(at // 2))
        for at in range(8)
    ]
    plots = Counted()
    plots.resize(800, 680)
    plots.show()
    app.processEvents()
    span = 0, int(parts[0].series.times_ns[-1])
    shown = sorted(parts, key=lambda row: row.series.quantity)
    began = time.perf_counter()
    plots.show_series(shown, span, True, False)
    app.processEvents()
    plots.grab()
    print(f"first paint of a million readings: {time.perf_counter() - began:.3f} s")
    for name, share in (("all of them", 1.0), ("a tenth", 0.1)):
        plots.look_at(0, round(span[1] * share))
        app.processEvents()
        painted, began = 0, time.perf_counter()
        while time.perf_counter() - began < PAN_S:
            plots.pan(0.004 if (painted % 40) < 20 else -0.004)
            before = plots.painted
            while plots.painted == before:
                app.processEvents()
            painted += 1
        print(f"panning with {name} in sight: {painted / PAN_S:.0f} repaints a second")
    plots.close()
    plots.deleteLater()
    app.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def log() -> None:
    """Under 5 % of a core."""
    wires = {wire.sheet.id: wire for wire in demo_capture().wires}
    with tempfile.TemporaryDirectory() as folder:
        for name in ("dht22", "dht11", "onewire", "hc-sr04"):
            wire = wires[name]
            for derived in (False, True):
                path = Path(folder) / f"{name}{derived}.csv"
                every = least_interval_s(wire.sheet) or 2.0
                # Exchanges of so many wires follow each other so closely.
                moments = count(10**18, round(every / WIRES * 1e9))
                wish = LogWish(path, Form.WIDE, derived)
                kept = ReadingsLog(wish, partial(_next, moments))
                turns = range(max(ROWS // len(wire), 1))
                numbers = (row * len(wire) + at for row in turns for at in range(len(wire)))
                events = [Heard("w", row + 1, wire, row % len(wire), 1) for row in numbers]
                began = time.process_time()
                for event in events:
                    kept.take((event,))
                each = (time.process_time() - began) / len(events)
                kept.close()
                share = each / every * WIRES
                more = ", with derived" if derived else ""
                print(
                    f"log of {WIRES} wires, {name} every {every:g} s{more}:"
                    f" {share:.1%} of a core, {each * 1e6:.0f} us an exchange"
                )


if __name__ == "__main__":
    {"trend": trend, "numbers": numbers, "log": log}[sys.argv[1]]()
