"""What is said of a sound line with one thing done to it: see ``tests.physics.edits``."""

import re
import zlib
from collections.abc import Iterator
from itertools import groupby
from pathlib import Path
from unittest import mock

from pivet.captures.capture import capture_of
from pivet.errors import PivetError
from pivet.judge.report import Report
from pivet.signal.trace import Trace
from tests import pages
from tests.base import PivetTest
from tests.pages import Page, plain
from tests.physics.edits import captures

PAGE = Page(__file__)
PLACES, MOST, PULSES = 5, 24, 24
NAMES = re.compile(r"[a-z_]+=|ByteRow")
ALIKE = re.compile(r"\(0, serial [1-6], [^)]*False\), ")
"""What need not be said: names of fields, and sound bytes of a code."""


def told(report: Report) -> Iterator[str]:
    """An exchange in few words, and what is said of it."""
    values = [f"{row.text}{row.reason and ' ' + row.reason}" for row in report.readings]
    values += [f"({row.text} {row.reason})" for row in report.refused]
    windows = [
        f"{key} {row.verdict.name[:2]} {row.number} {row.worst_margin_us:g}"
        for key, row in report.windows.items()
    ]
    stands = f"{report.check.word} {report.check.says}"
    yield f"{report.headline}; {stands}; {', '.join(values)} {report.gap}"
    yield ", ".join(windows)
    yield ALIKE.sub("", NAMES.sub("", plain(report.detail)))
    values = (report.readings, report.refused)
    parts = (report.pulses[:PULSES], report.stretches, *values, report.findings)
    yield f"{len(report.pulses)} pulses, sum {zlib.crc32(plain(parts).encode()):x}"
    yield from (f"{row.code} {row.weight.name}: {row.says} {row.advice}" for row in report.findings)


def of_capture(family: str, trace: Trace) -> Iterator[str]:
    """All exchanges that are not told like the one before."""
    wire = "trigger,echo" if family == "echo-pulse" else None
    try:
        wires = capture_of(Path("made.vcd"), trace, None, wire).wires
    except PivetError as error:
        yield f"{error}"
        return
    for found in wires:
        yield f"{found.sheet.id if found.sheet else ''} {len(found)}"
        rows = (tuple(told(found.report(number))) for number in range(len(found)))
        for row, _ in groupby(rows):
            yield from row


def lines() -> Iterator[str]:
    """The page; what was told before is not told again."""
    seen: dict[str, str] = {}
    for family, what, trace in captures(PLACES):
        rows = list(of_capture(family, trace))
        new = [row for row in dict.fromkeys(rows) if row not in seen]
        seen |= {row: f"{len(seen) + at}" for at, row in enumerate(new)}
        yield f"{what}: {' '.join(seen[row] for row in rows)}"
        yield from (f"  [{seen[row]}] {row}" for row in new)


class Edits(PivetTest):
    """Against the page that was last looked through."""

    def test_line_by_line(self) -> None:
        with mock.patch.object(pages, "MOST", MOST):
            PAGE.same(self, lines())
