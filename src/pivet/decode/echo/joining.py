"""Highs of a line with short gaps in them, put together again."""

from typing import Any

import numpy as np
import numpy.typing as npt

from pivet.decode.echo import layout
from pivet.decode.pairs import Pulses
from pivet.frozen import FrozenObject
from pivet.signal.trace import Int64Array

NONE = np.empty(0, dtype=np.int64)


class Highs(FrozenObject):
    """Highs of a line, in order of time.

    Attributes:
        start_ns: when each begins, int64 (n,), ns.
        width_ns: from its first rise to its last fall, int64 (n,), ns.
        broken: there are gaps in it, bool (n,).
        ragged_ns: how much of it, at its ends, may be pulses of another origin, int64 (n,), ns.
        clipped: the first began before the capture.
    """

    start_ns: Int64Array
    width_ns: Int64Array
    broken: npt.NDArray[np.bool_]
    ragged_ns: Int64Array
    clipped: bool = False

    @property
    def size(self) -> int:
        """Number of highs."""
        return int(self.start_ns.size)

    @property
    def end_ns(self) -> Int64Array:
        """When each ends, int64 (n,), ns."""
        return self.start_ns + self.width_ns

    def part(self, first: int, last: int | None = None) -> "Highs":
        """The highs ``first`` up to ``last``.

        Args:
            first: index of the first.
            last: one past the index of the last.
        """
        rows = slice(first, last)
        return self._rows(rows, self.clipped and first == 0)

    def chosen(self, mask: npt.NDArray[np.bool_]) -> "Highs":
        """Some of them.

        Args:
            mask: which, bool (n,).
        """
        return self._rows(mask, False)

    def taken(self, indices: Int64Array) -> "Highs":
        """Some of them, in an order.

        Args:
            indices: of those chosen, int64 (k,).
        """
        return self._rows(indices, False)

    def _rows(self, rows: "slice | npt.NDArray[Any]", clipped: bool) -> "Highs":
        return Highs(
            self.start_ns[rows],
            self.width_ns[rows],
            self.broken[rows],
            self.ragged_ns[rows],
            clipped,
        )

    def then(self, other: "Highs") -> "Highs":
        """These highs and those that follow.

        Args:
            other: what follows it.
        """
        if not self.size:
            return other
        if not other.size:
            return self
        return Highs(
            np.concatenate((self.start_ns, other.start_ns)),
            np.concatenate((self.width_ns, other.width_ns)),
            np.concatenate((self.broken, other.broken)),
            np.concatenate((self.ragged_ns, other.ragged_ns)),
            self.clipped,
        )


def whole(pulses: Pulses) -> Highs:
    """Highs without gaps.

    Args:
        pulses: the pulses of one line.
    """
    size = pulses.size
    return Highs(
        pulses.start_ns,
        pulses.width_ns,
        np.zeros(size, dtype=bool),
        np.zeros(size, dtype=np.int64),
        pulses.clipped and size > 0,
    )


EMPTY = whole(Pulses(NONE, NONE))


class Joiner:
    """Joins highs of a stream between which the line is low for a moment only."""

    def __init__(self) -> None:
        self._held = Pulses(NONE, NONE)

    @property
    def open_ns(self) -> int | None:
        """Start of a high that may go on; None while there is none."""
        return int(self._held.start_ns[0]) if self._held.size else None

    def feed(self, pulses: Pulses, low_until_ns: int) -> Highs:
        """Takes further pulses; gives the highs that are over.

        Args:
            pulses: the pulses that are over.
            low_until_ns: up to here the line is low after the last of them, ns.
        """
        every = self._held.then(pulses)
        if not every.size:
            return EMPTY
        apart = every.start_ns[1:] - every.end_ns[:-1] > layout.GAP_NS
        first = np.concatenate(([0], np.flatnonzero(apart) + 1))
        if low_until_ns - int(every.end_ns[-1]) <= layout.GAP_NS:
            self._held = every.part(int(first[-1]))
            every, first = every.part(0, int(first[-1])), first[:-1]
        else:
            self._held = Pulses(NONE, NONE)
        return _joined(every, first) if first.size < every.size else whole(every)

    def finish(self) -> Highs:
        """Gives what was held back."""
        held, self._held = self._held, Pulses(NONE, NONE)
        return _joined(held, np.array([0])) if held.size else EMPTY


def _joined(parts: Pulses, first: Int64Array) -> Highs:
    """Highs whose parts begin at some indices."""
    last = np.append(first[1:], parts.size) - 1
    start, end = parts.start_ns[first], parts.end_ns[last]
    sure = parts.width_ns > layout.SURE_NS
    far = np.iinfo(np.int64).max
    core_start = np.minimum.reduceat(np.where(sure, parts.start_ns, far), first)
    core_end = np.maximum.reduceat(np.where(sure, parts.end_ns, -far), first)
    width = end - start
    longest = np.maximum.reduceat(parts.width_ns, first)
    ragged = np.where(core_start == far, width - longest, (core_start - start) + (end - core_end))
    broken = last > first
    return Highs(
        start, width, broken, np.where(broken, ragged, 0), parts.clipped and first.size > 0
    )
