"""Files that are to be written: nothing is overwritten by accident."""

import re
from collections.abc import Callable, Iterable
from enum import Enum
from pathlib import Path

from pivet.errors import OutputError

HEAD = 4096
OWN_VCD = b"pivet resolution_ns"
OWN_WORKBOOK = b"xl/worksheets/sheet1.xml"


class Kind(Enum):
    """What Pivet writes, told by how a file begins."""

    CAPTURE = "a capture"
    READINGS = "readings"
    REPORT = "a report"


def _is_capture(head: bytes) -> bool:
    vcd = head.lstrip()[:1] == b"$" and OWN_VCD in head
    return vcd or head.startswith(b"time_s,")


def _is_readings(head: bytes) -> bool:
    table = rb"(file,)?time(_s)?,(local_time,)?wire,role,device,exchange,"
    lines = rb'\{"(file|time(_s)?|exchange|wire)": '
    text = re.match(table, head) or re.match(lines, head)
    return text is not None or (head[:2] == b"PK" and OWN_WORKBOOK in head)


def _is_report(head: bytes) -> bool:
    html = b'<meta name="generator" content="Pivet' in head
    return html or (head.startswith(b"%PDF-") and b"Pivet" in head)


LOOKS: dict[Kind, Callable[[bytes], bool]] = {
    Kind.CAPTURE: _is_capture,
    Kind.READINGS: _is_readings,
    Kind.REPORT: _is_report,
}


def refuse_target(
    target: Path, kind: Kind | None, inputs: Iterable[Path] = (), force: bool = False
) -> None:
    """Refuses to write over what somebody would miss.

    Args:
        target: is to be written.
        kind: a file that is there already may be one of these; None for none.
        inputs: what is read meanwhile; never written over.
        force: the person wants it all the same.

    Raises:
        OutputError: it is one of the inputs, or there already and of another kind.
    """
    for source in inputs:
        if is_same(source, target):
            raise OutputError(f"{target} is the very file that is read", "write to another one")
    if force or not target.is_file():
        return
    if kind is None or not _begins(target, LOOKS[kind]):
        what = "" if kind is None else f", and not {kind.value} that Pivet wrote"
        raise OutputError(f"{target} is there already{what}", "choose another name, or add --force")


def is_same(one: Path, other: Path) -> bool:
    """Whether two paths lead to the same file, by whatever links.

    Args:
        one: a path; it may not exist.
        other: the same.
    """
    try:
        return one.samefile(other)
    except (OSError, ValueError):
        return False


def _begins(path: Path, looks: Callable[[bytes], bool]) -> bool:
    try:
        with path.open("rb") as stream:
            head = stream.read(HEAD)
    except OSError:
        return False
    return not head or looks(head)
