"""Which exchange a line was printed after, where its time tells it."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from pivet.insight.printed.align import Entry
from pivet.insight.printed.binding import Binding
from pivet.insight.printed.facts import Fact

SCALES_S = (1.0, 1e-3, 1e-6)
"""Times are printed in s, ms or µs."""

NEARLY_ALL = 0.95
LATEST = 0.5
"""A line comes within this share of the usual time from exchange to exchange."""

FloatArray = npt.NDArray[np.float64]


def by_time(entries: Sequence[Entry], facts: Sequence[Fact], binding: Binding) -> list[int] | None:
    """The place of the exchange that each entry was printed after.

    Args:
        entries: the entries, in the order in which they were printed.
        facts: what the wire gave, in order of time.
        binding: numbers that are readings, and so are no times.

    Returns:
        None where lines have no times, or these are of another clock than the capture's: one that
        began elsewhere tells nothing that the order does not tell.
    """
    ends = np.array([fact.end_s for fact in facts])
    if len(entries) < 3 or ends.size < 3:
        return None
    usual = float(np.median(np.diff(ends)))
    for times in _times(entries, binding):
        for scale in SCALES_S:
            own = times * scale
            at = np.searchsorted(ends, own, side="right") - 1
            late = own - ends[np.maximum(at, 0)]
            fits = (at >= 0) & (late <= LATEST * usual)
            if fits.mean() >= NEARLY_ALL and all(two > one for one, two in pairwise(at.tolist())):
                return [int(place) for place in at]
    return None


def _times(entries: Sequence[Entry], binding: Binding) -> list[FloatArray]:
    """Times of day, and numbers that grow from line to line."""
    found = []
    clocks = [entry.line.clock_s for entry in entries]
    if None not in clocks:
        found.append(np.array(clocks, dtype=np.float64))
    for at in range(min(len(entry.line.numbers) for entry in entries)):
        if any((entry.line.shape, at) in binding for entry in entries):
            continue
        values = [entry.line.numbers[at].value for entry in entries]
        if None in values:
            continue
        column = np.array(values, dtype=np.float64)
        if (np.diff(column) > 0).all():
            found.append(column)
    return found
