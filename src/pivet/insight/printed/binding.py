"""Which printed numbers are which quantity: by their words, by fit, or as a person says."""

import re
from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise, permutations

from pivet.errors import InputError
from pivet.frozen import FrozenValue
from pivet.insight.printed.classify import Meant, codes_of
from pivet.insight.printed.facts import Fact, Truth
from pivet.insight.printed.lines import Number, Printed, shapes_of
from pivet.progress import Progress, part, silent
from pivet.readings.units import QUANTITIES, UNITS, Unit

WORDS = {
    "humidity": re.compile(r"hum|\brh\b|r\.h|moist|%", re.IGNORECASE),
    "temperature": re.compile(
        r"temp|°|\bdeg|celsius|fahrenheit|\bt\d*\s*[:=]|^\s*[cf]\b", re.IGNORECASE
    ),
    "distance": re.compile(r"dist|range|echo|level|depth|^\s*(?:cm|mm|m|in|inch)\b", re.IGNORECASE),
}
FAHRENHEIT = re.compile(r"°\s*f\b|^\s*f\b|fahrenheit", re.IGNORECASE)
LENGTH = re.compile(r"^\s*(cm|mm|m|inch|in)\b", re.IGNORECASE)

TRIED = 200
"""How many lines are looked at when numbers are bound by fit."""

NEARBY = 3
"""A line may stand so many exchanges beside its own while numbers are bound."""

LEAST_FIT = 0.3
"""So large a share of its numbers must fit before a place in a line is taken."""

Slot = tuple[str, int]
"""Shape of a line, and which of its numbers."""


class Bound(FrozenValue):
    """A number of a line that is of a quantity.

    Attributes:
        quantity: the quantity of the wire.
        unit: the unit in which it is printed.
        fahrenheit: its line says °F.
    """

    quantity: str
    unit: Unit
    fahrenheit: bool = False


Binding = Mapping[Slot, Bound]


def bind(
    lines: Sequence[Printed],
    facts: Sequence[Fact],
    said: Mapping[str, int] | None = None,
    progress: Progress = silent,
) -> Binding:
    """Which numbers of the lines are which quantity.

    Args:
        lines: the lines that were printed.
        facts: what the wire gave.
        said: by quantity the number in its line, from 1, as a person says; None to find out.
        progress: called now and then.

    Raises:
        InputError: no line has a number that fits.
    """
    quantities = [name for name in QUANTITIES if any(name in fact.truths for fact in facts)]
    if said:
        found = _as_said(lines, said)
    else:
        found = {}
        alike: dict[str, list[Printed]] = {}
        for line in lines:
            alike.setdefault(line.shape, []).append(line)
        shapes = list(shapes_of(lines))
        for number, (shape, count) in enumerate(shapes):
            own = part(progress, number / len(shapes), (number + 1) / len(shapes))
            own(0.0)
            found |= _bind_shape(shape, count, alike[shape], facts, quantities, own)
    if not found:
        wanted = " or ".join(quantities) or "reading"
        raise InputError(
            f"no number in the printed lines can be taken for a {wanted}",
            "say which is which: --bind temperature=2, the second number of a line",
        )
    return found


def _as_said(lines: Sequence[Printed], said: Mapping[str, int]) -> dict[Slot, Bound]:
    found = {}
    for line in lines:
        for quantity, place in said.items():
            if 1 <= place <= len(line.numbers):
                number = line.numbers[place - 1]
                found[(line.shape, place - 1)] = _bound(quantity, number, [line], place - 1, ())
    return found


def _bind_shape(
    shape: str,
    count: int,
    lines: Sequence[Printed],
    facts: Sequence[Fact],
    quantities: Sequence[str],
    progress: Progress,
) -> dict[Slot, Bound]:
    """By words where they say it; else the way in which most numbers fit what the wire gave."""
    first = lines[0].numbers
    labelled: dict[str, list[int]] = {
        name: [at for at in range(count) if _says(first[at], name)] for name in quantities
    }
    taken = {at for rows in labelled.values() for at in rows}
    open_names = [name for name in quantities if not labelled[name]]
    free = [at for at in range(count) if at not in taken and not _is_time(lines, at)]
    found: dict[Slot, Bound] = {}
    for name, rows in labelled.items():
        kept = rows if len(rows) == 1 or _many_devices(facts) else rows[:1]
        for at in kept:
            found[(shape, at)] = _bound(name, first[at], lines, at, facts)
    if open_names and free:
        for at, bound in _best(lines, free, open_names, facts, progress):
            found[(shape, at)] = bound
    return found


