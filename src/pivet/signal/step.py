"""The step in which a capture was sampled, found from its time stamps.

A recorder that looks every 10 µs may write its stamps in ns.  Then all widths are whole steps, and
pulses that are alike come out as two neighbours, so many steps or one more.  A simulator's pulses
may be whole steps too, but are exactly alike: it has no phase that drifts.
"""

import numpy as np

from pivet.signal.trace import Int64Array, Trace

LOOKED_AT = 4096
"""Widths of each line that are looked at."""

LEAST_WIDTHS, LEAST_KINDS = 24, 4
LONGEST_STEPS = 400
"""Longer pulses tell little: a clock that is off adds up."""

MOST_IN_SHORTEST = 64
"""The shortest pulse has at most this many steps where they are no whole number of stamps."""

ROUNDED = 1.5
"""Stamps are rounded: a width may be off by this many of them."""

NEIGHBOURS_SHARE = 0.05

MANY_KINDS, MANY_FROM_NS = 12, 5_000
"""This many different widths are not whole numbers of so long a step by chance."""


def step_of(trace: Trace) -> int:
    """The step of a capture, ns; that of its stamps where no longer one shows.

    Args:
        trace: the capture's lines.
    """
    stamp = trace.resolution_ns
    parts = [np.diff(line.edges_ns[: LOOKED_AT + 1]) for line in trace.lines]
    widths = np.sort(np.concatenate(parts or [np.empty(0, dtype=np.int64)]))
    if widths.size < LEAST_WIDTHS:
        return stamp
    step = _common(widths, stamp)
    many = step >= MANY_FROM_NS and np.unique(widths).size >= MANY_KINDS
    if step < 2 * stamp or not (many or _drifts(widths, step)):
        return stamp
    return round(step)


def _common(widths: Int64Array, stamp: int) -> float:
    """The longest step of which sorted widths are whole numbers, ns; 0 when there is none."""
    whole = int(np.gcd.reduce(widths))
    if whole >= 2 * stamp:
        return whole
    kinds = widths[np.diff(widths, prepend=0) > 0]
    shortest = float(kinds[0])
    for parts in range(1, MOST_IN_SHORTEST + 1):
        step = _fitted(kinds, shortest / parts, stamp)
        if step:
            return step
    return 0.0


def _fitted(kinds: Int64Array, guess: float, stamp: int) -> float:
    """A step near a guess that fits all widths, refined from short ones to long; 0 for none."""
    kinds = kinds[kinds < LONGEST_STEPS * guess]
    if kinds.size < LEAST_KINDS or guess < 4 * ROUNDED * stamp:
        return 0.0
    step, squares, products = guess, 0.0, 0.0
    for width in kinds.tolist():
        count = round(width / step)
        if abs(width - count * step) > ROUNDED * stamp + 1e-3 * step:
            return 0.0
        squares, products = squares + count * count, products + count * width
        step = products / squares
    return step


def _drifts(widths: Int64Array, step: float) -> bool:
    """Whether pulses that are alike come out as neighbours, many of either."""
    counts = np.rint(widths[widths < LONGEST_STEPS * step] / step).astype(np.int64)
    number = np.bincount(counts)
    enough = max(NEIGHBOURS_SHARE * counts.size, 3)
    often = number >= enough
    return bool((often[1:-1] & often[2:]).any())
