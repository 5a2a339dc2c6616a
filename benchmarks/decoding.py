"""Decode and judge: time against numpy.diff, memory against the array, linear growth."""

import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

from benchmarks.material import (
    decode_line,
    echo_edges,
    humidity_edges,
    onewire_edges,
    trace_of,
    whole_work,
)
from benchmarks.table import Figure
from pivet.judge.humidity import judge
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level

SIZES = (1_000_000, 3_000_000, 10_000_000)
ROUNDS = 15
"""Of the denominator, whose median is taken in the same process."""

MEMORY_CODE = """
import sys
import numpy as np
from benchmarks.material import trace_of
from benchmarks.material import decode_line
from pivet.judge.humidity import judge
from pivet.sheets.load import find_sheet

def kib(name):
    text = open("/proc/self/status").read()
    return int(text.split(name + ":")[1].split()[0])

sheet = find_sheet("dht22")
small = trace_of(np.load(sys.argv[1])[:8600].copy())
judge(decode_line(small.lines[0], small), sheet, 10)
before = kib("VmRSS")
edges = np.load(sys.argv[1])
trace = trace_of(edges)
found = judge(decode_line(trace.lines[0], trace), sheet, 10)
print((kib("VmHWM") - before) * 1024 / edges.nbytes)
"""


def _median_s(work: object, rounds: int = ROUNDS) -> float:
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()  # type: ignore[operator]
        times.append(time.perf_counter() - start)
    return float(np.median(times))


def _other_families() -> list[Figure]:
    """1-Wire with 20 devices, and echo, at the largest size."""
    size, found = SIZES[-1], []
    wire = onewire_edges(size)
    trigger, echo = echo_edges(size)
    for family, limit, lines, level in (
        ("one-wire", 25.0, (wire,), Level.HIGH),
        ("echo-pulse", 25.0, (trigger, echo), Level.LOW),
    ):
        trace = trace_of(*lines, level=level)
        array = np.sort(np.concatenate(lines))
        diff_s = _median_s(lambda array=array: np.diff(array))
        own_s = _median_s(lambda family=family, t=trace: whole_work(family, t), 3)
        name = f"decode and judge {family}, {array.size:,} edges / numpy.diff"
        found.append(Figure(name, own_s / diff_s, limit, f"{own_s:.2f} s / {diff_s:.4f} s"))
    return found


def figures() -> list[Figure]:
    """Ratios for decoding and judging."""
    whole, sheet, found, per_edge = humidity_edges(SIZES[-1]), find_sheet("dht22"), [], []
    for size in SIZES:
        edges = whole[:size].copy()
        trace = trace_of(edges)
        line = trace.lines[0]
        diff_s = _median_s(lambda edges=edges: np.diff(edges))
        own_s = _median_s(lambda line=line, t=trace: judge(decode_line(line, t), sheet, 10), 3)
        per_edge.append(own_s / size)
        limit = 18.0 if size == SIZES[-1] else None
        name = f"decode and judge {size:,} edges / numpy.diff"
        found.append(Figure(name, own_s / diff_s, limit, f"{own_s:.2f} s / {diff_s:.4f} s"))
    growth = max(per_edge) / min(per_edge)
    found.append(Figure("time an edge, slowest size / fastest", growth, 1.6, "linear is 1"))
    found.extend(_other_families())
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "edges.npy"
        np.save(path, whole)
        done = subprocess.run(
            [sys.executable, "-c", MEMORY_CODE, str(path)],
            capture_output=True,
            text=True,
            check=True,
        )
    memory = float(done.stdout)
    found.append(
        Figure("peak memory / array (the array included)", memory, 6.0, "10,000,000 edges")
    )
    return found
