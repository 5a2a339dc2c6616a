"""Finding the wires of a capture: which lines carry which family's exchanges."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import permutations
from typing import Any

from pivet.bench.choices import Choices
from pivet.bench.decoding import decode_lines
from pivet.bench.families import FAMILIES, family_of
from pivet.bench.family import AnyFamily
from pivet.bench.offers import Offer, Turned, turn_over
from pivet.bench.wire import Wire, make_wire
from pivet.judge.judgement import Likeness
from pivet.progress import Progress, part, silent
from pivet.signal.trace import Level, Line, Trace

Families = Mapping[str, AnyFamily]

LOOK = 1 << 15
"""So many edges show what a line is, if they look like an answer."""

MOST_LOOKED_AT = 64
"""Of so many lines that nobody claims it is tried whether they are recorded inverted."""

MOST_PAIRED, MOST_TURNED = 16, 5
"""Of more lines that nobody claims no pairs are tried, as they are or turned over."""


@dataclass(frozen=True, slots=True, eq=False)
class _Found:
    """Decoded lines and how much they look like a wire of a family."""

    lines: tuple[Line, ...]
    family: AnyFamily
    likeness: Likeness
    exchanges: Any


@dataclass(frozen=True, slots=True, eq=False)
class Finds:
    """What some lines carry.

    Attributes:
        wires: decoded and judged.
        offers: what others may be, for the person to say.
    """

    wires: tuple[Wire, ...]
    offers: tuple[Offer, ...] = ()


def find_wires(
    lines: tuple[Line, ...],
    trace: Trace,
    choices: Choices,
    named: bool,
    progress: Progress,
    invert: bool = False,
) -> Finds:
    """The wires among some lines, decoded and judged.

    Args:
        lines: that change.
        trace: that they are of.
        choices: of the person; a sheet limits the search to its family, and makes named lines a
            wire whatever they look like.
        named: the person named these lines.
        progress: told the share done.
        invert: lines that are recognised turned over are decoded so; named ones in any case.

    Raises:
        Cancelled: from ``progress``.
    """
    sheet = choices.sheet
    families: Families = FAMILIES if sheet is None else {sheet.family: family_of(sheet)}
    if named:
        found, offers = _named(lines, trace, families, choices, invert, progress)
    else:
        found, offers = _searched(lines, trace, families, choices, invert, progress)
    wires = tuple(make_wire(row.family, row.lines, trace, row.exchanges, choices) for row in found)
    return Finds(wires, tuple(offers))


Search = tuple[list[_Found], list[Offer]]


def _named(
    lines: tuple[Line, ...],
    trace: Trace,
    families: Families,
    choices: Choices,
    invert: bool,
    progress: Progress,
) -> Search:
    """Lines that the person named: the family that they look like most."""
    able = [family for family in families.values() if len(lines) in family.lines]
    best = _best([_whole(family, lines, trace, progress) for family in able])
    if best.likeness in KNOWN and not invert:
        return [best], []
    turned = _turned(lines, trace, {row.key: row for row in able})
    if invert:
        over = turned[1] if turned else (True,) * len(lines)
        family = [turned[0]] if turned else able
        rows = turn_over(lines, over)
        return [_best([_whole(row, rows, trace, progress) for row in family])], []
    if turned is not None:
        offer = _inverted(lines, *turned)
        return ([best], [offer]) if choices.sheet is not None else ([], [offer])
    if choices.sheet is not None:
        return [best], []
    return [], _offers([best])


def _searched(
    lines: tuple[Line, ...],
    trace: Trace,
    families: Families,
    choices: Choices,
    invert: bool,
    progress: Progress,
) -> Search:
    total = max(sum(line.edges_ns.size for line in lines), 1)
    found, done = [], 0
    for line in lines:
        before, done = done, done + line.edges_ns.size
        own = part(progress, before / total, done / total)
        found.append(_single(line, trace, families, own))
    free = [row.lines[0] for row in found if row.likeness is not Likeness.ANSWERED]
    pairs = _pairs(free, trace, families) if len(free) > 1 else []
    pairs += _unanswered(free, pairs, trace, families)
    paired = {line.name for row in pairs for line in row.lines}
    found = [row for row in found if row.lines[0].name not in paired] + pairs
    offers = _offers(found)
    free = [line for line in free if line.name not in paired]
    answered = [row for row in found if row.likeness is Likeness.ANSWERED]
    inverted = _all_turned(free, trace, families, answered)
    if invert:
        rows = [(turn_over(own, over), family) for own, family, over in inverted]
        turned = [_whole(family, own, trace, silent) for own, family in rows]
        names = {line.name for row in turned for line in row.lines}
        found = [row for row in found if not names & {line.name for line in row.lines}] + turned
    else:
        offers = [_inverted(own, family, over) for own, family, over in inverted] + offers
    found = _in_order(found, lines)
    for likeness in Likeness:
        alike = [row for row in found if row.likeness is likeness and len(row.exchanges)]
        if alike and (likeness in KNOWN or choices.sheet is not None):
            wires = [row for row in alike if not _is_part(row, alike)]
            used = {line.name for row in wires for line in row.lines}
            return wires, [row for row in offers if not used & set(row.names.split(","))]
    return [], offers


KNOWN = (Likeness.ANSWERED, Likeness.ASKED)
"""Lines that look so are a wire unless the person says otherwise."""


def _offers(found: Sequence[_Found]) -> list[Offer]:
    """What each of some lines may be, where its family has something to say of it."""
    offers = []
    for row in found:
        if row.likeness in KNOWN:
            continue
        names = ",".join(line.name for line in row.lines)
        says = row.family.nearest(row.exchanges)
        if says is not None:
            sheet = row.family.sheets_by_id[says[1]] if says[1] else None
            offers.append(Offer(names, says[0], sheet))
    return offers


def _inverted(lines: tuple[Line, ...], family: AnyFamily, over: Turned) -> Offer:
    names = ",".join(line.name for line in lines)
    which = [line.name for line, turned in zip(lines, over, strict=True) if turned]
    it = "it carries" if len(which) == len(lines) else f"{which[0]} makes it"
    says = (
        f"turned over {it} {family.title}: a transistor or an opto-coupler stands before the "
        "recorder"
    )
    return Offer(names, says, None, over)


def _all_turned(
    free: Sequence[Line], trace: Trace, families: Families, answered: Sequence[_Found]
) -> list[tuple[tuple[Line, ...], AnyFamily, Turned]]:
    """Which of the lines that nobody claims are wires once they are turned over.

    A simulator's driver of a wire that is found already is none.
    """
    found: list[tuple[tuple[Line, ...], AnyFamily, Turned]] = []
    used: set[str] = set()
    groups: list[tuple[Line, ...]] = [(line,) for line in free[:MOST_LOOKED_AT]]
    if len(free) <= MOST_TURNED and any(2 in row.lines for row in families.values()):
        groups += list(permutations(free, 2))
    for lines in groups:
        if used & {line.name for line in lines}:
            continue
        turned = _turned(lines, trace, families)
        if turned is not None and not _drives(lines, turned, trace, answered):
            found.append((lines, *turned))
            used |= {line.name for line in lines}
    return found


def _drives(
    lines: tuple[Line, ...],
    turned: tuple[AnyFamily, Turned],
    trace: Trace,
    answered: Sequence[_Found],
) -> bool:
    """Whether lines turned over show only a share of what a wire shows whole."""
    family, over = turned
    seen = decode_lines(family, turn_over(lines, over), trace, most=LOOK)
    alike = (row for row in answered if row.family is family)
    return any(family.is_part(seen, row.exchanges) for row in alike)


def _turned(
    lines: tuple[Line, ...], trace: Trace, families: Families
) -> tuple[AnyFamily, Turned] | None:
    """The family whose answers lines carry once some of them are turned over."""
    patterns: list[Turned] = [(True,)]
    if len(lines) == 2:
        patterns = [(True, True), (False, True), (True, False)]
    for family in families.values():
        if len(lines) not in family.lines:
            continue
        for over in patterns:
            seen = decode_lines(family, turn_over(lines, over), trace, most=LOOK)
            if family.likeness(seen, len(lines), trace.resolution_ns) is Likeness.ANSWERED:
                return family, over
    return None


def _in_order(found: list[_Found], lines: tuple[Line, ...]) -> list[_Found]:
    """In the order of the capture's lines."""
    place = {line.name: number for number, line in enumerate(lines)}
    return sorted(
        found, key=lambda row: min(place.get(line.name, len(place)) for line in row.lines)
    )


