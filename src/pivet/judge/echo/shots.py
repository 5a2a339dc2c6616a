"""Single shots against their neighbours: median, spread, jumps."""

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
from numpy.lib.stride_tricks import sliding_window_view

FloatArray = npt.NDArray[np.float64]

MEDIAN_OVER = 5
"""A median over 3 to 7 shots beats a single one (domain page, echo traps)."""

JUMP_M = 0.05
JUMP_SHARE = 0.05
"""A shot this far, and this share of the distance, from the median is a jump ..."""

CALM = 0.5
"""... if the others lie within this share of that."""


@dataclass(frozen=True, slots=True, eq=False)
class Shots:
    """Each given shot with those before it.

    Attributes:
        median, spread: over the last ``over`` given shots, this one included; spread is
            from the least to the greatest; float64 (k,), m.
        jumped: far from shots that agree with each other, bool (k,).
        over: so many shots at most.
    """

    median: FloatArray = field(repr=False)
    spread: FloatArray = field(repr=False)
    jumped: npt.NDArray[np.bool_] = field(repr=False)
    over: int


def compare(distances: FloatArray, over: int = MEDIAN_OVER) -> Shots:
    """Compares shots with their neighbours.

    A jump is told from a movement by the shots after it too: after a movement they stay.

    Args:
        distances: those that may be given, in order of time, float64 (k,), m.
        over: so many shots make a median.
    """
    if not distances.size:
        empty = np.empty(0)
        return Shots(empty, empty, np.empty(0, dtype=bool), over)
    rows = sliding_window_view(_padded(distances, over - 1, 0), over)
    # nanmedian is ten times slower; only the first windows are not full.
    head = min(over - 1, distances.size)
    median, spread = np.median(rows, axis=1), np.ptp(rows, axis=1)
    for row in range(head):
        seen = distances[: row + 1]
        median[row], spread[row] = np.median(seen), np.ptp(seen)
    half = over // 2
    around = sliding_window_view(_padded(distances, half, half), 2 * half + 1)
    others = np.delete(around, half, axis=1)
    centre = np.median(others, axis=1)
    far = np.maximum(JUMP_M, JUMP_SHARE * centre)
    off = np.abs(others - centre[:, None])
    calm = np.median(off, axis=1) <= CALM * far
    full = distances.size > over
    jumped = (np.abs(distances - centre) > far) & calm & full
    return Shots(median, spread, jumped, over)


def _padded(distances: FloatArray, before: int, after: int) -> FloatArray:
    return np.pad(distances, (before, after), mode="edge")