def _best(
    lines: Sequence[Printed],
    free: Sequence[int],
    names: Sequence[str],
    facts: Sequence[Fact],
    progress: Progress,
) -> list[tuple[int, Bound]]:
    """The places for quantities at which most numbers fit."""
    tried: dict[tuple[str, int], tuple[Bound, float]] = {}
    for name in names:
        for at in free:
            progress(0.0)
            bound = _bound(name, lines[0].numbers[at], lines, at, facts)
            tried[name, at] = bound, _fit(lines, at, bound, facts)
    best: list[tuple[int, Bound]] = []
    most = 0.0
    for places in permutations(free, min(len(names), len(free))):
        pairs = list(zip(names, places, strict=False))
        fits = [tried[pair][1] for pair in pairs]
        if sum(fits) > most and max(fits) >= LEAST_FIT:
            fitting = zip(pairs, fits, strict=True)
            best = [(pair[1], tried[pair][0]) for pair, fit in fitting if fit >= LEAST_FIT]
            most = sum(fits)
    return best


def _many_devices(facts: Sequence[Fact]) -> bool:
    return len({fact.device for fact in facts}) > 1


def _says(number: Number, quantity: str) -> bool:
    """The words beside a number name a quantity: before it, or right after it."""
    pattern = WORDS.get(quantity)
    if pattern is None:
        return False
    before = re.split(r"[,;|\t]", number.before)[-1]
    behind = re.split(r"[,;|\t]", number.after)[0][:4]
    if pattern.search(before) and not re.match(r"\s*%", before):
        return True
    return bool(re.match(r"\s*(?:°|%|[cCfF]\b|cm\b|mm\b|m\b|in\b|inch\b|deg)", behind)) and bool(
        pattern.search(behind)
    )


def _is_time(lines: Sequence[Printed], at: int) -> bool:
    """Numbers that grow from line to line, and are no reading's."""
    values = [line.numbers[at].value for line in lines[:TRIED]]
    known = [value for value in values if value is not None]
    if len(known) < 4 or len(known) < len(values):
        return False
    return all(later > value for value, later in pairwise(known))


def _bound(
    quantity: str, number: Number, lines: Sequence[Printed], at: int, facts: Sequence[Fact]
) -> Bound:
    units = UNITS[QUANTITIES[quantity]] if quantity in QUANTITIES else (Unit(""),)
    if quantity == "temperature":
        text = number.before + " " + number.after[:4]
        says_f = bool(FAHRENHEIT.search(number.after[:4]) or "fahrenheit" in text.lower())
        return Bound(quantity, units[1] if says_f else units[0], says_f)
    if len(units) == 1:
        return Bound(quantity, units[0])
    named = LENGTH.match(number.after) or re.search(r"\b(cm|mm|m|in)\b\W*$", number.before)
    if named is not None:
        symbol = "in" if named[1].lower() == "inch" else named[1].lower()
        return Bound(quantity, next(unit for unit in units if unit.symbol == symbol))
    fits = [(_fit(lines, at, Bound(quantity, unit), facts), unit) for unit in units]
    return Bound(quantity, max(fits, key=lambda pair: pair[0])[1])


def _fit(lines: Sequence[Printed], at: int, bound: Bound, facts: Sequence[Fact]) -> float:
    """Share of lines whose number can be what an exchange nearby gave, a mistake counting half."""
    truths = [fact.truths[bound.quantity] for fact in facts if bound.quantity in fact.truths]
    rows = lines[:TRIED]
    if not truths or not rows:
        return 0.0
    total, ratio = 0.0, len(truths) / max(len(lines), 1)
    for place, line in enumerate(rows):
        if line.numbers[at].value is None:
            continue
        middle = round(place * ratio) if ratio > 1.5 else place
        meant = Meant(bound.quantity, bound.unit, line.numbers[at], bound.fahrenheit)
        total += max(
            _weights(meant, truths[max(middle - NEARBY, 0) : middle + NEARBY + 1]), default=0.0
        )
    return total / len(rows)


def _weights(meant: Meant, truths: Sequence[Truth]) -> Iterator[float]:
    for truth in truths:
        codes = codes_of(meant, truth, None)
        yield 1.0 if "same" in codes else 0.5 if codes else 0.0
