"""What a number of readings is like, in a few figures."""

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenValue

FloatArray = npt.NDArray[np.float64]
Int64Array = npt.NDArray[np.int64]

MAD_TO_SD = 1.4826
"""Median absolute deviation to standard deviation, for a normal distribution."""

SAMPLE = 4096
"""How many intervals of a long series tell its usual one."""


class Summary(FrozenValue):
    """Figures of a series, in its unit; NaN where there are too few values.

    Attributes:
        count: readings that were due.
        given: readings that came.
        least, most: smallest and largest.
        mean, median: in the middle.
        spread: standard deviation of a sample.
        low, high: 5 % are below, 5 % above.
    """

    count: int
    given: int
    least: float
    most: float
    mean: float
    median: float
    spread: float
    low: float
    high: float

    @property
    def failed(self) -> int:
        """Readings that did not come."""
        return self.count - self.given


def summarise(values: FloatArray) -> Summary:
    """Figures of values.

    Args:
        values: float64 (n,); NaN where a reading failed.
    """
    given = values[~np.isnan(values)]
    if not given.size:
        nothing = float("nan")
        return Summary(values.size, 0, *([nothing] * 7))
    ordered = np.sort(given)
    low, median, high = np.quantile(ordered, (0.05, 0.5, 0.95))
    spread = float(ordered.std(ddof=1)) if ordered.size > 1 else float("nan")
    return Summary(
        count=values.size,
        given=given.size,
        least=float(ordered[0]),
        most=float(ordered[-1]),
        mean=float(ordered.mean()),
        median=float(median),
        spread=spread,
        low=float(low),
        high=float(high),
    )


def robust_spread(values: FloatArray) -> float:
    """Standard deviation by the median absolute deviation: outliers hardly count.

    Args:
        values: float64 (n,).
    """
    if not values.size:
        return float("nan")
    return MAD_TO_SD * float(np.median(np.abs(values - np.median(values))))


REACH = 3.0
"""A reading counts so many usual intervals to either side; longer without one, nobody asks."""


def reach_ns(times_ns: Int64Array) -> float:
    """How far from a reading it still counts, ns; infinite without two, see ``REACH``.

    Args:
        times_ns: rising, int64 (n,), ns.
    """
    return REACH * usual_interval_ns(times_ns)


def usual_interval_ns(times_ns: Int64Array) -> float:
    """Median time between rows, ns; infinite without two.

    Args:
        times_ns: rising, int64 (n,); of a long series rows all over it are looked at.
    """
    if times_ns.size < 2:
        return float("inf")
    if times_ns.size <= SAMPLE:
        return float(np.median(np.diff(times_ns)))
    rows = np.linspace(0, times_ns.size - 2, SAMPLE).astype(np.int64)
    return float(np.median(times_ns[rows + 1] - times_ns[rows]))
