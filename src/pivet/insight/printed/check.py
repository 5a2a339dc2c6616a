"""Printed values held against the wire: what is the same, what is not, and why."""

from collections import Counter
from collections.abc import Mapping, Sequence

from pivet.errors import InputError
from pivet.frozen import FrozenObject, FrozenValue
from pivet.insight.printed.align import Aligner, Beside, Entry, entries_of
from pivet.insight.printed.binding import Binding, bind
from pivet.insight.printed.classify import SAME, STALE
from pivet.insight.printed.facts import Fact
from pivet.insight.printed.lines import Printed, printed_lines
from pivet.insight.printed.times import by_time
from pivet.progress import Progress, part, silent

CODES = {
    "sign-as-magnitude": "the sign bit is taken for a part of the number",
    "twos-complement": "sign and magnitude are taken for two's complement",
    "bytes-swapped": "high and low byte are exchanged",
    "whole-part-only": "only the whole part is printed",
    "tenths-lost": "the tenths are lost",
    "other-type": "the bytes are read as those of another type",
    "fahrenheit": "°F are printed for °C, or the other way",
    "index-swapped": "the value is another device's",
    "bits-not-masked": "bits are used that mean nothing at this resolution",
    "one-way-distance": "the distance is there and back: half of it is forgotten",
    "fixed-speed": "a fixed speed of sound is used, not that of this air",
    "rounded": "the value is rounded",
}
"""Causes, and each in a few words."""

MISSING, INVENTED, UNEXPLAINED, NOTHING = "missing", "invented", "unexplained", "nothing"


class Pair(FrozenValue):
    """A printed entry and an exchange, or one of them alone.

    Attributes:
        entry: what was printed; None where nothing was.
        fact: what the wire gave; None where there is no exchange for it.
        code: ``same``, ``stale``, ``missing``, ``invented``, ``unexplained``, ``nothing`` (neither
            gives a reading), or a cause.
        quantity: the one that shows it; empty where all do.
        line: the arithmetic that goes wrong; may be empty.
    """

    entry: Entry | None
    fact: Fact | None
    code: str
    quantity: str = ""
    line: str = ""

    @property
    def printed(self) -> str:
        """The number as it was printed, or the whole line."""
        if self.entry is None:
            return ""
        meant = self.entry.values.get(self.quantity)
        return meant.number.text if meant is not None else self.entry.line.text

    @property
    def wire(self) -> str:
        """What the wire gave, as people read it."""
        if self.fact is None or not self.fact.truths:
            return ""
        truth = self.fact.truths.get(self.quantity)
        if truth is not None:
            return truth.text
        return ", ".join(one.text for one in self.fact.truths.values())


class Crosscheck(FrozenObject):
    """All that was printed beside all that the wire gave.

    Attributes:
        pairs: the pairs, in order.
        binding: which numbers were taken for which quantity.
        lines: the lines that were printed.
    """

    pairs: tuple[Pair, ...]
    binding: Binding
    lines: tuple[Printed, ...]

    def count(self, code: str) -> int:
        """How many pairs have a code.

        Args:
            code: as in ``Pair``.
        """
        return sum(pair.code == code for pair in self.pairs)

    @property
    def paired(self) -> int:
        """Entries beside an exchange that gave a reading, or that repeat the one before."""
        alone = (MISSING, INVENTED, NOTHING)
        return sum(pair.entry is not None and pair.code not in alone for pair in self.pairs)

    @property
    def explained(self) -> list[tuple[str, int, Pair]]:
        """Causes, how often each, and an example; the commonest first."""
        counts = Counter(pair.code for pair in self.pairs if pair.code in CODES)
        first = {pair.code: pair for pair in reversed(self.pairs)}
        return [(code, number, first[code]) for code, number in counts.most_common()]

    def as_json(self) -> dict[str, object]:
        """As docs/json.md has it."""
        return {
            "pairs": self.paired,
            "same": self.count(SAME),
            "stale": self.count(STALE),
            "missing": self.count(MISSING),
            "invented": self.count(INVENTED),
            "explained": [
                {"code": code, "count": number, "example": _example(pair)}
                for code, number, pair in self.explained
            ],
            "unexplained": self.count(UNEXPLAINED),
        }


def _example(pair: Pair) -> dict[str, object]:
    return {
        "printed": pair.printed,
        "wire": pair.wire,
        "line": None if pair.entry is None else pair.entry.line.number,
        "exchange": None if pair.fact is None else pair.fact.exchange,
        "quantity": pair.quantity,
        "arithmetic": pair.line,
    }


def crosscheck(
    facts: Sequence[Fact],
    text: str,
    said: Mapping[str, int] | None = None,
    progress: Progress = silent,
) -> Crosscheck:
    """Lays what was printed beside what the wire gave.

    Args:
        facts: what the exchanges of a wire gave, in order of time.
        text: the text of the console.
        said: by quantity the number in its line, from 1; None to find out.
        progress: called now and then.

    Raises:
        InputError: there is nothing to lay beside each other.
    """
    if not any(fact.truths for fact in facts):
        raise InputError(
            "the wire gave no reading", "take a capture in which some exchange is sound"
        )
    lines = printed_lines(text, part(progress, 0.0, 0.4))
    binding = bind(lines, facts, said, part(progress, 0.4, 0.7))
    single = max(len(fact.truths) for fact in facts) == 1
    entries = entries_of(lines, binding, single)
    aligner = Aligner(entries, facts, part(progress, 0.7, 1.0))
    beside = aligner.aligned(by_time(entries, facts, binding))
    return Crosscheck(tuple(_named(beside)), binding, tuple(lines))


def _named(beside: Sequence[Beside]) -> list[Pair]:
    """One code for each: where several fit, that which explains most of all that was printed."""
    order = _by_weight(beside)
    return [_pair(pair, order) for pair in beside]


def _by_weight(beside: Sequence[Beside]) -> dict[str, int]:
    """Rank of each code: causes that few others could explain come first, then the commonest."""
    sets = [
        frozenset(codes)
        for pair in beside
        if pair.entry is not None and pair.fact is not None
        for codes in pair.codes.values()
        if codes and SAME not in codes
    ]
    left, order = Counter(sets), dict[str, int]()
    while left:
        weight: Counter[str] = Counter()
        for codes, number in left.items():
            for code in codes:
                weight[code] += number
        best = max(weight, key=lambda code: (weight[code], code == STALE, code))
        order[best] = len(order)
        left = Counter({codes: number for codes, number in left.items() if best not in codes})
    return order


def _pair(beside: Beside, order: Mapping[str, int]) -> Pair:
    entry, fact = beside.entry, beside.fact
    if fact is None:
        return Pair(entry, None, NOTHING if entry is None or entry.is_nothing else INVENTED)
    if entry is None or entry.is_nothing:
        return Pair(entry, fact, MISSING if fact.truths else NOTHING)
    chosen: list[tuple[int, str, str, str]] = []
    for quantity, codes in beside.codes.items():
        if SAME in codes:
            continue
        if not codes:
            return Pair(entry, fact, UNEXPLAINED if fact.truths else INVENTED, quantity)
        code = min(codes, key=lambda one: order.get(one, len(order)))
        chosen.append((order.get(code, len(order)), code, quantity, codes[code]))
    if not chosen:
        return Pair(entry, fact, SAME)
    _, code, quantity, line = min(chosen)
    return Pair(entry, fact, code, quantity, line)
