"""Edge CSV: a time column and a column of 0 and 1 for each line.

One row a change, or one a sample; see docs/csv.md.
"""

import csv
import io
from pathlib import Path
from typing import IO, cast

import numpy as np

from pivet.errors import InputError
from pivet.files import disk
from pivet.files.csv_rows import RowReader, Rows
from pivet.files.csv_shape import Shape, find_shape
from pivet.files.exact import exact_step_ns
from pivet.files.spreadsheet import harmless_row
from pivet.frozen import replace
from pivet.progress import Progress, silent
from pivet.signal.level_changes import turns
from pivet.signal.trace import Line, Trace

LOOKED_AT = 1 << 19
LEAST_SAMPLES = 16
EVEN_SHARE = 0.01
"""Rows whose distances differ by no more are samples."""

WRITTEN_AT_ONCE = 1 << 16


def parse_csv(content: bytes, where: str, progress: Progress = silent) -> Trace:
    """Reads a CSV capture.

    Args:
        content: the content of the file.
        where: its name, for messages.
        progress: called with the share done, 0 to 1.

    Raises:
        InputError: it is no such CSV; the message says where.
        Cancelled: ``progress`` raised it.
    """
    content = content.removeprefix(b"\xef\xbb\xbf")
    if b"\n" not in content:
        content = content.replace(b"\r", b"\n")
    if b"\0" in content:
        raise InputError(f"{where} is a binary file", "choose a VCD or a CSV capture")
    shape = find_shape(content[:LOOKED_AT].decode("utf-8", "replace"), where)
    if shape.quoted:
        content, shape = _unquoted(content, shape, where)
    return _trace(RowReader(content, shape, where).read(progress), shape, where)


def _unquoted(content: bytes, shape: Shape, where: str) -> tuple[bytes, Shape]:
    """The same rows without quotation marks, parted so that no field needs any."""
    text = content.decode("utf-8", "replace")
    try:
        rows = list(csv.reader(io.StringIO(text), delimiter=shape.delimiter))
    except csv.Error as error:
        raise InputError(f"{where} is no CSV file ({error})", "export it again") from error
    return "\n".join("\t".join(row) for row in rows).encode(), replace(shape, delimiter="\t")


def _trace(rows: Rows, shape: Shape, where: str) -> Trace:
    printed_ns = int(10 ** max(shape.unit_exponent - rows.places, 0))
    period_ns = _sample_period_ns(rows, printed_ns)
    lines = []
    for number, name in enumerate(shape.columns):
        found = turns(rows.times_ns, rows.levels[:, number])
        lines.append(Line(name, found.initial, found.edges_ns))
    if not any(line.edges_ns.size for line in lines):
        raise InputError(f"no line in {where} ever changes", "check which signals were recorded")
    return Trace(
        lines=tuple(lines),
        start_ns=int(rows.times_ns[0]),
        end_ns=int(rows.times_ns[-1]) + period_ns,
        resolution_ns=period_ns or printed_ns,
        notes=(*shape.notes, *rows.notes),
    )


def _sample_period_ns(rows: Rows, printed_ns: int) -> int:
    """Sample period if there is one row a sample, else 0; ns."""
    steps = np.diff(rows.times_ns)
    if steps.size < LEAST_SAMPLES:
        return 0
    usual = int(np.median(steps))
    slack = max(2 * printed_ns, round(EVEN_SHARE * usual))
    even = bool((np.abs(steps - usual) <= slack).all())
    repeats = bool((rows.levels[1:] == rows.levels[:-1]).all(axis=1).any())
    return max(usual, 1) if even and repeats and usual > 0 else 0


def write_csv(trace: Trace, path: Path, progress: Progress = silent) -> None:
    """Writes a trace as edge CSV: ``time_s``, then a column a line; one row a change.

    Times have as many decimals as the resolution asks for, so it comes back when read.

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
    names = [line.name for line in trace.lines]
    csv.writer(stream, lineterminator="\n").writerow(harmless_row(["time_s", *names]))
    ends = np.array([trace.start_ns, trace.end_ns], dtype=np.int64)
    times = np.unique(np.concatenate([ends, *(line.edges_ns for line in trace.lines)]))
    places = 9 - (len(str(exact_step_ns(trace))) - 1)
    for start in range(0, times.size, WRITTEN_AT_ONCE):
        chunk = times[start : start + WRITTEN_AT_ONCE]
        columns = [
            (int(line.initial) + np.searchsorted(line.edges_ns, chunk, side="right")) % 2
            for line in trace.lines
        ]
        texts = [_seconds(time_ns, places) for time_ns in chunk.tolist()]
        rows = zip(texts, *(column.tolist() for column in columns), strict=True)
        stream.write("".join(",".join(map(str, row)) + "\n" for row in rows))
        progress(start / times.size)


def _seconds(time_ns: int, places: int) -> str:
    sign, size = ("-", -time_ns) if time_ns < 0 else ("", time_ns)
    whole, rest = divmod(size, 10**9)
    fraction = f"{rest:09d}"[:places]
    return f"{sign}{whole}.{fraction}" if places else f"{sign}{whole}"
