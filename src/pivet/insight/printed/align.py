"""Printed lines laid beside exchanges, in their order: which belongs to which."""

from collections.abc import Iterator, Mapping, Sequence

import msgspec

from pivet.frozen import FrozenValue
from pivet.insight.printed.binding import Binding
from pivet.insight.printed.classify import SAME, STALE, Meant, codes_of
from pivet.insight.printed.facts import Fact
from pivet.insight.printed.lines import TOLD, Printed
from pivet.progress import Progress, silent

AHEAD = 8
"""How many lines or exchanges may be passed over at once."""

STEPS = [
    (lines, total - lines)
    for total in range(1, 2 * AHEAD + 1)
    for lines in range(max(total - AHEAD, 0), min(total, AHEAD) + 1)
]
"""How many lines and exchanges are passed over, the fewest first."""

ALL_BUT = 0.9
"""Laid one beside the other, so large a share must fit for that to be the order."""


MOST_BETWEEN = 2
"""Lines of one exchange stand so near each other."""


class Entry(FrozenValue):
    """What a firmware printed of one exchange: a line, or lines that belong together.

    Attributes:
        line: the first of them.
        values: its numbers by quantity; empty where it says that something failed.
    """

    line: Printed
    values: dict[str, Meant] = msgspec.field(default_factory=dict)

    @property
    def is_nothing(self) -> bool:
        """It says that there is no reading."""
        return not self.values


def entries_of(lines: Sequence[Printed], binding: Binding, single: bool) -> list[Entry]:
    """What was printed, an entry an exchange.

    Args:
        lines: the lines that were printed.
        binding: of their numbers.
        single: an exchange gives one value only, so that each number is one.
    """
    found: list[Entry] = []
    for line in lines:
        rows = [
            Meant(bound.quantity, bound.unit, number, bound.fahrenheit)
            for at, number in enumerate(line.numbers)
            if (bound := binding.get((line.shape, at))) is not None
        ]
        if not rows:
            if line.failed:
                found.append(Entry(line))
            continue
        told = {meant.quantity: meant for meant in rows if meant.number.value is not None}
        if single:
            found += [
                Entry(line, {} if meant.number.value is None else {meant.quantity: meant})
                for meant in rows
            ]
        elif found and _goes_on(found[-1], line, told):
            found[-1].values.update(told)
        else:
            found.append(Entry(line, told))
    return found


def _goes_on(last: Entry, line: Printed, told: Mapping[str, Meant]) -> bool:
    """A line with one quantity goes on with the entry of a line right before it."""
    near = line.number - last.line.number <= MOST_BETWEEN
    return near and len(told) == 1 and len(last.values) == 1 and not told.keys() & last.values


Codes = dict[str, str]


class Beside(FrozenValue):
    """An entry beside an exchange.

    Attributes:
        entry: None for an exchange of which nothing was printed.
        fact: None for an entry of which the wire gave nothing.
        codes: what each quantity's number may be.
    """

    entry: Entry | None
    fact: Fact | None
    codes: dict[str, Codes] = msgspec.field(default_factory=dict)

    @property
    def rank(self) -> int:
        """2 the same (or nothing for nothing), 1 older or a known mistake, 0 neither."""
        if self.entry is None or self.fact is None:
            return 0
        if self.entry.is_nothing or not self.fact.truths:
            if self.entry.is_nothing and not self.fact.truths:
                return 2
            return 1 if self.codes and all(STALE in codes for codes in self.codes.values()) else 0
        if not all(self.codes.values()):
            return 0
        return 2 if all(SAME in codes for codes in self.codes.values()) else 1


