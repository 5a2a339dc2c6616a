"""What was told of a live wire, and what a further look at it adds."""

import numpy as np
import numpy.typing as npt

from pivet.captures.wire import Wire
from pivet.frozen import FrozenValue


class WireNews(FrozenValue):
    """Numbers of exchanges, since listening began, from 0.

    Attributes:
        revised: told before, and something else is said of them now; with the verdict of before.
        new: not told before.
    """

    revised: list[tuple[int, int]]
    new: range


class ToldSoFar:
    """Keeps count of what was told, and how it looked then.

    Attributes:
        count: how many exchanges were told.
        last: the last look; None before the first.
    """

    def __init__(self) -> None:
        self.count = 0
        self.last: Wire | None = None
        self._aside: Wire | None = None

    def look(self, now: Wire) -> WireNews:
        """Takes a further look; all that it shows counts as told.

        Args:
            now: the wire with its latest exchanges.
        """
        assert now.first <= self.count, f"exchanges from {self.count} on were never told"
        revised = self._changed(self.last, now, 0)
        if self.last is not None:
            revised += self._changed(self._aside, now, self.last.end)
        new = range(self.count, now.end)
        # What stood at rest and goes on is not in sight for a while: it may be back.
        if now.end >= self.count:
            self._aside = None
        elif self.last is not None and self.last.end >= self.count:
            self._aside = self.last
        self.last, self.count = now, max(self.count, now.end)
        return WireNews(revised, new)

    def _changed(self, before: Wire | None, now: Wire, start: int) -> list[tuple[int, int]]:
        """Of which exchanges from a number on something else is said than before."""
        if before is None:
            return []
        start, end = max(before.first, now.first, start), min(before.end, now.end)
        if start >= end:
            return []
        numbers = np.flatnonzero(_differs(before, now, start, end)) + start
        verdicts = before.verdicts[numbers - before.first]
        return list(zip(numbers.tolist(), verdicts.tolist(), strict=True))

    def take_back(self) -> list[tuple[int, int]]:
        """Nothing stands open any more: what is not there was no exchange after all."""
        wire, self._aside = self._aside, None
        if wire is None or self.last is None:
            return []
        gone = range(self.last.end, self.count)
        self.count = self.last.end
        return [(number, int(wire.verdicts[number - wire.first])) for number in gone]

    def choose(self, shown: Wire | None) -> None:
        """The last look is judged by other choices: that is no news.

        Args:
            shown: the last look; None when there was none.
        """
        self.last = shown


def _differs(before: Wire, now: Wire, first: int, last: int) -> npt.NDArray[np.bool_]:
    """Of which exchanges something else is said, bool (last - first,)."""
    differs = np.zeros(last - first, dtype=np.bool_)
    for one, other in zip(_states(before), _states(now), strict=True):
        here = one[..., first - before.first : last - before.first]
        there = other[..., first - now.first : last - now.first]
        unlike = (here != there) & ((here == here) | (there == there))  # NaN is like NaN.
        differs |= unlike if unlike.ndim == 1 else unlike.any(axis=tuple(range(unlike.ndim - 1)))
    return differs


def _states(wire: Wire) -> list[npt.NDArray[np.generic]]:
    exchanges = wire.exchanges
    ends = np.searchsorted(exchanges.spike_start_ns, exchanges.end_ns)
    starts = np.searchsorted(exchanges.spike_start_ns, exchanges.start_ns)
    return [*wire.family.states(exchanges, wire.judged), ends - starts]
