"""A capture: one file, its trace and the wires found on it."""

from collections.abc import Hashable, Sequence
from pathlib import Path
from typing import Protocol

from pivet.captures.finding import find_wires
from pivet.captures.offers import Offer
from pivet.captures.wire import Wire
from pivet.errors import InputError
from pivet.families import family_of
from pivet.files.captures import read_capture
from pivet.frozen import FrozenObject, replace
from pivet.person.choices import WireChoices
from pivet.progress import Progress, part, silent
from pivet.readings.sound import Air
from pivet.sheets.load import find_sheet
from pivet.sheets.model import Sheet
from pivet.sheets.reach import AS_IN_SHEET, Reach
from pivet.signal.naming import pair_meant
from pivet.signal.trace import Level, Line, Trace

READING_SHARE = 0.7
"""Share of the reading in the time that opening a capture takes."""


class Kept(Protocol):
    """Where a capture is kept of which only parts are shown.

    Attributes:
        id: the id of the capture there.
    """

    id: int

    def __hash__(self) -> int: ...

    @property
    def began_ns(self) -> int:
        """Its zero by the calendar, ns since 1970."""
        ...

    def count(self, wire: Wire) -> int:
        """Number of exchanges of a wire.

        Args:
            wire: the wire to look at.
        """
        ...

    def around(self, wire: Wire, number: int) -> Wire:
        """The part of a wire in which an exchange stands.

        Args:
            wire: a wire of the capture.
            number: the number of the exchange in the whole wire, from 0.
        """
        ...

    def everything(self, wire: Wire, progress: Progress = silent) -> Wire:
        """All exchanges of a wire, judged together.

        Args:
            wire: a wire of the capture.
            progress: called with the share done, 0 to 1.
        """
        ...

    def number_at(self, wire: Wire, t_ns: int) -> int:
        """The last exchange of a wire that begins before a time.

        Args:
            wire: a wire of the capture.
            t_ns: time in the capture.
        """
        ...

    def next_not_sound(self, wire: Wire, number: int, step: int) -> int | None:
        """The next exchange after (``step`` 1) or before (-1) a number that is not sound."""
        ...

    def choose(self, wire: Wire, choices: WireChoices) -> None:
        """A wire is judged by other choices from now on.

        Args:
            wire: a wire of the capture.
            choices: sheet, resolution and what else was said.
        """
        ...

    def note(self, wire: Wire, number: int) -> str:
        """The person's note on an exchange.

        Args:
            wire: a wire of the capture.
            number: the number of the exchange in the whole wire, from 0.
        """
        ...

    def put_note(self, wire: Wire, number: int, text: str) -> None:
        """Gives an exchange a note; an empty one takes it away."""
        ...

    def trace(self, progress: Progress) -> Trace:
        """All lines.

        Args:
            progress: called with the share done, 0 to 1.
        """
        ...


class Capture(FrozenObject):
    """An open capture.

    Attributes:
        path: where it was read from.
        trace: its lines; None when they are too many to be held, and ``kept`` has them.
        wires: those that carry exchanges.
        others: names of lines that change but carry no exchange that is known.
        notes: what had to be assumed, in plain words.
        offers: what those others may be, for the person to say.
        kept: where the whole of it is kept, when ``wires`` are only parts of it.
        title: what it is called, when that is not the name of the file.
    """

    path: Path
    trace: Trace | None
    wires: tuple[Wire, ...]
    others: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    offers: tuple[Offer, ...] = ()
    kept: Kept | None = None
    title: str = ""

    @property
    def name(self) -> str:
        """Its title, or the name of the file."""
        return self.title or self.path.name

    @property
    def key(self) -> Hashable:
        """Tells it from all others, also when its bench file gets another name."""
        return self.path if self.kept is None else self.kept

    def whole(self, progress: Progress = silent) -> Trace:
        """All its lines.

        Args:
            progress: called with the share done, 0 to 1.

        Raises:
            InputError: they are too many, or cannot be read.
            Cancelled: ``progress`` raised it.
        """
        if self.trace is not None:
            return self.trace
        assert self.kept is not None
        return self.kept.trace(progress)

    def with_wire(self, number: int, wire: Wire) -> "Capture":
        """The same capture with one wire replaced.

        Args:
            number: which wire, from 0.
            wire: what stands there from now on.
        """
        wires = (*self.wires[:number], wire, *self.wires[number + 1 :])
        return replace(self, wires=wires)


