"""All that is said of every fault, and how often in each class of damage: as text.

``WRITE_PAGES=1 python -m unittest tests.judge.test_said`` writes it anew.
"""

from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from pivet.captures.capture import Capture, capture_of
from pivet.captures.text import summary_lines
from pivet.captures.wire import Wire
from pivet.errors import InputError
from pivet.judge.report import Report
from pivet.sheets.load import find_sheet
from tests.pages import Page
from tests.physics import truth
from tests.physics.faults import FAULTS, Fault
from tests.physics.truth import CLOCKS, ECHO, HARD, KEPT

PAGE = Page(__file__)
FRAMES = 40
LEAST_DOUBT, SHOWN = 1e-12, 20


def lines() -> Iterator[str]:
    """The page."""
    for fault in FAULTS:
        yield f"# {fault.name}"
        yield from _of_fault(fault)
    yield "# how often"
    yield from _counts()


def _of_fault(fault: Fault) -> Iterator[str]:
    sheet = None if fault.sensor is None else find_sheet(fault.sensor)
    trace = fault.make(np.random.default_rng(2))
    try:
        capture: Capture = capture_of(Path("made.vcd"), trace, sheet, fault.wire)
    except InputError as error:
        yield str(error)
        return
    yield from (line.strip() for line in summary_lines(capture))
    before: list[str] = []
    for wire in capture.wires:
        for number in range(min(len(wire), 12)):
            found = list(_of_report(wire.report(number)))
            if found != before:
                yield f"exchange {number}"
                yield from found
            before = found


def _of_report(report: Report) -> Iterator[str]:
    values = [
        f"{row.text} {row.unit} {row.reason}".strip() for row in (*report.readings, *report.refused)
    ]
    yield f"{report.headline} [{'; '.join(values)}]"
    for row in report.findings:
        yield f"  {row.weight.word} {row.code}: {row.says} {row.advice}".rstrip()


def _counts() -> Iterator[str]:
    found: list[tuple[str, Wire]] = []
    look, truth.look = truth.look, lambda score, wire: found.append((score.name, wire))
    try:
        random = np.random.default_rng(41)
        for name, damage in (KEPT | HARD).items():
            truth.humidity_score(name, damage, random, FRAMES)
            truth.onewire_score(name, damage, random, FRAMES // 4)
        for part in CLOCKS.values():
            truth.humidity_score("clock", KEPT["clean"], random, FRAMES, part)
        for lines_ in (2, 1):
            for name, made in ECHO.items():
                truth.echo_score(name, made, random, FRAMES, lines_)
    finally:
        truth.look = look
    for name, wire in found:
        codes: Counter[str] = Counter()
        for number in range(len(wire)):
            report = wire.report(number)
            codes.update(row.code for row in report.findings)
            codes["given"] += len(report.readings)
            codes["refused"] += len(report.refused)
            codes[report.verdict.word] += 1
        told = ", ".join(f"{code} {count}" for code, count in sorted(codes.items()) if count)
        yield f"{wire.family.key}, {name}, of {len(wire)}: {told}"
        doubt = getattr(wire.judged, "doubt", np.empty(0))
        doubt = doubt[doubt > LEAST_DOUBT][:SHOWN]
        if doubt.size:
            yield f"  doubts {' '.join(f'{value:.3g}' for value in doubt)}"
