"""A line of real wire: open-drain drivers, a slow rise, disturbances, and the recorder on it.

All times are float64, in µs.  A line is its edges; the level before the first is ``idle``.
"""

from collections.abc import Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

from pivet.signal.trace import Level, Line, Trace

Times = npt.NDArray[np.floating[Any]]
Random = np.random.Generator
NOTHING: Times = np.empty(0)


def pulled_low(*spans: Times) -> Times:
    """Edges of a line that rests high; several drivers pull it low, each in its (n, 2) spans."""
    rows = np.concatenate([row.reshape(-1, 2) for row in spans if row.size])
    rows = rows[np.argsort(rows[:, 0])]
    ends = np.maximum.accumulate(rows[:, 1])
    first = np.concatenate(([True], rows[1:, 0] > ends[:-1]))
    starts = rows[first, 0]
    last = np.append(np.flatnonzero(first)[1:] - 1, len(rows) - 1)
    return np.stack((starts, ends[last]), axis=1).ravel()


def flipped(edges: Times, spans: Times) -> Times:
    """The line turned over during spans (n, 2): coupled spikes, reflections."""
    every = np.sort(np.concatenate((edges, spans.ravel())))
    return without_instants(every)


def forced(edges: Times, spans: Times, high: bool, idle_high: bool = True) -> Times:
    """The line held at a level during spans (n, 2), whatever else drives it."""
    if not spans.size:
        return edges
    end = max(float(edges[-1]) if edges.size else 0.0, float(spans.max())) + 1
    lows = np.append(edges, [end] * (edges.size % 2)) if idle_high == (not high) else None
    if lows is not None:
        return pulled_low(lows.reshape(-1, 2), spans)
    inner = np.concatenate(([-1e18], edges, [1e18] if edges.size % 2 == 0 else []))
    merged = pulled_low(inner.reshape(-1, 2), spans)
    return merged[(merged > -1e17) & (merged < 1e17)]


def without_instants(edges: Times) -> Times:
    """Edges at the same moment undo each other."""
    while edges.size:
        twins = np.flatnonzero(np.diff(edges) <= 0)
        if not twins.size:
            break
        alone = twins[np.concatenate(([True], np.diff(twins) > 1))]
        edges = np.delete(edges, np.concatenate((alone, alone + 1)))
    return edges


def slow_rise(edges: Times, late_us: float | Times) -> Times:
    """Rises come late; a high that is shorter than that never reaches the threshold."""
    falls, rises = edges[0::2], edges[1::2] + late_us
    lost = np.flatnonzero(rises[: falls.size - 1] >= falls[1:])
    made = np.empty_like(edges)
    made[0::2], made[1::2] = falls, rises
    gone = np.concatenate((2 * lost + 1, 2 * lost + 2))
    return np.delete(made, gone)


def slow_fall(edges: Times, late_us: float) -> Times:
    """Falls come late."""
    made = edges.copy()
    made[0::2] += late_us
    lost = np.flatnonzero(made[0 : made.size - 1 : 2] >= made[1::2][: made[0:-1:2].size])
    return np.delete(made, np.concatenate((2 * lost, 2 * lost + 1)))


def jitter(random: Random, edges: Times, sigma_us: float) -> Times:
    """Each edge off by a normal error; edges keep their order."""
    moved: Times = np.maximum.accumulate(edges + random.normal(0, sigma_us, edges.size))
    return moved + 1e-6 * np.arange(edges.size)


def sampled(random: Random, edges: Times, step_us: float) -> Times:
    """What a recorder that looks once a step sees; shorter pulses may fall through."""
    phase = random.uniform(0, step_us)
    seen = np.ceil((edges - phase) / step_us) * step_us
    return without_instants(seen)


def spans_at(starts: Times, widths: Times) -> Times:
    """Spans (n, 2) from starts and widths."""
    return np.stack((starts, starts + widths), axis=1)


def near_edges(random: Random, edges: Times, share: float, widths: tuple[float, float]) -> Times:
    """Spans of random width, beginning within the pulses behind a share of the edges."""
    chosen = np.flatnonzero(random.random(max(edges.size - 1, 0)) < share)
    room = np.minimum(edges[chosen + 1] - edges[chosen], 400.0)
    starts = edges[chosen] + room * random.random(chosen.size)
    return spans_at(starts, random.uniform(*widths, chosen.size))


def rung(edges: Times, delay_us: float, width_us: float) -> Times:
    """Each edge comes back from the far end: the line turns over once more, briefly."""
    return flipped(edges, spans_at(edges + delay_us, np.full(edges.size, width_us)))


def traced(
    lines: dict[str, tuple[Times, bool]], end_us: float | None = None, step_ns: int = 10
) -> Trace:
    """Lines (edges, idle high) as a capture; stamps are rounded to ``step_ns``."""
    made: list[Line] = []
    last = 0
    for name, (edges, high) in lines.items():
        stamps = (np.round(edges * 1000 / step_ns) * step_ns).astype(np.int64)
        stamps = without_instants(stamps)  # type: ignore[arg-type, assignment]
        made.append(Line(name, Level.HIGH if high else Level.LOW, stamps))
        last = max([last, *stamps[-1:].tolist()])
    end = last + 200_000_000 if end_us is None else round(end_us * 1000)
    return Trace(tuple(made), 0, end, step_ns)


def joined(parts: Sequence[Times]) -> Times:
    """Pieces of one line, in order of time."""
    return np.concatenate(list(parts)) if parts else NOTHING
