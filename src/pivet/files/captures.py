"""Which reader and writer a capture file takes."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from pivet.errors import OutputError
from pivet.files.edge_csv import parse_csv, write_csv
from pivet.files.incoming import read_bytes
from pivet.files.vcd import parse_vcd
from pivet.files.vcd_write import write_vcd
from pivet.judge.wording import us
from pivet.progress import Progress, part, silent
from pivet.signal.step import step_of
from pivet.signal.trace import Trace

Parser = Callable[[bytes, str, Progress], Trace]
Writer = Callable[[Trace, Path, Progress], None]

PARSERS: dict[str, Parser] = {
    ".vcd": parse_vcd,
    ".csv": parse_csv,
    ".txt": parse_csv,
    ".tsv": parse_csv,
}
READING_SHARE = 0.1
WRITERS: dict[str, Writer] = {".vcd": write_vcd, ".csv": write_csv}


def read_capture(path: Path, progress: Progress = silent) -> Trace:
    """Reads a capture; a name with another ending is told by its content.

    Args:
        path: the file.
        progress: told now and then.

    Raises:
        InputError: it cannot be read; one sentence says why.
        Cancelled: from ``progress``.
    """
    content = read_bytes(path, part(progress, 0.0, READING_SHARE))
    parser = PARSERS.get(path.suffix.lower())
    if parser is None:
        parser = parse_vcd if content[:256].lstrip()[:1] == b"$" else parse_csv
    trace = parser(content, path.name, part(progress, READING_SHARE, 1.0))
    return _sampled(trace)


def _sampled(trace: Trace) -> Trace:
    """The same capture with the step in which it was sampled, if its stamps show one."""
    step_ns = step_of(trace)
    if step_ns <= trace.resolution_ns:
        return trace
    note = (
        f"its stamps come in steps of {us(step_ns / 1000)}, though they are written in "
        f"{trace.resolution_ns} ns: widths are no more certain than that"
    )
    return replace(trace, resolution_ns=step_ns, notes=(*trace.notes, note))


def write_capture(trace: Trace, path: Path, progress: Progress = silent) -> None:
    """Writes a capture in the format that the ending of its name asks for.

    Args:
        trace: to be written.
        path: of the file.
        progress: told the share done.

    Raises:
        OutputError: the ending names no format, or the file cannot be written.
        Cancelled: from ``progress``.
    """
    writer = WRITERS.get(path.suffix.lower())
    if writer is None:
        raise OutputError(
            f"{path} has an ending that names no capture format",
            f"end it in {' or '.join(WRITERS)}",
        )
    writer(trace, path, progress)
