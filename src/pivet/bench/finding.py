"""Finding the wires of a capture: which lines carry which family's exchanges."""

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import permutations
from typing import Any

from pivet.bench.choices import Choices
from pivet.bench.decoding import decode_lines
from pivet.bench.families import FAMILIES, family_of
from pivet.bench.family import AnyFamily
from pivet.bench.wire import Wire, make_wire
from pivet.judge.judgement import Likeness
from pivet.progress import Progress, part
from pivet.signal.trace import Line, Trace

Families = Mapping[str, AnyFamily]

LOOK = 1 << 15
"""So many edges show what a line is, if they look like an answer."""

MOST_PAIRED = 16
"""Of more lines that nobody claims no pairs are tried."""


@dataclass(frozen=True, slots=True, eq=False)
class _Found:
    """Decoded lines and how much they look like a wire of a family."""

    lines: tuple[Line, ...]
    family: AnyFamily
    likeness: Likeness
    exchanges: Any


def find_wires(
    lines: tuple[Line, ...], trace: Trace, choices: Choices, named: bool, progress: Progress
) -> tuple[Wire, ...]:
    """The wires among some lines, decoded and judged.

    Args:
        lines: that change.
        trace: that they are of.
        choices: of the person; a sheet limits the search to its family.
        named: the person named these lines: they are a wire whatever they look like.
        progress: told the share done.

    Raises:
        Cancelled: from ``progress``.
    """
    sheet = choices.sheet
    families: Families = FAMILIES if sheet is None else {sheet.family: family_of(sheet)}
    if named:
        found = [_named(lines, trace, families, progress)]
    else:
        found = _searched(lines, trace, families, choices, progress)
    return tuple(make_wire(row.family, row.lines, trace, row.exchanges, choices) for row in found)


def _named(lines: tuple[Line, ...], trace: Trace, families: Families, progress: Progress) -> _Found:
    """Lines that the person named: the family that they look like most."""
    able = [family for family in families.values() if len(lines) in family.lines]
    return _best([_whole(family, lines, trace, progress) for family in able])


def _searched(
    lines: tuple[Line, ...],
    trace: Trace,
    families: Families,
    choices: Choices,
    progress: Progress,
) -> list[_Found]:
    total = max(sum(line.edges_ns.size for line in lines), 1)
    found, done = [], 0
    for line in lines:
        before, done = done, done + line.edges_ns.size
        own = part(progress, before / total, done / total)
        found.append(_single(line, trace, families, own))
    free = [row.lines[0] for row in found if row.likeness is not Likeness.ANSWERED]
    pairs = _pairs(free, trace, families) if len(free) > 1 else []
    paired = {line.name for row in pairs for line in row.lines}
    found = [row for row in found if row.lines[0].name not in paired] + pairs
    found = _in_order(found, lines)
    for likeness in Likeness:
        alike = [row for row in found if row.likeness is likeness and len(row.exchanges)]
        if alike and (likeness is not Likeness.POSSIBLE or choices.sheet is not None):
            return [row for row in alike if not _is_part(row, alike)]
    return []


def _in_order(found: list[_Found], lines: tuple[Line, ...]) -> list[_Found]:
    """In the order of the capture's lines."""
    place = {line.name: number for number, line in enumerate(lines)}
    return sorted(found, key=lambda row: min(place[line.name] for line in row.lines))


def _single(line: Line, trace: Trace, families: Families, progress: Progress) -> _Found:
    """One line: a look at its beginning first, which mostly settles the family."""
    if line.edges_ns.size > LOOK and len(families) > 1:
        for family in families.values():
            seen = decode_lines(family, (line,), trace, most=LOOK)
            if family.likeness(seen) is Likeness.ANSWERED:
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
    return _Found(lines, family, family.likeness(exchanges), exchanges)


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
            if family.likeness(seen) is Likeness.ANSWERED:
                exchanges = decode_lines(family, pair, trace)
                found.append(_Found(pair, family, Likeness.ANSWERED, exchanges))
                used |= {line.name for line in pair}
    return found


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
