"""What is said of lines on which anything may be as long as a limit: ``tests.physics.wild``."""

import zlib
from collections.abc import Iterator

from pivet.captures.decoding import decode_lines
from pivet.captures.wire import make_wire
from pivet.families import FAMILIES
from pivet.judge.report import Report
from tests.base import PivetTest
from tests.judge.test_edits import told
from tests.pages import Page
from tests.physics.wild import capture

PAGE = Page(__file__)
SEEDS, SHOWN = 90, 8


def short(report: Report) -> str:
    """What is wrong, what stands, and a sum over all that is told."""
    codes = "+".join(row.code for row in report.findings)
    values = " ".join(row.text for row in report.readings)
    every = zlib.crc32("\n".join(told(report)).encode())
    return f"{report.verdict.name} {codes} [{values}] {every:x}"


def lines() -> Iterator[str]:
    """The page."""
    for seed in range(SEEDS):
        family, trace, choices = capture(seed)
        own = FAMILIES[family]
        found = decode_lines(own, trace.lines, trace)
        wire = make_wire(own, trace.lines, trace, found, choices)
        likeness = own.likeness(found, len(trace.lines), trace.resolution_ns)
        kind = wire.sheet.id if wire.sheet is not None else "-"
        yield f"{seed} {family}: {likeness.name}, {kind}, {len(wire)}, {wire.leftovers()}"
        yield from (f"  {short(wire.report(number))}" for number in range(min(len(wire), SHOWN)))
        for track in wire.tracks:
            yield f"  {track.quantity}: {int(track.given.sum())} of {track.at.size}"


class Wild(PivetTest):
    """Against the page that was last looked through."""

    def test_seed_by_seed(self) -> None:
        PAGE.same(self, lines())