def _single(line: Line, trace: Trace, families: Families, progress: Progress) -> _Found:
    """One line: a look at its beginning first, which mostly settles the family."""
    if line.edges_ns.size > LOOK and len(families) > 1:
        for family in families.values():
            seen = decode_lines(family, (line,), trace, most=LOOK)
            if family.likeness(seen, 1, trace.resolution_ns) is Likeness.ANSWERED:
                return _whole(family, (line,), trace, progress)
    share = 1 / len(families)
    return _best(
        [
            _whole(family, (line,), trace, part(progress, number * share, (number + 1) * share))
            for number, family in enumerate(families.values())
        ]
    )


def _whole(family: AnyFamily, lines: tuple[Line, ...], trace: Trace, progress: Progress) -> _Found:
    exchanges = decode_lines(family, lines, trace, progress)
    return _Found(
        lines, family, family.likeness(exchanges, len(lines), trace.resolution_ns), exchanges
    )


def _best(found: list[_Found]) -> _Found:
    """The most alike; of equals that with precedence, or the first that has exchanges."""

    def rank(row: _Found) -> tuple[int, int, bool]:
        asked = row.likeness is Likeness.ASKED
        return row.likeness, row.family.precedence if asked else 0, not len(row.exchanges)

    return min(found, key=rank)


