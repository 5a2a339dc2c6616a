"""Which reader and writer a capture file takes."""

import re
from collections.abc import Callable
from pathlib import Path

from pivet.errors import InputError, OutputError
from pivet.files.benchfile.beside import SQLITE
from pivet.files.edge_csv import parse_csv, write_csv
from pivet.files.incoming import read_bytes
from pivet.files.packed import unpacked
from pivet.files.vcd import parse_vcd
from pivet.files.vcd_write import write_vcd
from pivet.frozen import replace
from pivet.judge.wording import us
from pivet.progress import Progress, part, silent
from pivet.signal.step import step_of
from pivet.signal.trace import Trace

Writer = Callable[[Trace, Path, Progress], None]

READING_SHARE = 0.1
VCD_HEAD = re.compile(rb"(?:\xef\xbb\xbf)?\s*\$[a-z]+\s")
VCD_END = b"$enddefinitions"
LOOKED_AT = 1 << 20
WRITERS: dict[str, Writer] = {".vcd": write_vcd, ".csv": write_csv}


def read_capture(path: Path, progress: Progress = silent, where: str = "") -> Trace:
    """Reads a capture, compressed or not; its content tells what it is, not its name.

    Args:
        path: the file.
        progress: called now and then.
        where: the file as the person named it, for messages; its name alone if not given.

    Raises:
        InputError: it cannot be read; one sentence says why.
        Cancelled: ``progress`` raised it.
    """
    content = read_bytes(path, part(progress, 0.0, READING_SHARE / 2))
    where = where or path.name
    content = unpacked(content, where, part(progress, READING_SHARE / 2, READING_SHARE))
    if content.startswith(SQLITE):
        raise InputError(
            f"{where} is a bench file, no capture", "use pivet readings or stats, or open it"
        )
    parser = parse_vcd if looks_like_vcd(content) else parse_csv
    trace = parser(content, where, part(progress, READING_SHARE, 1.0))
    return _sampled(trace)


def looks_like_vcd(content: bytes) -> bool:
    """Whether some content is a value change dump, whole or cut off.

    Args:
        content: how the file begins.
    """
    return VCD_HEAD.match(content) is not None or VCD_END in content[:LOOKED_AT]


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
        trace: the trace to be written.
        path: the file.
        progress: called with the share done, 0 to 1.

    Raises:
        OutputError: the ending names no format, or the file cannot be written.
        Cancelled: ``progress`` raised it.
    """
    writer = WRITERS.get(path.suffix.lower())
    if writer is None:
        raise OutputError(
            f"{path} has an ending that names no capture format",
            f"end it in {' or '.join(WRITERS)}",
        )
    writer(trace, path, progress)
