"""Whether a sensor agrees with a reference: offset, spread, drift, outliers, stated accuracy."""

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject
from pivet.readings import statistics
from pivet.readings.statistics import MAD_TO_SD
from pivet.signal.trace import BoolArray

FloatArray = npt.NDArray[np.float64]
Int64Array = npt.NDArray[np.int64]

OUTLIER = 4.0
"""A difference so many robust standard deviations off the median is an outlier."""


BLOCKS = 40
"""Neighbouring readings are alike; drift and its error come from this many means."""

LEAST_FOR_DRIFT = 8
LEAST_SHARE = 0.95
"""Inside the stated accuracy: at least this many of the differences are."""

HOUR_NS = 3_600_000_000_000
LEAST_SPAN_NS = HOUR_NS // 2
"""A change an hour is not told from less than half of one."""

ROUNDED = 1e-9
"""Sums are not exact: means that differ by a smaller share are the same."""

DRIFT_IS = 2.0
"""A drift is told when it is so many standard errors from none."""


class Pairs(FrozenObject):
    """Readings and what the reference said at the same times.

    Attributes:
        times_ns: int64 (n,).
        values, reference: float64 (n,), in the same unit.
    """

    times_ns: Int64Array
    values: FloatArray
    reference: FloatArray

    def __len__(self) -> int:
        return int(self.times_ns.size)

    @property
    def difference(self) -> FloatArray:
        """Value minus reference, float64 (n,)."""
        found: FloatArray = self.values - self.reference
        return found


class Agreement(FrozenObject):
    """How a sensor agrees with its reference; figures in the unit of the readings.

    Attributes:
        pairs: what was compared.
        outlier: which of them are outliers, bool (n,).
        offset: mean difference without outliers.
        offset_error: its standard error.
        spread: standard deviation of the differences without outliers.
        drift_per_hour, drift_error: change of the difference; None when there is too little.
        allowed: what both accuracies allow together; None when one of them is not stated.
        inside_share: share of the differences within ``allowed``; likewise.
    """

    pairs: Pairs
    outlier: BoolArray
    offset: float
    offset_error: float
    spread: float
    drift_per_hour: float | None
    drift_error: float | None
    allowed: float | None
    inside_share: float | None

    @property
    def inside(self) -> bool | None:
        """The difference lies inside the stated accuracies; None when one is not stated."""
        return None if self.inside_share is None else self.inside_share >= LEAST_SHARE

    @property
    def drifts(self) -> bool:
        """The difference changes by more than chance explains."""
        if self.drift_per_hour is None or self.drift_error is None:
            return False
        return abs(self.drift_per_hour) > DRIFT_IS * self.drift_error


def paired(
    times_ns: Int64Array,
    values: FloatArray,
    reference_ns: Int64Array,
    reference: FloatArray,
    reach_ns: int | None = None,
) -> Pairs:
    """Each value with the reference at its time, between two of its readings on a line.

    A value has no partner where the reference says nothing on one side within its reach.

    Args:
        times_ns: rising, int64 (n,).
        values: float64 (n,); NaN where a reading failed.
        reference_ns: rising, int64 (m,).
        reference: float64 (m,), likewise; a single one counts for all times.
        reach_ns: how far a reference value counts; None takes three of its usual intervals.
    """
    given, known = ~np.isnan(values), ~np.isnan(reference)
    times_ns, values = times_ns[given], values[given]
    reference_ns, reference = reference_ns[known], reference[known]
    if not reference.size or not values.size:
        nothing = np.empty(0)
        return Pairs(np.empty(0, dtype=np.int64), nothing, nothing)
    if reference.size == 1:
        return Pairs(times_ns, values, np.full(values.size, reference[0]))
    if reach_ns is None:
        own = statistics.reach_ns(times_ns) if times_ns.size > 1 else 0.0
        reach_ns = round(max(statistics.reach_ns(reference_ns), own))
    after = np.clip(np.searchsorted(reference_ns, times_ns), 1, reference_ns.size - 1)
    before_ns, after_ns = reference_ns[after - 1], reference_ns[after]
    since_ns, until_ns = times_ns - before_ns, after_ns - times_ns
    near = np.maximum(since_ns, until_ns) <= reach_ns
    # On a value of the reference itself nothing is needed on the other side.
    near |= np.minimum(since_ns, until_ns) == 0
    near &= np.minimum(since_ns, until_ns) >= 0
    share = (times_ns - before_ns) / np.maximum(after_ns - before_ns, 1)
    between = reference[after - 1] * (1 - share) + reference[after] * share
    return Pairs(times_ns[near], values[near], between[near])


def agreement(pairs: Pairs, step: float = 0.0, allowed: float | None = None) -> Agreement | None:
    """The figures; None when there is nothing to compare.

    Args:
        pairs: what is compared.
        step: smallest step of the readings: below it nothing is an outlier.
        allowed: what both stated accuracies allow together; None when one is not stated.
    """
    if not len(pairs):
        return None
    difference = pairs.difference
    away = np.abs(difference - np.median(difference))
    spread = max(MAD_TO_SD * float(np.median(away)), step)
    outlier = away > OUTLIER * spread
    if not spread:
        outlier = np.zeros(difference.size, dtype=bool)
    kept = difference[~outlier]
    slope, slope_error, mean_error = _drift(pairs.times_ns[~outlier], kept)
    inside = None if allowed is None else float(np.mean(np.abs(difference) <= allowed))
    return Agreement(
        pairs=pairs,
        outlier=outlier,
        offset=float(kept.mean()),
        offset_error=mean_error,
        spread=float(kept.std(ddof=1)) if kept.size > 1 else float("nan"),
        drift_per_hour=slope,
        drift_error=slope_error,
        allowed=allowed,
        inside_share=inside,
    )


def _drift(
    times_ns: Int64Array, difference: FloatArray
) -> tuple[float | None, float | None, float]:
    """Slope per hour and its error, and the error of the mean, from means of blocks."""
    blocks = min(BLOCKS, difference.size // 2)
    if blocks < LEAST_FOR_DRIFT:
        alone = difference.std(ddof=1) / np.sqrt(difference.size) if difference.size > 1 else np.nan
        return None, None, float(alone)
    edges = np.linspace(0, difference.size, blocks + 1).astype(np.int64)[:-1]
    sizes = np.diff(np.append(edges, difference.size))
    hours = np.add.reduceat(times_ns / HOUR_NS, edges) / sizes
    means = np.add.reduceat(difference, edges) / sizes
    mean_error = float(means.std(ddof=1) / np.sqrt(blocks))
    hours -= hours.mean()
    room = float(np.sum(hours**2))
    if room <= 0 or times_ns[-1] - times_ns[0] < LEAST_SPAN_NS:
        return None, None, mean_error
    away = means - means.mean()
    away[np.abs(away) < ROUNDED * np.abs(means).max()] = 0.0
    slope = float(np.sum(hours * away) / room)
    left = away - slope * hours
    error = float(np.sqrt(np.sum(left**2) / (blocks - 2) / room))
    return slope, error, mean_error