def open_capture(
    path: Path,
    sensor: str | None = None,
    wire: str | Sequence[str] | None = None,
    progress: Progress = silent,
    air: Air | None = None,
    reach: Reach = AS_IN_SHEET,
    invert: bool = False,
    where: str = "",
) -> Capture:
    """Reads a capture, finds its wires, decodes and judges them.

    Args:
        path: a VCD or CSV file.
        sensor: id of the sheet for all wires; None recognises each.
        wire: names of the only wires to decode: each a line, or an echo sensor's trigger and echo
            with a comma between, or what their names share; None takes all that carry exchanges.
        progress: called with the share done, 0 to 1.
        air: air temperature for echo sensors.
        reach: timeout and farthest distance of echo sensors.
        invert: lines that are recognised turned over are decoded so; a named one in any case.
        where: the file as the person named it, for messages; its name alone if not given.

    Raises:
        InputError: the file cannot be used, or there is no such sensor or line.
        Cancelled: ``progress`` raised it.
    """
    sheet = find_sheet(sensor) if sensor is not None else None
    trace = read_capture(path, part(progress, 0.0, READING_SHARE), where)
    rest = part(progress, READING_SHARE, 1.0)
    return capture_of(path, trace, sheet, wire, rest, air, reach, invert, where)


def capture_of(
    path: Path,
    trace: Trace,
    sheet: Sheet | None = None,
    wire: str | Sequence[str] | None = None,
    progress: Progress = silent,
    air: Air | None = None,
    reach: Reach = AS_IN_SHEET,
    invert: bool = False,
    where: str = "",
) -> Capture:
    """Finds, decodes and judges the wires of a trace; see ``open_capture``.

    Args:
        path: what it is called.
        trace: its lines.
        sheet: the one that the person chose; None recognises it.
        wire: names of wires that the person named, as ``--wire``; None for all.
        progress: called with the share done, 0 to 1.
        air: for echoes; None takes that of the sheet.
        reach: timeout and farthest distance, where the person gave them.
        invert: the lines are turned over.
        where: what messages call it; the name of ``path`` if not given.

    Raises:
        InputError: there is no such line.
        Cancelled: ``progress`` raised it.
    """
    choices = WireChoices(sheet=sheet, air=air, reach=reach)
    if wire is None:
        lines = _distinct(trace.lines)
        finds = find_wires(lines, trace, choices, False, progress, invert)
        wires, offers = finds.wires, finds.offers
    else:
        named = _named_wires(
            trace, [wire] if isinstance(wire, str) else wire, where or path.name, sheet
        )
        lines = tuple(dict.fromkeys(line for several in named for line in several))
        found = [
            find_wires(several, trace, choices, True, part(progress, at / len(named), 1.0), invert)
            for at, several in enumerate(named)
        ]
        wires = tuple(made for finds in found for made in finds.wires)
        offers = tuple(offer for finds in found for offer in finds.offers)
    used = {line.name for other in wires for line in other.lines}
    others = tuple(line.name for line in lines if line.name not in used)
    notes = (
        *trace.notes,
        *(note for other in wires for note in other.family.remarks(other.lines)),
        *(f"{line.name}: {note}" for other in wires for line in other.lines for note in line.notes),
    )
    return Capture(path, trace, wires, others, notes, offers)


def _named_wires(
    trace: Trace, names: Sequence[str], where: str, sheet: Sheet | None
) -> list[tuple[Line, ...]]:
    """The lines of each wire that the person named, each once."""
    found: list[tuple[Line, ...]] = []
    for name in names:
        lines = named_lines(trace, name, where)
        if len(lines) == 2 and sheet is not None and max(family_of(sheet).lines) < 2:
            raise InputError(
                f"{name!r} names two lines, but a {sheet.name} has one", "name one line"
            )
        if lines not in found:
            found.append(lines)
    return found


