"""The edges of a line that are in sight, as a line that alternates."""

import numpy as np

from pivet.listening.intake import NONE
from pivet.signal.trace import Int64Array, Level, Line


class Sight:
    """A line in sight.

    Args:
        level: where it begins.

    Attributes:
        level: after the last edge.
    """

    def __init__(self, level: Level) -> None:
        self._initial = self.level = level
        self._parts: list[Int64Array] = []

    def add(self, edges: Int64Array) -> None:
        """Further edges; one at the moment of the last undoes it.

        Args:
            edges: when they were, int64 (n,), ns, rising.
        """
        if edges.size and 0 < edges[0] <= self.end_ns:
            self._drop_last()
            edges = edges[1:]
        if edges.size:
            self._parts.append(edges)
            self.level = Level(self.level ^ (edges.size & 1))

    def jump(self, at_ns: int, level: Level) -> None:
        """After a gap the line stands at a level; the edge to it was not seen.

        Args:
            at_ns: where the gap ends.
            level: of the line from there on.
        """
        if level is not self.level:
            self.add(np.array([at_ns], dtype=np.int64))

    def _drop_last(self) -> None:
        self._parts = [self._whole()[:-1]]
        self.level = Level(self.level ^ 1)

    def _whole(self) -> Int64Array:
        """All edges in sight, int64 (n,), ns."""
        return np.concatenate(self._parts) if self._parts else NONE

    def thin(self, after_ns: int, most: int) -> None:
        """Forgets edges after a moment, when they are more than this many; the newest half stays.

        An even number goes, so what stays keeps its levels: the line looks quiet there.

        Args:
            after_ns: edges up to it stay.
            most: how many edges may stay.
        """
        edges = self._whole()
        first = int(np.searchsorted(edges, after_ns, side="right"))
        if edges.size - first > most:
            gone = (edges.size - first - most // 2) & ~1
            self._parts = [np.concatenate((edges[:first], edges[first + gone :]))]

    @property
    def end_ns(self) -> int:
        """The last edge, ns; 0 before there is one."""
        last = next((part for part in reversed(self._parts) if part.size), NONE)
        return int(last[-1]) if last.size else 0

    def cut(self, before_ns: int) -> None:
        """Forgets edges before a moment.

        Args:
            before_ns: the moment, ns.
        """
        edges = self._whole()
        count = int(np.searchsorted(edges, before_ns))
        self._initial = Level(self._initial ^ (count & 1))
        self._parts = [edges[count:].copy()]

    def line(self, name: str) -> Line:
        """What is in sight.

        Args:
            name: the name of the line.
        """
        edges = self._whole()
        self._parts = [edges]
        return Line(name, self._initial, edges)
