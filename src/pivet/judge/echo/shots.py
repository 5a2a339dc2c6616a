"""Single shots against their neighbours: median, spread, jumps."""

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject
from pivet.readings.sound import MEDIAN_OVER

FloatArray = npt.NDArray[np.float64]

BLOCK = 1 << 14
"""Shots compared at once: keeps the rows in between in the processor's cache."""

JUMP_M = 0.05
JUMP_SHARE = 0.05
"""A shot this far, and this share of the distance, from the median is a jump ..."""

CALM = 0.5
"""... if the others lie within this share of that."""


class Shots(FrozenObject):
    """Each given shot with those before it.

    Attributes:
        median, spread: over the last ``over`` given shots, this one included; spread is
            from the least to the greatest; float64 (k,), m.
        jumped: far from shots that agree with each other, bool (k,).
        over: how many shots at most.
    """

    median: FloatArray
    spread: FloatArray
    jumped: npt.NDArray[np.bool_]
    over: int


def compare(
    distances: FloatArray, over: int = MEDIAN_OVER, before: FloatArray | None = None
) -> Shots:
    """Compares shots with their neighbours.

    Args:
        distances: those that may be given, in order of time, float64 (k,), m.
        over: how many shots make a median; odd.
        before: the last of those that came before, float64 (b,), m.
    """
    if before is not None and before.size:
        found = compare(np.concatenate((before, distances)), over)
        first = before.size
        return Shots(found.median[first:], found.spread[first:], found.jumped[first:], over)
    median, spread = np.empty(distances.size), np.empty(distances.size)
    for start in range(0, distances.size, BLOCK):
        first = max(start - over + 1, 0)
        block = distances[first : start + BLOCK]
        for shot in range(start, min(over - 1, distances.size)):
            seen = distances[: shot + 1]
            median[shot], spread[shot] = np.median(seen), np.ptp(seen)
        if block.size >= over:
            ordered = _ordered(block, over)
            upto = first + block.size
            median[first + over - 1 : upto] = ordered[over // 2]
            spread[first + over - 1 : upto] = ordered[-1] - ordered[0]
    return Shots(median, spread, _jumps(distances, over), over)


def _ordered(block: FloatArray, over: int) -> list[FloatArray]:
    """Each window of ``over`` shots in order of size: an exchange sort of whole rows."""
    rows = [block[at : block.size - over + 1 + at] for at in range(over)]
    for last in range(over - 1, 0, -1):
        for at in range(last):
            rows[at], rows[at + 1] = (
                np.minimum(rows[at], rows[at + 1]),
                np.maximum(rows[at], rows[at + 1]),
            )
    return rows


def _jumps(distances: FloatArray, over: int) -> npt.NDArray[np.bool_]:
    """Shots that stand alone among those before and after, which agree.

    A jump is told from a movement by the shots after it: after a movement they stay.  Only
    shots that differ from a direct neighbour are looked at.
    """
    jumped = np.zeros(distances.size, dtype=bool)
    if distances.size <= over:
        return jumped
    step = np.abs(np.diff(distances)) > CALM * JUMP_M
    apart = np.zeros(distances.size, dtype=bool)
    apart[1:] |= step
    apart[:-1] |= step
    half = over // 2
    rows = np.flatnonzero(apart)
    around = rows[:, None] + np.concatenate((np.arange(-half, 0), np.arange(1, half + 1)))
    others = distances[np.clip(around, 0, distances.size - 1)]
    centre = np.median(others, axis=1)
    far = np.maximum(JUMP_M, JUMP_SHARE * centre)
    calm = np.median(np.abs(others - centre[:, None]), axis=1) <= CALM * far
    jumped[rows] = (np.abs(distances[rows] - centre) > far) & calm
    return jumped
