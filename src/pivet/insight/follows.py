"""What the widths of a wire follow: time, temperature, the place in the exchange, the host.

Only what stands out is told: it is surer than chance would have it among all that was tried, and
makes a difference that can be seen in the widths themselves.
"""

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from pivet.captures.wire import Wire
from pivet.frozen import FrozenObject, FrozenValue
from pivet.insight.pulses import WHOLE, BoolArray, Int64Array, Widths
from pivet.insight.registry import insight_of
from pivet.insight.resample import blocks_of, draws, reach
from pivet.sheets.model import Driver, Window

FloatArray = npt.NDArray[np.float64]

FEWEST = 20
"""With fewer exchanges nothing is looked for."""

SURE = 0.999
LEAST_US = 0.05
LEAST_EXPLAINED = 0.1
"""Share of the variance between exchanges that it must explain."""

STANDS_OUT = 0.5
"""A position stands out by this many standard deviations of its pulses."""

MOST_POSITIONS = 3
HOUR_NS = 3.6e12


class Follows(FrozenValue):
    """Widths of a window that follow something.

    Attributes:
        key, label: of the window.
        what: ``time``, ``temperature``, ``position`` or ``host``.
        slope: µs per ``unit``; of positions, by how much they differ from the others, µs.
        error: half of its interval at 95 %.
        unit: ``h``, ``°C``, ``ms`` that the host asks late; empty for positions.
        low, high: range over which it was seen, in the unit; of positions the first and the last.
        says: all that in a sentence.
    """

    key: str
    label: str
    what: str
    slope: float
    error: float
    unit: str
    low: float
    high: float
    says: str


def what_follows(wire: Wire, chosen: BoolArray | None = None) -> tuple[Follows, ...]:
    """What widths of a wire follow, window by window.

    Args:
        wire: decoded and judged.
        chosen: which exchanges count, bool (n,); None for all.
    """
    counted = np.ones(len(wire), dtype=bool) if chosen is None else chosen
    if np.count_nonzero(counted) < FEWEST:
        return ()
    insight = insight_of(wire)
    every = [widths if chosen is None else widths.of(counted) for widths in insight.widths(wire)]
    causes = list(_causes(wire))
    tests = max(len(every) * (len(causes) + 1), 1)
    found: list[Follows] = []
    for widths in every:
        if widths.ns.size < FEWEST:
            continue
        owners, positions = widths.find(np.arange(widths.ns.size))
        means, there = _means(widths.ns, owners, len(wire))
        best = max(
            (
                follows
                for cause in causes
                if (follows := _slope(widths, means, there, cause, tests)) is not None
            ),
            key=lambda pair: pair[0],
            default=None,
        )
        if best is not None:
            found.append(best[1])
        if positions[0] != WHOLE:
            off_us = (widths.ns - means[owners]) / 1000
            found += _positions(widths.window, off_us, positions, tests, insight.position)
    return tuple(found)


class Cause(FrozenObject):
    """What widths may follow.

    Attributes:
        what, unit: as in ``Follows``.
        values: the values of each exchange, float64 (n,); NaN where it is not known.
    """

    what: str
    unit: str
    values: FloatArray


def _causes(wire: Wire) -> Iterator[Cause]:
    """Temperature stands before time: who follows both, follows what is nearer."""
    for track in wire.tracks:
        if track.quantity == "temperature":
            values = np.full(len(wire), np.nan)
            values[track.at] = np.where(track.given, track.values, np.nan)
            yield Cause("temperature", "°C", values)
            break
    hours = (wire.exchanges.start_ns - wire.exchanges.start_ns[0]) / HOUR_NS
    yield Cause("time", "h", hours)
    starts = wire.exchanges.start_ns
    if starts.size > 1:
        pause = np.diff(starts, prepend=np.nan)
        usual = float(np.nanmedian(pause))
        # What was not asked for a while, or asked again at once, is no lateness.
        late = np.where(np.abs(pause - usual) < usual / 2, pause - usual, np.nan)
        yield Cause("host", "ms", late / 1e6)


def _means(
    ns: npt.NDArray[np.integer], owners: Int64Array, size: int
) -> tuple[FloatArray, BoolArray]:
    """The mean width of each exchange without far strays, ns; and which have any."""
    low, high = np.quantile(ns, (0.01, 0.99))
    kept = (ns >= 2 * low - high) & (ns <= 2 * high - low)
    counts = np.bincount(owners[kept], minlength=size)
    sums = np.bincount(owners[kept], weights=ns[kept], minlength=size)
    return sums / np.maximum(counts, 1), counts > 0


