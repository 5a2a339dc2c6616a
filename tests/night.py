"""The nights of the demo, made once for all tests."""

import shutil
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from unittest import mock

import numpy as np

from pivet.bench import demo_night as demo_night_module
from pivet.bench.demo import demo_capture
from pivet.bench.demo_night import FILE, record_night
from pivet.captures.capture import Capture
from pivet.frozen import replace
from pivet.signal.trace import Line, Trace
from pivet.standin.long_night import long_night
from tests.made import made

BEGAN = datetime(2026, 3, 7, 21, 0, tzinfo=UTC)
"""When it begins, in tests."""

ONE_IN, REST_NS, ROUND_NS = 8, 10**9, 20 * 10**9

BEGAN_NS = round(BEGAN.timestamp()) * 10**9


@cache
def demo_night() -> Capture:
    """The short one, open."""
    return demo_capture()


@cache
def night_trace() -> Trace:
    """The edges of the long one."""
    return long_night()


def night_part(name: str, hours: float) -> Trace:
    """The first hours of a wire of the long one."""
    night, end = night_trace(), round(hours * 3_600 * 10**9)
    lines = tuple(
        replace(line, edges_ns=line.edges_ns[line.edges_ns < end])
        for line in night.lines
        if name in line.name
    )
    return Trace(lines, 0, end, night.resolution_ns)


def night_file() -> Path:
    """A bench file with the long one; only to be read."""
    return made(FILE, lambda path: record_night(path, began=BEGAN))


def copy_of_night(folder: Path) -> Path:
    """A copy that may be written."""
    return Path(shutil.copy(night_file(), folder / FILE))


def copy_of_sparse_night(folder: Path) -> Path:
    """A copy of a night in which it was asked less often: all is there sooner."""
    sparse = made(f"sparse-{FILE}", lambda path: _record(path, _thinned(night_trace())))
    return Path(shutil.copy(sparse, folder / FILE))


def copy_of_evening(folder: Path) -> Path:
    """A copy of its first two hours."""
    evening = made(f"evening-{FILE}", lambda path: _record(path, night_part("", 2.0)))
    return Path(shutil.copy(evening, folder / FILE))


def _record(path: Path, trace: Trace) -> None:
    with mock.patch.object(demo_night_module, "long_night", lambda _: trace):
        record_night(path, began=BEGAN)


def _thinned(trace: Trace) -> Trace:
    """One in so many exchanges of each wire; of the wheels, rounds."""
    return replace(trace, lines=tuple(_thinned_line(line) for line in trace.lines))


def _thinned_line(line: Line) -> Line:
    rest_ns = ROUND_NS if "wheels" in line.name else REST_NS
    begins = np.diff(line.edges_ns, prepend=-ROUND_NS) > rest_ns
    return replace(line, edges_ns=line.edges_ns[(np.cumsum(begins) - 1) % ONE_IN == 0])
