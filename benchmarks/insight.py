"""What many exchanges say, at ten million edges: margins, a map, a rehearsal of all, a report."""

import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from benchmarks.material import humidity_edges, trace_of
from benchmarks.table import Figure
from pivet.bench.demo_night import FILE, record_night
from pivet.captures.decoding import decode_lines
from pivet.captures.wire import Wire, make_wire
from pivet.families import FAMILIES
from pivet.insight.margins import margins_of
from pivet.insight.material import study
from pivet.insight.readers import Reader
from pivet.insight.registry import insight_of
from pivet.insight.report.gather import source_of, wire_report
from pivet.insight.report.write import report_html
from pivet.insight.stalls import Stall

EDGES = 10_000_000
ROUNDS = 5
DRAWN = 5_000


def _wire() -> Wire:
    trace = trace_of(humidity_edges(EDGES))
    family = FAMILIES["humidity-frame"]
    return make_wire(family, trace.lines, trace, decode_lines(family, trace.lines, trace))


def _median_s(work: Callable[[], object], rounds: int = ROUNDS) -> float:
    times = []
    for _ in range(rounds):
        begin = time.perf_counter()
        work()
        times.append(time.perf_counter() - begin)
    return float(np.median(times))


def _report() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / FILE
        record_night(path, began=datetime(2026, 3, 7, 21, 0, tzinfo=UTC))
        begin = time.perf_counter()
        told = [wire_report(one) for one in study(path)]
        report_html([source_of(path, FILE)], told, "night")
        _took.append(time.perf_counter() - begin)


_took: list[float] = []


def figures() -> list[Figure]:
    """The figures of insight, each as a ratio or against the time that people wait."""
    wire = _wire()
    insight = insight_of(wire)
    widths = np.concatenate([one.ns for one in insight.widths(wire)])
    sort_s = _median_s(lambda: np.sort(widths))
    margins_s = _median_s(lambda: margins_of(wire))
    every, some = np.arange(len(wire)), np.arange(0, len(wire), max(len(wire) // DRAWN, 1))
    plain = Reader("width", 30.0)
    stalled = Reader("width", 30.0, timeout_us=100.0, stall=Stall(40.0, 5.0))
    map_s = _median_s(lambda: insight.map_of(wire, every, stalled), 3)
    loop_s = _median_s(lambda: insight.map_of(wire, every, Reader("poll")), 3)
    plain_s = _median_s(lambda: insight.read(wire, every, plain))
    stalls_s = _median_s(lambda: insight.read(wire, every, stalled))
    draft_s = _median_s(lambda: insight.read(wire, some, stalled))
    _report()
    million_s = plain_s * 1_000_000 / len(wire)
    seen = f"{margins_s:.2f} s / {sort_s:.3f} s, {widths.size:,} widths"
    return [
        Figure("margins of all classes / numpy.sort of the widths", margins_s / sort_s, 10, seen),
        Figure("map of 64 x 64, s", map_s, 2, "20,000 drawn exchanges"),
        Figure("map of 64 x 64 of a loop, s", loop_s, 2, "20,000 drawn exchanges"),
        Figure(
            "a million exchanges gone through, s", million_s, 1, f"{len(wire):,} in {plain_s:.3f} s"
        ),
        Figure(
            "a million with stalls, s",
            stalls_s * 1_000_000 / len(wire),
            1,
            f"{len(wire):,} in {stalls_s:.3f} s",
        ),
        Figure("goes through 5,000 with stalls, a second", 1 / draft_s, 30, "", at_least=True),
        Figure("report of a night, s", _took[-1], 3, "a bench of 8 h, HTML"),
    ]
