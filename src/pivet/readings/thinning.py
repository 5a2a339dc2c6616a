"""Thinning: what of a million values can be seen on a screen a thousand points wide."""

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject
from pivet.readings.statistics import usual_interval_ns

FloatArray = npt.NDArray[np.float64]
Int64Array = npt.NDArray[np.int64]

BREAK = 5.0
"""A line is not drawn over a time so many usual intervals long."""

BLOCK = 32
"""How many values are taken together once, for looking at all of a long series."""

AROUND = 16
"""So many rows before and behind a part tell, too, how often rows come: in a hole stand none."""

FEW = 3
"""With fewer values a column than this nothing is thinned."""


class Thinned(FrozenObject):
    """What is drawn.

    Attributes:
        times_ns: int64 (k,).
        values: float64 (k,); NaN where the line is broken.
    """

    times_ns: Int64Array
    values: FloatArray


def thinned(
    times_ns: Int64Array, values: FloatArray, from_ns: int, to_ns: int, columns: int
) -> Thinned:
    """A part of a series, thinned to the least and the largest value of each column.

    Args:
        times_ns: rising, int64 (n,).
        values: float64 (n,); NaN where a reading failed.
        from_ns: beginning of the part; the value before it is in it too.
        to_ns: its end, likewise.
        columns: how many points stand side by side.
    """
    first = max(int(np.searchsorted(times_ns, from_ns)) - 1, 0)
    last = min(int(np.searchsorted(times_ns, to_ns, side="right")) + 1, times_ns.size)
    usual = usual_interval_ns(times_ns[max(first - AROUND, 0) : last + AROUND])
    times_ns, values = times_ns[first:last], values[first:last]
    if times_ns.size <= FEW * columns:
        return _broken(times_ns, values, BREAK * usual)
    # Columns of equally many rows: their borders need no search, and rows come evenly mostly.
    size = -(-times_ns.size // columns)
    starts = np.arange(0, times_ns.size, size)
    low = np.fmin.reduceat(values, starts)
    high = np.fmax.reduceat(values, starts)
    middle = times_ns[np.minimum(starts + size // 2, times_ns.size - 1)]
    pairs = np.empty(2 * starts.size)
    pairs[0::2], pairs[1::2] = low, high
    return _broken(np.repeat(middle, 2), pairs, BREAK * usual * size)


def _broken(times_ns: Int64Array, values: FloatArray, longest_ns: float) -> Thinned:
    """With a break wherever nothing came for long."""
    holes = np.flatnonzero(np.diff(times_ns) > longest_ns) + 1
    if not holes.size:
        return Thinned(times_ns, values)
    return Thinned(np.insert(times_ns, holes, times_ns[holes]), np.insert(values, holes, np.nan))


class Thinner:
    """Thins the same series again and again, as one goes along it.

    Args:
        times_ns: rising, int64 (n,).
        values: float64 (n,); NaN where a reading failed.
    """

    def __init__(self, times_ns: Int64Array, values: FloatArray) -> None:
        self._times_ns, self._values = times_ns, values
        self._coarse: tuple[Int64Array, FloatArray, FloatArray] | None = None

    def part(self, from_ns: int, to_ns: int, columns: int) -> Thinned:
        """A part of it, see ``thinned``; where very many values stand side by side by blocks.

        Args:
            from_ns: left end of what is in sight, ns.
            to_ns: its right end, ns.
            columns: how many pixels wide.
        """
        first, last = np.searchsorted(self._times_ns, (from_ns, to_ns))
        if last - first <= 2 * BLOCK * columns:
            return thinned(self._times_ns, self._values, from_ns, to_ns, columns)
        if self._coarse is None:
            starts = np.arange(0, self._times_ns.size, BLOCK)
            low, high = (reduce.reduceat(self._values, starts) for reduce in (np.fmin, np.fmax))
            middle = self._times_ns[np.minimum(starts + BLOCK // 2, self._times_ns.size - 1)]
            self._coarse = middle, low, high
        times, low, high = self._coarse
        begin, end = max(int(first) // BLOCK - 1, 0), -(-int(last) // BLOCK) + 1
        times, low, high = times[begin:end], low[begin:end], high[begin:end]
        size = -(-times.size // columns)
        starts = np.arange(0, times.size, size)
        pairs = np.empty(2 * starts.size)
        pairs[0::2], pairs[1::2] = np.fmin.reduceat(low, starts), np.fmax.reduceat(high, starts)
        middle = times[np.minimum(starts + size // 2, times.size - 1)]
        return _broken(np.repeat(middle, 2), pairs, BREAK * usual_interval_ns(times) * size)


def ticks(times_ns: Int64Array, from_ns: int, to_ns: int, columns: int) -> Int64Array:
    """Which of some moments are seen: at most one a column, as rows of ``times_ns``.

    Args:
        times_ns: rising, int64 (n,), ns.
        from_ns: left end of what is in sight, ns.
        to_ns: its right end, ns.
        columns: how many pixels wide.
    """
    first = int(np.searchsorted(times_ns, from_ns))
    last = int(np.searchsorted(times_ns, to_ns, side="right"))
    if last - first <= columns:
        return np.arange(first, last)
    width = max((to_ns - from_ns) // columns, 1)
    column = (times_ns[first:last] - from_ns) // width
    return first + np.flatnonzero(np.diff(column, prepend=-1))
