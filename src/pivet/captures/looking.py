"""Looking at lines: decoded by each family, as they are or turned over, one by one or in pairs."""

from collections.abc import Iterator, Mapping, Sequence
from itertools import permutations

from pivet.captures.decoding import decode_lines
from pivet.decode.interface import Exchanges
from pivet.families.family import AnyFamily
from pivet.frozen import FrozenObject
from pivet.judge.judgement import Likeness
from pivet.progress import Progress, each, part, silent
from pivet.signal.trace import Level, Line, Trace

LOOK = 1 << 15
"""This many edges show what a line is, if they look like an answer."""

MOST_LOOKED_AT = 64
"""Of so many lines that nobody claims it is tried whether they are recorded inverted."""

MOST_PAIRED, MOST_TURNED = 16, 5
"""Of more lines that nobody claims no pairs are tried, as they are or turned over."""

TURNED = {1: ((True,),), 2: ((True, True), (False, True), (True, False))}
"""Which of so many lines are turned over, in the order in which it is tried."""

KNOWN = (Likeness.ANSWERED, Likeness.ASKED)
"""Lines that look so are a wire unless the person says otherwise."""


class Found(FrozenObject):
    """Decoded lines and how much they look like a wire of a family."""

    lines: tuple[Line, ...]
    family: AnyFamily
    likeness: Likeness
    exchanges: Exchanges

    @property
    def names(self) -> frozenset[str]:
        """Of its lines."""
        return frozenset(line.name for line in self.lines)


def names_of(found: Sequence[Found]) -> set[str]:
    """Names of all their lines.

    Args:
        found: wires that were found.
    """
    return {name for one in found for name in one.names}


def best_of(found: Sequence[Found]) -> Found:
    """The most alike; of equals that with precedence, or the first that has exchanges.

    Args:
        found: wires that were found.
    """

    def rank(row: Found) -> tuple[int, int, bool]:
        asked = row.likeness is Likeness.ASKED
        return row.likeness, row.family.precedence if asked else 0, not len(row.exchanges)

    return min(found, key=rank)


def is_part(row: Found, others: Sequence[Found]) -> bool:
    """Whether lines show only a share, or a copy, of what others show whole.

    Args:
        row: what was found on some lines.
        others: what was found on others.
    """
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


class Looker:
    """Looks at the lines of a trace.

    Args:
        trace: the trace they belong to.
        families: by which they are decoded.
    """

    def __init__(self, trace: Trace, families: Mapping[str, AnyFamily]) -> None:
        self._trace, self._families = trace, families

    def whole(
        self,
        family: AnyFamily,
        lines: tuple[Line, ...],
        progress: Progress = silent,
        most: int | None = None,
    ) -> Found:
        """Lines as one family decodes them, of their first edges if ``most`` is given.

        Args:
            family: that decodes and judges.
            lines: the lines of the wire.
            progress: called with the share done, 0 to 1.
            most: how many edges of each line; None for all.
        """
        exchanges = decode_lines(family, lines, self._trace, progress, most)
        likeness = family.likeness(exchanges, len(lines), self._trace.resolution_ns)
        return Found(lines, family, likeness, exchanges)

    def best(self, lines: tuple[Line, ...], progress: Progress) -> Found:
        """Lines as the family decodes them that they look like most.

        Args:
            lines: one, or trigger and echo.
            progress: called now and then.
        """
        able, found = list(self._able(len(lines))), list[Found]()
        share = 1 / len(able)
        for number, family in enumerate(able):
            own = part(progress, number * share, (number + 1) * share)
            found.append(self.whole(family, lines, own))
            # Nothing is more alike, and of equals the first counts.
            if found[-1].likeness is Likeness.ANSWERED and len(found[-1].exchanges):
                break
        return best_of(found)

    def single(self, line: Line, progress: Progress) -> Found:
        """One line: a look at its beginning first, which mostly settles the family.

        Args:
            line: with its edges.
            progress: called now and then.
        """
        if line.edges_ns.size > LOOK and len(self._families) > 1:
            answered = self._answered((line,))
            if answered is not None:
                return self.whole(answered.family, (line,), progress)
        return self.best((line,), progress)

    def pairs(self, free: Sequence[Line], progress: Progress) -> list[Found]:
        """Pairs of lines that make a wire; each line is used once.

        Args:
            free: lines that carry no wire yet.
            progress: called now and then.
        """
        found: list[Found] = []
        if not free or len(free) > MOST_PAIRED or not any(self._able(2)):
            return found
        for pair in permutations(free, 2):
            progress(0.0)
            if names_of(found).isdisjoint(line.name for line in pair):
                answered = self._answered(pair)
                if answered is not None:
                    found.append(self.whole(answered.family, pair))
        return found or self._unanswered(free)

    def turned(self, lines: tuple[Line, ...]) -> Found | None:
        """A look at lines of which some are turned over, if they carry answers then.

        Args:
            lines: the lines of a wire.
        """
        for over in TURNED[len(lines)]:
            pairs = zip(lines, over, strict=True)
            found = self._answered(
                tuple(line.turned_over() if turn else line for line, turn in pairs)
            )
            if found is not None:
                return found
        return None

    def all_turned(
        self, free: Sequence[Line], answered: Sequence[Found], progress: Progress
    ) -> list[Found]:
        """Looks at those of the lines that nobody claims that are wires once they are turned over.

        A simulator's driver of a wire that is found already is none.

        Args:
            free: lines that belong to no wire.
            answered: wires that were found.
            progress: called now and then.
        """
        found: list[Found] = []
        groups: list[tuple[Line, ...]] = [(line,) for line in free[:MOST_LOOKED_AT]]
        if 1 < len(free) <= MOST_TURNED and any(self._able(2)):
            groups += permutations(free, 2)
        for lines in each(groups, progress):
            if names_of(found).isdisjoint(line.name for line in lines):
                turned = self.turned(lines)
                if turned is not None and not is_part(turned, [turned, *answered]):
                    found.append(turned)
        return found

    def _able(self, count: int) -> Iterator[AnyFamily]:
        """The families of which a wire can have so many lines, each loaded when it is its turn."""
        return (family for family in self._families.values() if count in family.lines)

    def _answered(self, lines: tuple[Line, ...]) -> Found | None:
        """A look at lines as the first family decodes them whose answers they carry."""
        looks = (self.whole(family, lines, most=LOOK) for family in self._able(len(lines)))
        return next((look for look in looks if look.likeness is Likeness.ANSWERED), None)

    def _unanswered(self, free: Sequence[Line]) -> list[Found]:
        """A line that asks as one of a pair does, with the silent line that should answer."""
        quiet = [still for still in self._trace.lines if not still.edges_ns.size]
        quiet = [still for still in quiet if still.initial is Level.LOW]
        for family in self._able(2):
            answering = family.answering(quiet)
            if answering is not None:
                for line in free:
                    found = self.whole(family, (line, answering))
                    if found.likeness is Likeness.ASKED:
                        return [found]
        return []
