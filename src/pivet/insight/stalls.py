"""A processor that is away: interrupts, a scheduler, another task.

What changes on the line meanwhile is seen late by a reader that looks at a timer, and not at all by
one that counts its own turns, since these stand still, too.
"""

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenValue

FloatArray = npt.NDArray[np.float64]
IntArray = npt.NDArray[np.int64]


class Stall(FrozenValue):
    """How a processor is away.

    Attributes:
        length_us: for so long each time, µs.
        per_s: how many times a second, at random.
    """

    length_us: float
    per_s: float

    @property
    def length_ns(self) -> float:
        """Its length, ns."""
        return self.length_us * 1000


def draw_numbers(stall: Stall, spans_ns: FloatArray, rng: "np.random.Generator") -> IntArray:
    """How often the processor goes away in each exchange, int64 (n,).

    Args:
        stall: how it is away.
        spans_ns: how long each exchange lasts, (n,), ns.
        rng: that draws.
    """
    return rng.poisson(stall.per_s * (spans_ns + stall.length_ns) / 1e9)


def draw(
    stall: Stall,
    begin_ns: FloatArray,
    end_ns: FloatArray,
    rng: "np.random.Generator",
    numbers: IntArray | None = None,
) -> FloatArray:
    """When the processor goes away, float64 (k, n), ns, rising; infinite where there is none.

    Args:
        stall: how it is away.
        begin_ns: of each exchange, (n,), ns; a stall that began before counts as well.
        end_ns: likewise its end.
        rng: that draws.
        numbers: how often in each, of ``draw_numbers``; None draws that, too.
    """
    if numbers is None:
        numbers = draw_numbers(stall, end_ns - begin_ns, rng)
    begin_ns = begin_ns - stall.length_ns
    spans = end_ns - begin_ns
    most = int(numbers.max()) if numbers.size else 0
    starts = begin_ns + rng.random((most, numbers.size)) * spans
    starts[np.arange(most)[:, None] >= numbers] = np.inf
    found: FloatArray = np.sort(starts, axis=0)
    return found


def seen_late(edges_ns: FloatArray, starts_ns: FloatArray, length_ns: float) -> FloatArray:
    """When a reader sees edges that looks at a timer: those within a stall at its end.

    Args:
        edges_ns: (e, n), rising.
        starts_ns: of the stalls, (k, n), rising; infinite for none.
        length_ns: of each.
    """
    seen = edges_ns
    for start in starts_ns:
        away = (seen >= start) & (seen < start + length_ns)
        seen = np.where(away, start + length_ns, seen)
    return seen


def own_time(edges_ns: FloatArray, starts_ns: FloatArray, length_ns: float) -> FloatArray:
    """When edges come by the time that a processor had for itself: it stands still in a stall.

    Args:
        edges_ns: (e, n), rising.
        starts_ns: of the stalls, (k, n); infinite for none.
        length_ns: of each.
    """
    found = edges_ns.astype(np.float64)
    for start in starts_ns:
        found -= np.clip(edges_ns - start, 0.0, length_ns)
    return found


def without_unseen(seen_ns: FloatArray) -> FloatArray:
    """Edges as they are told apart: two that are seen at once leave the level as it was.

    What is left moves up; infinite times follow, for edges that never come.

    Args:
        seen_ns: (e, n), rising or equal.
    """
    same = seen_ns[1:] == seen_ns[:-1]
    rows = np.flatnonzero((same & np.isfinite(seen_ns[1:])).any(axis=0))
    if not rows.size:
        return seen_ns
    times = seen_ns[:, rows]
    number = np.arange(times.shape[0])[:, None]
    begins = np.ones(times.shape, dtype=bool)
    begins[1:] = times[1:] != times[:-1]
    first = np.maximum.accumulate(np.where(begins, number, 0), axis=0)
    ends = np.ones(times.shape, dtype=bool)
    ends[:-1] = begins[1:]
    kept = ends & ((number - first) % 2 == 0)
    order = np.argsort(~kept, axis=0, kind="stable")
    moved = np.take_along_axis(np.where(kept, times, np.inf), order, axis=0)
    found = seen_ns.copy()
    found[:, rows] = moved
    return found