class Aligner:
    """Lays entries beside exchanges.

    Args:
        entries: the entries, in the order in which they were printed.
        facts: what the wire gave, in order of time.
        progress: called now and then.
    """

    def __init__(
        self, entries: Sequence[Entry], facts: Sequence[Fact], progress: Progress = silent
    ) -> None:
        self._entries, self._facts, self._progress = entries, facts, progress
        self._before: list[Fact | None] = []
        last: dict[str, Fact] = {}
        for fact in facts:
            self._before.append(last.get(fact.device))
            if fact.truths:
                last[fact.device] = fact
        self._known: dict[tuple[int, int], Beside] = {}

    def beside(self, at: int, exchange: int) -> Beside:
        """An entry beside an exchange, by their places."""
        key = (at, exchange)
        if key not in self._known:
            self._known[key] = self._look(at, exchange)
        return self._known[key]

    def _look(self, at: int, exchange: int) -> Beside:
        if not len(self._known) % TOLD:
            self._progress(at / len(self._entries))
        entry, fact = self._entries[at], self._facts[exchange]
        older = self._before[exchange]
        codes: dict[str, Codes] = {}
        for quantity, meant in entry.values.items():
            before = older.truths.get(quantity) if older is not None else None
            truth = fact.truths.get(quantity)
            if truth is not None:
                codes[quantity] = codes_of(meant, truth, before)
            elif before is not None and SAME in codes_of(meant, before, None):
                codes[quantity] = {STALE: f"{before.text} is what the exchange before gave"}
            else:
                codes[quantity] = {}
        return Beside(entry, fact, codes)

    def aligned(self, after: Sequence[int] | None = None) -> list[Beside]:
        """Entries and exchanges, each once, in order.

        Args:
            after: the place of the exchange after which each entry was printed, rising; None where
                only their order is known.
        """
        if after is not None:
            return self._laid(after)
        return self._straight() or list(self._walked())

    def _laid(self, rows: Sequence[int]) -> list[Beside]:
        """Each entry beside one exchange, and the exchanges that are left alone."""
        own = {row: self.beside(at, row) for at, row in enumerate(rows)}
        return [own.get(at) or Beside(None, fact) for at, fact in enumerate(self._facts)]

    def _straight(self) -> list[Beside] | None:
        """One beside the other, where there are as many and nearly all fit so."""
        entries, facts = self._entries, self._facts
        every = list(range(len(facts)))
        for rows in (every, [at for at in every if facts[at].truths]):
            if not rows or len(rows) != len(entries):
                continue
            found = [self.beside(at, row) for at, row in enumerate(rows)]
            # The first has nothing before it that it could be an older one of.
            fits = sum(pair.rank > 0 for pair in found[1:]) + 1
            if fits >= ALL_BUT * len(found):
                return self._laid(rows)
        return None

    def _walked(self) -> Iterator[Beside]:
        at = exchange = 0
        entries, facts = self._entries, self._facts
        while at < len(entries) and exchange < len(facts):
            skip = self._skip(at, exchange)
            if skip is None:
                yield self.beside(at, exchange)
                at, exchange = at + 1, exchange + 1
                continue
            lines, passed = skip
            both = min(lines, passed)
            for step in range(both):
                yield self.beside(at + step, exchange + step)
            for step in range(both, lines):
                yield Beside(entries[at + step], None)
            for step in range(both, passed):
                yield Beside(None, facts[exchange + step])
            at, exchange = at + lines, exchange + passed
        for entry in entries[at:]:
            yield Beside(entry, None)
        for fact in facts[exchange:]:
            yield Beside(None, fact)

    def _rank(self, at: int, exchange: int) -> int:
        if at >= len(self._entries) or exchange >= len(self._facts):
            return 1 if at - len(self._entries) == exchange - len(self._facts) else 0
        return self.beside(at, exchange).rank

    def _skip(self, at: int, exchange: int) -> tuple[int, int] | None:
        """How many lines and exchanges are passed over here; None for none.

        As few as it takes for two neighbours to fit; where an older or mistaken value fits here and
        the next one too, nothing is passed over.
        """
        here, after = self._rank(at, exchange), self._rank(at + 1, exchange + 1)
        if here == 2 or (here and after and not self._better(at, exchange)):
            return None
        for lines, passed in STEPS:
            if not (at + lines < len(self._entries) and exchange + passed < len(self._facts)):
                continue
            first = self._rank(at + lines, exchange + passed)
            second = self._rank(at + lines + 1, exchange + passed + 1)
            if min(first, second) > 0 and first + second > max(here + after, 2):
                return None if lines == passed and here else (lines, passed)
        return None

    def _better(self, at: int, exchange: int) -> bool:
        """One line or one exchange on, three in a row are the same, and here they are not."""
        for lines, passed in ((1, 0), (0, 1)):
            after = [self._rank(at + lines + step, exchange + passed + step) for step in range(3)]
            now = [self._rank(at + step, exchange + step) for step in range(3)]
            if sum(after) == 6 and sum(now) < 5:
                return True
        return False