def _slope(
    widths: Widths, means: FloatArray, there: BoolArray, cause: Cause, tests: int
) -> tuple[float, Follows] | None:
    """Share of the variance that a cause explains, and how; None where it does not stand out."""
    if cause.what == "temperature" and widths.window.driver is Driver.HOST:
        return None  # only the sensor's clock has the sensor's temperature
    rows = np.flatnonzero(there & np.isfinite(cause.values))
    if rows.size < FEWEST:
        return None
    x, y = cause.values[rows], means[rows] / 1000
    low, high = (float(value) for value in np.quantile(x, (0.02, 0.98)))
    if high <= low or y.max() <= y.min():  # the mean of equals may be rounded
        return None
    x_middle, y_middle = float(x.mean()), float(y.mean())
    blocks = blocks_of(rows.size)
    dx, dy = x - x_middle, y - y_middle
    number = int(blocks[-1]) + 1
    parts = np.stack(
        [
            np.bincount(blocks, weights=column, minlength=number)
            for column in (np.ones(rows.size), dx, dy, dx * dx, dx * dy)
        ]
    )
    n, sx, sy, sxx, sxy = np.vstack([parts.sum(axis=1), draws(number) @ parts.T]).T
    spread = sxx - sx * sx / n
    slopes = np.divide(sxy - sx * sy / n, spread, out=np.zeros_like(n), where=spread > 0)
    slope, error = float(slopes[0]), float(slopes[1:].std())
    explained = slope * slope * float(dx.var()) / float(dy.var())
    effect = abs(slope) * (high - low)
    sure = abs(slope) > reach(tests, SURE) * error
    if not sure or explained < LEAST_EXPLAINED or effect < LEAST_US:
        return None
    half = reach() * error
    window = widths.window
    says = f"{window.label}: {_words(cause.what, slope, half)}"
    made = Follows(window.key, window.label, cause.what, slope, half, cause.unit, low, high, says)
    return explained, made


def _words(what: str, slope: float, half: float) -> str:
    grows = "longer" if slope > 0 else "shorter"
    by = f"{abs(slope):.3g} ± {half:.2g} µs"
    if what == "temperature":
        clock = "slows" if slope > 0 else "runs faster"
        return (
            f"{grows} by {by} with each °C of the sensor's own reading: its clock {clock} as it "
            "gets warmer"
        )
    if what == "time":
        return f"{grows} by {by} an hour"
    return f"{grows} by {by} with each ms that the host asks late"


def _positions(
    window: Window, us: FloatArray, positions: Int64Array, tests: int, called: str
) -> Iterator[Follows]:
    """Positions whose pulses differ from all others; µs beside the mean of their exchange."""
    low, high = np.quantile(us, (0.01, 0.99))
    kept = (us >= 2 * low - high) & (us <= 2 * high - low)
    us, positions = us[kept], positions[kept]
    counts = np.bincount(positions)
    seen = np.flatnonzero(counts >= FEWEST)
    if seen.size < 3:
        return
    means = np.bincount(positions, weights=us)[seen] / counts[seen]
    squares = np.bincount(positions, weights=us * us)[seen] / counts[seen]
    deviation = np.sqrt(np.maximum(squares - means * means, 0.0))
    usual = float(np.median(means))
    error = np.maximum(deviation, 1e-3) / np.sqrt(counts[seen])
    off = means - usual
    limit = np.maximum(STANDS_OUT * float(np.median(deviation)), 2 * LEAST_US)
    out = (np.abs(off) > limit) & (np.abs(off) > reach(tests * seen.size, SURE) * error)
    rows = np.flatnonzero(out)
    if not rows.size or rows.size > seen.size / 2:
        return
    worst = rows[np.argsort(-np.abs(off[rows]), kind="stable")][:MOST_POSITIONS]
    numbers = np.sort(seen[worst])
    names = ", ".join(str(number + 1) for number in numbers.tolist())
    more = f" and {rows.size - worst.size} more" if rows.size > worst.size else ""
    slope, half = float(off[worst[0]]), reach() * float(error[worst[0]])
    grows = "longer" if slope > 0 else "shorter"
    says = (
        f"{window.label}: {called}{'s' * (rows.size > 1)} {names}{more} up to {abs(slope):.2g} ± "
        f"{half:.1g} µs {grows} than the others"
    )
    yield Follows(
        window.key,
        window.label,
        "position",
        slope,
        half,
        "",
        float(numbers[0]),
        float(numbers[-1]),
        says,
    )
