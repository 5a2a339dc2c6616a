"""A capture: one file, its trace and the wires found on it."""

from dataclasses import dataclass, field, replace
from enum import IntEnum
from pathlib import Path

import numpy as np

from pivet.bench.wire import Wire, decode_line, make_wire
from pivet.decode.humidity import HumidityExchanges, Mark
from pivet.errors import InputError
from pivet.files.captures import read_capture
from pivet.judge.recognise import looks_answered, looks_asked
from pivet.progress import Progress, part, silent
from pivet.sheets.load import find_sheet
from pivet.sheets.model import Sheet
from pivet.signal.trace import Line, Trace

READING_SHARE = 0.7
"""Share of the reading in the time that opening a capture takes."""


@dataclass(frozen=True, slots=True, eq=False)
class Capture:
    """An open capture.

    Attributes:
        path: where it was read from.
        trace: its lines.
        wires: those that carry exchanges.
        others: names of lines that change but carry no exchange that is known.
        notes: what had to be assumed, in plain words.
    """

    path: Path
    trace: Trace = field(repr=False)
    wires: tuple[Wire, ...]
    others: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()

    @property
    def name(self) -> str:
        """Name of the file."""
        return self.path.name

    def with_wire(self, number: int, wire: Wire) -> "Capture":
        """The same capture with one wire replaced."""
        wires = (*self.wires[:number], wire, *self.wires[number + 1 :])
        return replace(self, wires=wires)


def open_capture(
    path: Path,
    sensor: str | None = None,
    wire: str | None = None,
    progress: Progress = silent,
) -> Capture:
    """Reads a capture, finds its wires, decodes and judges them.

    Args:
        path: a VCD or CSV file.
        sensor: id of the sheet for all wires; None recognises each.
        wire: name of the only line to decode; None takes all that carry exchanges.
        progress: told the share done.

    Raises:
        InputError: the file cannot be used, or there is no such sensor or line.
        Cancelled: from ``progress``.
    """
    sheet = find_sheet(sensor) if sensor is not None else None
    trace = read_capture(path, part(progress, 0.0, READING_SHARE))
    return capture_of(path, trace, sheet, wire, part(progress, READING_SHARE, 1.0))


def capture_of(
    path: Path,
    trace: Trace,
    sheet: Sheet | None = None,
    wire: str | None = None,
    progress: Progress = silent,
) -> Capture:
    """Finds, decodes and judges the wires of a trace; see ``open_capture``.

    Raises:
        InputError: there is no such line.
        Cancelled: from ``progress``.
    """
    lines = _distinct(trace.lines if wire is None else (_named(trace, wire, path.name),))
    total = max(sum(line.edges_ns.size for line in lines), 1)
    found: dict[Likeness, list[Wire]] = {likeness: [] for likeness in Likeness}
    done = 0
    for line in lines:
        before, done = done, done + line.edges_ns.size
        exchanges = decode_line(line, trace, part(progress, before / total, done / total))
        likeness = Likeness.ANSWERED if wire is not None else _likeness(exchanges)
        if likeness is not Likeness.POSSIBLE or (sheet is not None and len(exchanges)):
            found[likeness].append(make_wire(line, trace, exchanges, sheet))
    answered = found[Likeness.ANSWERED]
    found[Likeness.ANSWERED] = [row for row in answered if not _is_only_the_sensor(row, answered)]
    wires = tuple(next((rows for rows in found.values() if rows), ()))
    shown = {row.name for row in wires}
    others = tuple(line.name for line in lines if line.name not in shown)
    notes = (*trace.notes, *(f"{row.name}: {note}" for row in wires for note in row.line.notes))
    return Capture(path, trace, wires, others, notes)


class Likeness(IntEnum):
    """How much a line looks like a humidity wire; only the most alike are shown."""

    ANSWERED = 0
    ASKED = 1
    POSSIBLE = 2
    """Not at all; shown only if the person chose a sensor and nothing else was found."""


def _likeness(exchanges: HumidityExchanges) -> Likeness:
    if looks_answered(exchanges):
        return Likeness.ANSWERED
    return Likeness.ASKED if looks_asked(exchanges) else Likeness.POSSIBLE


def _is_only_the_sensor(wire: Wire, others: list[Wire]) -> bool:
    """Whether a line shows only the sensor's share of what another line shows whole.

    Simulators record such drivers beside the line itself.
    """
    if not ((wire.exchanges.marks & Mark.ASK_UNSEEN) != 0).all():
        return False
    ends = wire.exchanges.end_ns
    return any(
        other is not wire
        and len(other) >= len(wire)
        and bool(((other.exchanges.marks & Mark.ASK_UNSEEN) == 0).any())
        and bool(np.isin(ends, other.exchanges.end_ns).all())
        for other in others
    )


def _named(trace: Trace, name: str, where: str) -> Line:
    lines = trace.find(name)
    if len(lines) == 1:
        if not lines[0].edges_ns.size:
            raise InputError(f"the line {lines[0].name} of {where} never changes", "name another")
        return lines[0]
    if lines:
        names = ", ".join(line.name for line in lines)
        raise InputError(f"{name!r} can be several lines of {where} ({names})", "give more of it")
    known = [line.name for line in trace.lines if line.edges_ns.size]
    shown = ", ".join(known[:12]) + (" …" if len(known) > 12 else "")
    raise InputError(f"{where} has no line {name!r}", f"choose one of {shown}")


def _distinct(lines: tuple[Line, ...]) -> tuple[Line, ...]:
    """Lines that change, those with the very same edges once: one net under several names."""
    kept: list[Line] = []
    for line in lines:
        if not line.edges_ns.size:
            continue
        for at, other in enumerate(kept):
            same = line.initial == other.initial and line.edges_ns.size == other.edges_ns.size
            if same and np.array_equal(line.edges_ns, other.edges_ns):
                kept[at] = replace(other, aliases=(*other.aliases, line.name, *line.aliases))
                break
        else:
            kept.append(line)
    return tuple(kept)
