"""What people wait for in a terminal: exchanges as JSON and text, and commands that say little."""

import gc
import json
import os
import subprocess
import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from statistics import median

from benchmarks.material import echo_edges, humidity_edges, onewire_edges, trace_of
from benchmarks.table import Figure
from pivet.bench.export import reports
from pivet.captures.capture import Capture, capture_of
from pivet.captures.text import capture_lines
from pivet.files.jsonl import json_lines
from pivet.signal.trace import Level

EDGES = 250_000
REPEATS = 15
PIVET = Path(sys.executable).parent / "pivet"


def _median_s(work: Callable[[], object], repeats: int = REPEATS) -> float:
    """Of so many runs in this process, s."""
    taken = []
    for _ in range(repeats):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return median(taken)


def _dumped(rows: list[object]) -> None:
    for row in rows:
        json.dumps(row, ensure_ascii=False)


def _json(capture: Capture) -> None:
    for _ in json_lines(reports(capture)):
        pass


def _text(capture: Capture) -> None:
    for _ in capture_lines(capture):
        pass


def _rows() -> list[Figure]:
    """Exchanges as JSON and as text, against ``json.dumps`` of the same objects."""
    found = []
    for family, trace in (
        ("humidity", trace_of(humidity_edges(EDGES))),
        ("1-Wire", trace_of(onewire_edges(EDGES))),
        ("echo", trace_of(*echo_edges(EDGES // 10), level=Level.LOW)),
    ):
        capture = capture_of(Path("x"), trace)
        rows = [json.loads(line) for line in json_lines(reports(capture))]
        # The rows are held only to be compared with; nobody who prints has them.
        gc.collect()
        gc.freeze()
        plain_s = _median_s(partial(_dumped, rows))
        for what, work in (
            ("JSON", partial(_json, capture)),
            ("text", partial(_text, capture)),
        ):
            own_s = _median_s(work)
            said = f"{own_s / len(rows) * 1e6:.0f} µs / {plain_s / len(rows) * 1e6:.0f} µs"
            name = f"{what} of {len(rows):,} {family} exchanges / json.dumps"
            found.append(Figure(name, own_s / plain_s, 2.0, said))
        gc.unfreeze()
    return found


def _wall_s(*words: str, **more: str) -> float:
    return _median_s(
        lambda: subprocess.run(
            words, env=os.environ | more, capture_output=True, check=True, text=True
        )
    )


def _starts() -> list[Figure]:
    """Commands that say little, against Python that does nothing."""
    bare_s = _wall_s(sys.executable, "-c", "pass")
    asks = {"_PIVET_COMPLETE": "bash_complete", "COMP_WORDS": "pivet decode --s", "COMP_CWORD": "2"}
    found = []
    for name, own_s in (
        ("pivet --version / bare Python", _wall_s(str(PIVET), "--version")),
        ("completion of an option / bare Python", _wall_s(str(PIVET), **asks)),
    ):
        said = f"{own_s * 1000:.0f} ms / {bare_s * 1000:.0f} ms"
        found.append(Figure(name, own_s / bare_s, 10.0, said))
    return found


def figures() -> list[Figure]:
    """All figures of the terminal."""
    return [*_rows(), *_starts()]
