"""From edges to pulses of one level: each by its start and its length."""

import numpy as np

from pivet.frozen import FrozenObject
from pivet.signal.trace import Int64Array, Level

NONE = np.empty(0, dtype=np.int64)


class Pulses(FrozenObject):
    """Pulses of one level on a line, in order of time.

    Attributes:
        start_ns: when each begins, int64 (n,), ns.
        width_ns: how long it lasts, int64 (n,), ns.
        clipped: the first began before the capture.
    """

    start_ns: Int64Array
    width_ns: Int64Array
    clipped: bool = False

    @property
    def size(self) -> int:
        """Number of pulses."""
        return int(self.start_ns.size)

    @property
    def end_ns(self) -> Int64Array:
        """When each ends, int64 (n,), ns."""
        return self.start_ns + self.width_ns

    def part(self, first: int, last: int | None = None) -> "Pulses":
        """The pulses ``first`` up to ``last``.

        Args:
            first: index of the first.
            last: one past the index of the last.
        """
        clipped = self.clipped and first == 0
        return Pulses(self.start_ns[first:last], self.width_ns[first:last], clipped)

    def then(self, other: "Pulses") -> "Pulses":
        """These pulses and those that follow.

        Args:
            other: what follows it.
        """
        if not self.size:
            return other
        if not other.size:
            return self
        return Pulses(
            np.concatenate((self.start_ns, other.start_ns)),
            np.concatenate((self.width_ns, other.width_ns)),
            self.clipped,
        )


EMPTY = Pulses(NONE, NONE)


class Pairs:
    """Pairs the edges of a stream: from one level and back is a pulse.

    Args:
        level: of the pulses.
        initial: level of the line at ``start_ns``.
        start_ns: from when on the line is known, ns.
    """

    def __init__(self, level: Level, initial: Level, start_ns: int) -> None:
        self._clipped = initial is level
        self._open_ns: int | None = start_ns if self._clipped else None

    @property
    def open_ns(self) -> int | None:
        """Start of a pulse that is not over; None while there is none."""
        return self._open_ns

    @property
    def open_is_clipped(self) -> bool:
        """Whether that pulse began before the capture."""
        return self._clipped

    def feed(self, edges_ns: Int64Array) -> Pulses:
        """Takes further edges; gives the pulses that are over.

        Args:
            edges_ns: when they were, int64 (n,), ns, rising.
        """
        if not edges_ns.size:
            return EMPTY
        if self._open_ns is not None:
            edges_ns = np.concatenate(([self._open_ns], edges_ns))
        whole = edges_ns.size // 2 * 2
        self._open_ns = int(edges_ns[-1]) if edges_ns.size > whole else None
        clipped, self._clipped = self._clipped, False
        starts, ends = edges_ns[0:whole:2], edges_ns[1:whole:2]
        return Pulses(starts, ends - starts, clipped)
