"""How widths are spread: every width that occurs, and how often; nothing is put into bins."""

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject

Int64Array = npt.NDArray[np.int64]

COUNTED_NS = 1 << 22
"""Widths within so many ns of each other are counted; farther ones are sorted, more slowly."""


class Spread(FrozenObject):
    """Widths of some pulses, however many, as those that occur.

    Attributes:
        ns: the widths that occur, rising, int64 (k,), ns.
        counts: how often each occurs, int64 (k,), at least 1.
    """

    ns: Int64Array
    counts: Int64Array

    @property
    def total(self) -> int:
        """How many pulses there are."""
        return int(self.counts.sum())

    @property
    def up_to(self) -> Int64Array:
        """How many pulses are as long as each width or shorter, int64 (k,)."""
        found: Int64Array = np.cumsum(self.counts)
        return found

    def quantile_us(self, share: float) -> float:
        """The width below which this share of the pulses lies, µs, between two where it falls so.

        As ``numpy.quantile`` has it of all single widths; NaN without any.

        Args:
            share: from 0 to 1.
        """
        total = self.total
        if not total:
            return float("nan")
        at = share * (total - 1)
        low, up_to = int(at), self.up_to
        first, second = (
            float(self.ns[np.searchsorted(up_to, min(rank, total - 1), side="right")])
            for rank in (low, low + 1)
        )
        return (first + (at - low) * (second - first)) / 1000

    def taper(self) -> npt.NDArray[np.float64]:
        """How many pulses are at least as far out as each width, on its own side, float64 (k,).

        Counted from the nearer end: half of all in the middle, 1 at a single stray.
        """
        up_to = self.up_to
        from_top = up_to[-1] - up_to + self.counts if up_to.size else up_to
        found: npt.NDArray[np.float64] = np.minimum(up_to, from_top).astype(np.float64)
        return found


def spread_of(ns: npt.NDArray[np.integer]) -> Spread:
    """The spread of some widths.

    Args:
        ns: any number of them, in any order, ns.
    """
    if not ns.size:
        return Spread(np.empty(0, dtype=np.int64), np.empty(0, dtype=np.int64))
    least, most = int(ns.min()), int(ns.max())
    if most - least < COUNTED_NS:
        counts = np.bincount((ns - least).astype(np.intp, copy=False))
        there = np.flatnonzero(counts)
        return Spread(there.astype(np.int64) + least, counts[there].astype(np.int64))
    values, counts = np.unique(ns, return_counts=True)
    return Spread(values.astype(np.int64), counts.astype(np.int64))