def add_named(
    capture: Capture,
    names: str,
    progress: Progress = silent,
    sheet: Sheet | None = None,
    invert: bool = False,
) -> Wire:
    """Decodes lines of an open capture that nobody recognised; see ``open_capture``.

    Args:
        capture: the open capture.
        names: the names of the lines, as ``--wire``.
        progress: called with the share done, 0 to 1.
        sheet: the one that the person chose; None recognises it.
        invert: the lines are turned over.

    Raises:
        InputError: there is no such line, or nobody can say what it is.
        Cancelled: ``progress`` raised it.
    """
    trace = capture.whole()
    lines = named_lines(trace, names, capture.name)
    finds = find_wires(lines, trace, WireChoices(sheet=sheet), True, progress, invert)
    if not finds.wires:
        raise InputError(unclear(names, finds.offers), "say which sensor it is")
    return finds.wires[0]


def unclear(names: str, offers: Sequence[Offer]) -> str:
    """That named lines are no wire that is known, and what they may be.

    Args:
        names: the lines, as the person typed them.
        offers: what may be done with them.
    """
    says = "; ".join(offer.says for offer in offers)
    return f"{names} looks like no sensor known here" + (f": {says}" if says else "")


def named_lines(trace: Trace, names: str, where: str) -> tuple[Line, ...]:
    """The line with a name, or trigger and echo with a comma between their names.

    Args:
        trace: the trace that has them.
        names: as ``--wire``: whole, a last part that only one line has, or what two share.
        where: name of the capture, for messages.

    Raises:
        InputError: there is no such line, or the name can be several.
    """
    if "," not in names and not trace.find(names):
        names = ",".join(pair_meant(names, [line.name for line in trace.lines])) or names
    if trace.find(names) or "," not in names:
        return (_named(trace, names, where),)
    parts = [part.strip() for part in names.split(",")]
    if len(parts) != 2 or not all(parts):
        raise InputError(
            f"{names!r} names no wire", "give one line, or trigger,echo for an echo sensor"
        )
    lines = (_named(trace, parts[0], where), _named(trace, parts[1], where, silent_too=True))
    if lines[0] is lines[1]:
        raise InputError(f"{names!r} names the same line twice", "name trigger and echo")
    return lines


def never_changes(line: Line, where: str) -> str:
    """That a line stands still, and what that may mean.

    Args:
        line: one without edges.
        where: the file, or where else it comes from.
    """
    if line.initial is Level.LOW:
        why = "a short, a pin that drives it low, no pull-up, or a level too low for the input"
    else:
        why = "nobody asks, or it is another pin"
    level = line.initial.name.lower()
    return f"the line {line.name} of {where} never changes: it stays {level} ({why})"


def _named(trace: Trace, name: str, where: str, silent_too: bool = False) -> Line:
    lines = trace.find(name)
    if len(lines) == 1:
        if not lines[0].edges_ns.size and not silent_too:
            raise InputError(never_changes(lines[0], where), "name another line, or look there")
        return lines[0]
    if lines:
        names = ", ".join(line.name for line in lines)
        raise InputError(f"{name!r} can be several lines of {where} ({names})", "give more of it")
    known = [line.name for line in trace.lines if line.edges_ns.size]
    shown = ", ".join(known[:12]) + (" …" if len(known) > 12 else "")
    raise InputError(f"{where} has no line {name!r}", f"choose one of {shown}")


def _distinct(lines: tuple[Line, ...]) -> tuple[Line, ...]:
    """Lines that change, those with the very same edges once: one net under several names."""
    moving = tuple(line for line in lines if line.edges_ns.size)
    if len(moving) < 2:
        return moving
    import hashlib  # a capture of one line is opened without it: the window starts sooner

    kept: dict[tuple[Level, bytes], Line] = {}
    for line in moving:
        key = (line.initial, hashlib.sha256(line.edges_ns.tobytes()).digest())
        other = kept.get(key)
        more = () if other is None else (*other.aliases, line.name, *line.aliases)
        kept[key] = line if other is None else replace(other, aliases=more)
    return tuple(kept.values())
