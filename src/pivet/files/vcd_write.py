"""Traces -> VCD files (IEEE 1364, clause 18)."""

from collections.abc import Sequence
from pathlib import Path
from typing import IO, cast

import numpy as np

from pivet.files import disk
from pivet.files.exact import exact_step_ns
from pivet.files.vcd_header import OWN_COMMENT, UNITS_FS
from pivet.progress import Progress, silent
from pivet.signal.trace import Trace

SCOPE = "capture"
"""Scope of lines whose name has none."""

WRITTEN_AT_ONCE = 1 << 16


def write_vcd(trace: Trace, path: Path, progress: Progress = silent) -> None:
    """Writes a trace as VCD; edges, levels, ends and resolution come back when read again.

    Args:
        trace: the trace to be written.
        path: the file.
        progress: called with the share done, 0 to 1.

    Raises:
        OutputError: it cannot be written; what stood at ``path`` still stands.
        Cancelled: ``progress`` raised it.
    """
    with disk.writing(path) as stream:
        _write(trace, cast(IO[str], stream), progress)


def _write(trace: Trace, stream: IO[str], progress: Progress) -> None:
    from vcd import VCDWriter

    zero_ns = min(trace.start_ns, 0)
    step_ns, scale = _scale(trace)
    comment = OWN_COMMENT.format(trace.resolution_ns, zero_ns)
    start = (trace.start_ns - zero_ns) // step_ns
    names = vcd_names([line.name for line in trace.lines])
    with VCDWriter(stream, timescale=scale, comment=comment, init_timestamp=start) as writer:
        variables = [
            writer.register_var(scope, name, "wire", size=1, init=int(line.initial))
            for (scope, name), line in zip(names, trace.lines, strict=True)
        ]
        owner = np.repeat(np.arange(len(trace.lines)), [line.edges_ns.size for line in trace.lines])
        times = np.concatenate([line.edges_ns for line in trace.lines])
        levels = np.concatenate(
            [(int(line.initial) + 1 + np.arange(line.edges_ns.size)) % 2 for line in trace.lines]
        )
        order = np.argsort(times, kind="stable")
        for first in range(0, order.size, WRITTEN_AT_ONCE):
            rows = order[first : first + WRITTEN_AT_ONCE]
            stamps = ((times[rows] - zero_ns) // step_ns).tolist()
            for number, stamp, level in zip(
                owner[rows].tolist(), stamps, levels[rows].tolist(), strict=True
            ):
                writer.change(variables[number], stamp, level)
            progress(first / order.size)
        writer.close((trace.end_ns - zero_ns) // step_ns)


def vcd_names(names: Sequence[str]) -> list[tuple[str, str]]:
    """Scope and name for each line, such as a VCD can hold: no blanks, no keywords, no doubles.

    Args:
        names: the names of lines, with dots between their parts.
    """
    found: list[tuple[str, str]] = []
    for full in names:
        parts = ["_".join(part.split()).replace("$", "_") for part in full.split(".")]
        *scopes, name = [part for part in parts if part] or ["line"]
        scope = ".".join(scopes) or SCOPE
        own, number = name, 1
        while (scope, own) in found:
            number += 1
            own = f"{name}_{number}"
        found.append((scope, own))
    return found


def _scale(trace: Trace) -> tuple[int, str]:
    """The coarsest time scale that holds every time exactly: its step in ns, its name."""
    step_ns = exact_step_ns(trace)
    for unit in ("s", "ms", "us", "ns"):
        unit_ns = UNITS_FS[unit] // UNITS_FS["ns"]
        if step_ns >= unit_ns:
            return step_ns, f"{step_ns // unit_ns} {unit}"
    raise AssertionError("a step is at least 1 ns")