def _pairs(lines: list[Line], trace: Trace, families: Families) -> list[_Found]:
    """Pairs of lines that make a wire; each line is used once."""
    if len(lines) > MOST_PAIRED:
        return []
    found: list[_Found] = []
    used: set[str] = set()
    for family in (row for row in families.values() if 2 in row.lines):
        for pair in permutations(lines, 2):
            if used & {line.name for line in pair}:
                continue
            seen = decode_lines(family, pair, trace, most=LOOK)
            if family.likeness(seen, 2, trace.resolution_ns) is Likeness.ANSWERED:
                exchanges = decode_lines(family, pair, trace)
                found.append(_Found(pair, family, Likeness.ANSWERED, exchanges))
                used |= {line.name for line in pair}
    return found


def _unanswered(
    free: Sequence[Line], pairs: Sequence[_Found], trace: Trace, families: Families
) -> list[_Found]:
    """Lines that ask as one of a pair does, with the silent line that should answer."""
    quiet = [row for row in trace.lines if not row.edges_ns.size and row.initial is Level.LOW]
    named = [row for row in quiet if "echo" in row.name.lower()] or quiet
    if len(named) != 1 or not free or len(free) > MOST_PAIRED:
        return []
    used = {line.name for row in pairs for line in row.lines}
    found = []
    for family in (row for row in families.values() if 2 in row.lines):
        for line in (row for row in free if row.name not in used):
            whole = _whole(family, (line, named[0]), trace, silent)
            if whole.likeness is Likeness.ASKED:
                found.append(whole)
    return found[:1]


def _is_part(row: _Found, others: list[_Found]) -> bool:
    """Whether lines show only a share, or a copy, of what others show whole."""
    for other in others:
        if other is row or other.family is not row.family or len(other.lines) > len(row.lines):
            continue
        covered = row.family.is_part(row.exchanges, other.exchanges)
        mutual = covered and len(other.lines) == len(row.lines)
        if mutual and row.family.is_part(other.exchanges, row.exchanges):
            covered = others.index(other) < others.index(row)
        if covered:
            return True
    return False
