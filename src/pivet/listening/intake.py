"""The lines of a live wire on their way into its decoder.

Pieces of several lines come in any order; what the decoder gets hangs only on what was heard,
not on how it came: a wire is known where all its lines are, and begins anew after a gap of any.
"""

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from pivet.frozen import FrozenObject, FrozenValue
from pivet.signal.trace import Int64Array, Level
from pivet.sources.source import Gap, Piece

NONE: Int64Array = np.empty(0, dtype=np.int64)

NEVER = -(1 << 62)
"""Before all time, ns."""


class Begins(FrozenValue):
    """The wire is known from here on.

    Attributes:
        at_ns: from when on, ns.
        levels: the levels of its lines there.
        missed: what is not known since it was known last; None when nothing was lost.
    """

    at_ns: int
    levels: tuple[Level, ...]
    missed: Gap | None


class Goes(FrozenObject):
    """The wire is known up to here.

    Attributes:
        edges: the edges of each line since the last, int64 (n,), ns.
        until_ns: up to when, ns.
    """

    edges: tuple[Int64Array, ...]
    until_ns: int


class Breaks(FrozenValue):
    """The wire is not known any further."""


@dataclass(slots=True)
class _Stretch:
    """A line from one gap to the next.

    Attributes:
        gap: before it.
        level: before the first edge that nobody took.
        until: the line is known up to here, ns.
        size: number of edges that nobody took.
    """

    gap: Gap
    level: Level
    until: int
    size: int = 0
    parts: list[Int64Array] = field(default_factory=list)

    @property
    def since(self) -> int:
        """The line is known from here, ns."""
        return self.gap.end_ns

    def add(self, piece: Piece) -> None:
        """Further edges."""
        if piece.edges_ns.size:
            self.parts.append(piece.edges_ns)
            self.size += piece.edges_ns.size
        self.until = max(piece.known_until_ns, self.until)

    def take(self, until_ns: int) -> Int64Array:
        """Gives the edges up to a moment."""
        if not self.parts:
            return NONE
        pending = np.concatenate(self.parts)
        count = int(np.searchsorted(pending, until_ns, side="right"))
        self.parts, self.size = [pending[count:]], pending.size - count
        self.level = Level(self.level ^ (count & 1))
        return pending[:count]


class Intake:
    """The lines of one wire.

    Args:
        names: the names of the lines.
    """

    def __init__(self, names: tuple[str, ...]) -> None:
        self.names = names
        self._lines: dict[str, deque[_Stretch]] = {name: deque() for name in names}
        self._until = NEVER
        self._running = False
        self._broken: list[Gap] = []

    def hear(self, piece: Piece) -> bool:
        """Takes a piece; whether it is of one of these lines.

        Args:
            piece: a piece of one line.
        """
        line = self._lines.get(piece.line)
        if line is None:
            return False
        if piece.gap is not None or not line:
            start = piece.known_until_ns
            gap = piece.gap or Gap(start, start, Level.HIGH, 0)
            if line:
                # What is known cannot become unknown again.
                last = line[-1]
                last.until = max(min(last.until, gap.start_ns), last.since, self._until)
            line.append(_Stretch(gap, gap.level, gap.end_ns))
        line[-1].add(piece)
        return True

    @property
    def waiting(self) -> int:
        """How many edges of the fullest line nobody took."""
        return max(sum(part.size for part in line) for line in self._lines.values())

    def level(self, name: str) -> Level:
        """A line's level before what waits; high while nobody knows.

        Args:
            name: the name of the line.
        """
        line = self._lines[name]
        return line[0].level if line else Level.HIGH

    def news(self) -> Iterator[Begins | Goes | Breaks]:
        """What the decoder is to do now, in order of time."""
        while all(self._lines.values()):
            heads = [line[0] for line in self._lines.values()]
            until = min(head.until for head in heads)
            over = [line for line in self._lines.values() if len(line) > 1]
            over = [line for line in over if line[0].until == until]
            if not self._running and until >= max(head.since for head in heads):
                yield self._begin(heads)
            if self._running:
                if until >= self._until:
                    self._until = until
                    yield Goes(tuple(head.take(until) for head in heads), until)
                if over:
                    self._running = False
                    yield Breaks()
            if not over:
                return
            for line in over:
                line.popleft()
                self._broken.append(line[0].gap)

    def _begin(self, heads: list[_Stretch]) -> Begins:
        start = max(self._until, *(head.since for head in heads))
        for head in heads:
            head.take(start - 1)
        told = [gap for gap in self._broken if gap.why]
        missed = None
        if told and self._until > NEVER:
            lost = [gap.lost for gap in told]
            total = None if None in lost else sum(count for count in lost if count is not None)
            missed = Gap(min(self._until, start), start, heads[-1].level, total, told[0].why)
        self._running, self._until, self._broken = True, start, []
        return Begins(start, tuple(head.level for head in heads), missed)
