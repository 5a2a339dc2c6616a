"""Which reader and writer a capture file takes."""

from collections.abc import Callable
from pathlib import Path

from pivet.errors import OutputError
from pivet.files.edge_csv import read_csv, write_csv
from pivet.files.vcd import read_vcd
from pivet.files.vcd_write import write_vcd
from pivet.progress import Progress, silent
from pivet.signal.trace import Trace

Reader = Callable[[Path, Progress], Trace]
Writer = Callable[[Trace, Path, Progress], None]

READERS: dict[str, Reader] = {
    ".vcd": read_vcd,
    ".csv": read_csv,
    ".txt": read_csv,
    ".tsv": read_csv,
}
WRITERS: dict[str, Writer] = {".vcd": write_vcd, ".csv": write_csv}


def read_capture(path: Path, progress: Progress = silent) -> Trace:
    """Reads a capture; a name with another ending is told by its content.

    Raises:
        InputError: it cannot be read; one sentence says why.
        Cancelled: from ``progress``.
    """
    reader = READERS.get(path.suffix.lower())
    if reader is None:
        reader = read_vcd if _begins_like_vcd(path) else read_csv
    return reader(path, progress)


def _begins_like_vcd(path: Path) -> bool:
    try:
        with path.open("rb") as stream:
            return stream.read(256).lstrip()[:1] == b"$"
    except OSError:
        return False


def write_capture(trace: Trace, path: Path, progress: Progress = silent) -> None:
    """Writes a capture in the format that the ending of its name asks for.

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
