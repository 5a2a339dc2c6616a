"""Where what is said of a signal turns: one figure of it grows, nanosecond by nanosecond.

A sweep makes captures of one figure.  A page keeps, for each place where what is told of them
changes, the last figure before it and the first behind it, with what is told of both: a limit that
moves by a nanosecond, or takes in what it left out, changes the page.  ``python -m
tests.physics.turns`` finds the places anew, by halving, when a change of them is meant.
"""

import sys
from collections.abc import Callable, Iterator
from itertools import groupby, pairwise
from pathlib import Path
from typing import Any

import numpy as np

from pivet.captures.decoding import decode_lines
from pivet.captures.wire import make_wire
from pivet.families import FAMILIES
from pivet.person.choices import WireChoices
from pivet.sheets.load import find_sheet
from tests.physics.sweeps.coarse import COARSE
from tests.physics.sweeps.echo import ECHO
from tests.physics.sweeps.humidity import HUMIDITY
from tests.physics.sweeps.onewire import ONEWIRE
from tests.physics.sweeps.sweep import Sweep

POINTS = 40

SHOWN, LEAST_DOUBT = 8, 1e-9
"""Exchanges told of."""

Look = Callable[[Sweep, int], str]


def told(sweep: Sweep, figure: int) -> str:
    """What the judges say: of which sensor it is, and the causes of its exchanges."""
    sheet = None if sweep.sensor is None else find_sheet(sweep.sensor)
    trace, family = sweep.trace(figure), FAMILIES[sweep.family]
    exchanges = decode_lines(family, trace.lines, trace)
    wire = make_wire(family, trace.lines, trace, exchanges, WireChoices(sheet=sheet))
    said = [wire.sheet.id if wire.sheet is not None else "-"]
    for number in range(min(len(wire), SHOWN)):
        report = wire.report(number)
        codes = _runs([row.code for row in report.findings], "+")
        given = "=" * bool(report.readings) + "?" * bool(report.refused)
        doubt = _doubt(wire.judged, number)
        said.append(f"{report.verdict.name.lower()}:{codes}{given}{doubt}")
    return _runs(said, " ")


def likeness(sweep: Sweep, figure: int) -> str:
    """Whether the lines look like those of the family."""
    trace, family = sweep.trace(figure), FAMILIES[sweep.family]
    exchanges = decode_lines(family, trace.lines, trace)
    return family.likeness(exchanges, len(trace.lines), trace.resolution_ns).name.lower()


def _doubt(judged: Any, number: int) -> str:
    """How many nines there are in the belief in an exchange, where it can be doubted."""
    doubts = getattr(judged, "doubt", np.empty(0))
    pads = getattr(judged, "pads", None)
    rows = np.array([number]) if pads is None else np.flatnonzero(pads.at == number)
    found = doubts[rows[rows < doubts.size]]
    return "".join(f"~{int(-np.log10(value))}" for value in found if value > LEAST_DOUBT)


def _runs(words: list[str], between: str) -> str:
    """Words, those that repeat with their number."""
    found = [(word, len(list(row))) for word, row in groupby(words)]
    return between.join(word if count == 1 else f"{word}x{count}" for word, count in found)


COUNTED = ("marks", "pulse_count", "bit_count", "slot_count", "command", "fast", "steps")
PRESENT = ("trigger_ns", "flight_ns", "presence_ns", "presence_low_ns")


def decoded(sweep: Sweep, figure: int) -> str:
    """What the decoder makes of it: exchanges and their marks."""
    trace = sweep.trace(figure)
    family = FAMILIES[sweep.family]
    found: Any = decode_lines(family, trace.lines, trace)
    said = [f"{len(found)} spikes {found.spike_start_ns.size} strays {found.stray_start_ns.size}"]
    for number in range(min(len(found), SHOWN)):
        row = [str(int(getattr(found, name)[number])) for name in COUNTED if hasattr(found, name)]
        row += [
            str(int(getattr(found, name)[number] >= 0)) for name in PRESENT if hasattr(found, name)
        ]
        said.append(",".join(row))
    return _runs(said, " ")


SIGNALS = [*HUMIDITY, *ONEWIRE, *ECHO]
SWEEPS = {f"{row.family} {row.name}": row for row in [*SIGNALS, *COARSE]}
PAGES: dict[str, tuple[Look, list[Sweep], int]] = {
    "judge": (told, [*SIGNALS, *COARSE], 4),
    "likeness": (likeness, [*SIGNALS, *COARSE], 10),
    "decode": (decoded, SIGNALS, 8),
}
"""What is told, and how many turns of a sweep are kept at most, of more some over all of it: noise
turns everywhere."""


def page(name: str) -> Path:
    """Where turns stand."""
    return Path(__file__).parent / f"turns_{name}.txt"


def kept(said: str) -> Iterator[tuple[str, int, str]]:
    """Sweep, figure in ns and what was told, from a page."""
    name = ""
    for line in page(said).read_text(encoding="utf-8").splitlines():
        if line.startswith("# "):
            name = line[2:]
        else:
            figure, _, then = line.partition(" ")
            yield name, int(figure), then


def found(sweep: Sweep, look: Look) -> Iterator[tuple[int, str]]:
    """The turns of a sweep: figures in pairs, each with what is told."""
    unit = sweep.unit
    low, high = round(sweep.low * 1000), round(sweep.high * 1000)
    spread = np.geomspace(1, high - low + 1, POINTS) - 1 + low
    even = np.linspace(low, high, POINTS)
    figures = np.unique(np.round(np.concatenate((spread, even)) / unit).astype(int) * unit)
    before = (int(figures[0]), look(sweep, int(figures[0])))
    yield before
    for figure in figures[1:].tolist():
        now = (figure, look(sweep, figure))
        while before[1] != now[1]:
            last, turn = before, now
            while turn[0] - last[0] > unit:
                middle = (last[0] + turn[0]) // 2 // unit * unit
                said = look(sweep, middle)
                last, turn = ((middle, said), turn) if said == last[1] else (last, (middle, said))
            yield last
            yield turn
            before = turn
        before = now


def some(turns: dict[int, str], most: int) -> dict[int, str]:
    """The first figure, and some of the pairs between which something turns, spread over all."""
    rows = list(turns.items())
    pairs = [pair for pair in pairwise(rows) if pair[0][1] != pair[1][1]]
    chosen = np.linspace(0, len(pairs) - 1, min(len(pairs), most)).round().astype(int)
    return dict([rows[0], *(row for at in chosen.tolist() for row in pairs[at])])


def write(name: str) -> None:
    """Finds all turns anew."""
    with page(name).open("w", encoding="utf-8") as file:
        look, sweeps, most = PAGES[name]
        for sweep in sweeps:
            print(f"# {sweep.family} {sweep.name}", file=file)
            for figure, said in some(dict(found(sweep, look)), most).items():
                print(figure, said, file=file)


if __name__ == "__main__":
    for name_ in sys.argv[1:] or PAGES:
        write(name_)
