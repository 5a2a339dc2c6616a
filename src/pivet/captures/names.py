"""Names of the wires and lines of a file, without reading all of it: for completion in a shell."""

import re
from collections.abc import Iterator
from pathlib import Path

from pivet.errors import PivetError
from pivet.files.benchfile.beside import is_bench
from pivet.files.benchfile.store import BenchFile
from pivet.files.captures import looks_like_vcd
from pivet.files.vcd_header import read_header
from pivet.signal.naming import shared_name

LOOKED_AT = 1 << 20


def names_in(path: Path) -> list[str]:
    """Names that ``--wire`` understands; none where they cannot be told quickly.

    Args:
        path: a bench file, or a capture that is not compressed.
    """
    try:
        if is_bench(path):
            return _of_bench(path)
        if not path.is_file():
            return []
        with path.open("rb") as stream:
            content = stream.read(LOOKED_AT)
        return _of_vcd(content) if looks_like_vcd(content) else _of_csv(content)
    except (PivetError, OSError):
        return []


def _of_bench(path: Path) -> list[str]:
    bench = BenchFile.open(path)
    try:
        return [wire.name for capture in bench.captures() for wire in bench.wires(capture.id)]
    finally:
        bench.close()


def _of_vcd(content: bytes) -> list[str]:
    names = [signal.names[0] for signal in read_header(content, "").signals]
    return [*_pairs(names), *names]


def _pairs(names: list[str]) -> Iterator[str]:
    """What trigger and echo of one scope share."""
    by_name = {name.lower(): name for name in names}
    for low, name in by_name.items():
        echo = by_name.get(re.sub(r"\btrig(ger)?$", "echo", low))
        if echo not in (None, name):
            yield shared_name([name, str(echo)])


def _of_csv(content: bytes) -> list[str]:
    head = content.partition(b"\n")[0].decode("utf-8", "replace")
    cells = [cell.strip().strip('"') for cell in re.split(r"[,;\t]", head)]
    return [cell for cell in cells[1:] if cell]
