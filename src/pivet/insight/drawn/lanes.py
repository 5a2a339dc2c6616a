"""Margins as lanes: each kind of pulse in its window; a single stray among millions shows.

The height of a lane's outline at a width tells how many pulses are at least as far out on that
side, on a logarithmic scale from one pulse up to half of all: there are no bins to choose, the
outline ends exactly where the last pulse is, and a single pulse is as high as the lowest step.
"""

from collections.abc import Iterator, Sequence

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenValue
from pivet.insight.compare import Shift
from pivet.insight.drawn.picture import Box, Cross, Kind, Picture, Shape, Stroke, Words
from pivet.insight.margins import Between, Margin, Margins, Stray
from pivet.insight.spread import Spread
from pivet.insight.tell import margin_words, shift_words
from pivet.judge.verdict import Verdict
from pivet.judge.wording import us
from pivet.sheets.model import Window

LANE = 92.0
LEFT, RIGHT = 150.0, 176.0
TOP, DEPTH = 16.0, 52.0
"""Where in a lane the outline's top is, and how high it is."""

FloatArray = npt.NDArray[np.float64]


class Lane(FrozenValue):
    """Kinds of pulses on one scale.

    Attributes:
        rows: their pulses; several where a reader tells one from the other by their length.
        before: those of before, in the same order; None where nothing is compared.
        shifts: how each moved; empty where nothing is compared.
        between: what lies between two of them.
    """

    rows: tuple[Margin, ...]
    before: tuple[Margin | None, ...] = ()
    shifts: tuple[Shift, ...] = ()
    between: Between | None = None

    @property
    def label(self) -> str:
        """The names of its windows."""
        first = self.rows[0].window.label
        if len(self.rows) == 1:
            return first
        return " and ".join(row.window.label.split(",")[0] for row in self.rows)


def lanes_of(
    margins: Margins, before: Margins | None = None, shifts: Sequence[Shift] = ()
) -> list[Lane]:
    """The lanes of a wire: a kind of pulse each, those told apart by length together.

    Args:
        margins: the margins of its pulses.
        before: of those of before.
        shifts: how they moved.
    """
    moved = {shift.window.key: shift for shift in shifts}
    pairs = {between.shorter: between for between in margins.between[:1]}
    taken = {between.longer for between in pairs.values()}
    found = []
    for row in margins.rows:
        key = row.window.key
        if key in taken:
            continue
        between = pairs.get(key)
        longer = margins.row(between.longer) if between is not None else None
        rows = (row,) if longer is None else (row, longer)
        olds = () if before is None else tuple(before.row(one.window.key) for one in rows)
        own = tuple(moved[one.window.key] for one in rows if one.window.key in moved)
        found.append(Lane(rows, olds, own, between))
    return found


def lane_picture(lane: Lane, width: float, mine_us: Sequence[tuple[str, float]] = ()) -> Picture:
    """One lane.

    Args:
        lane: of which pulses.
        width: of the picture.
        mine_us: the person's own limits that belong here: name and µs.
    """
    scale = _scale(lane, width, mine_us)
    base = TOP + DEPTH
    shapes: list[Shape] = []
    for row in lane.rows:
        shapes += _bands(row.window, scale, base)
    shapes.append(Stroke([(LEFT, base), (width - RIGHT, base)], Kind.AXIS))
    for place, row in enumerate(lane.rows):
        kind = Kind.AFTER if place == 0 else Kind.SECOND
        shapes.append(_outline(row.spread, scale, base, kind, True))
        old = lane.before[place] if lane.before else None
        if old is not None:
            shapes.append(_outline(old.spread, scale, base, Kind.BEFORE, False))
    shapes += _ticks(lane, scale, base)
    for row in lane.rows:
        shapes += _strays(row, scale, base)
    if lane.between is not None:
        shapes += _gap(lane.between, scale, base)
    for name, at_us in mine_us:
        x = scale.x(at_us)
        shapes.append(Stroke([(x, TOP - 10), (x, base)], Kind.MINE, 2.0))
        shapes.append(Words(x + 4, TOP - 3, f"{name} {at_us:g}", Kind.MINE, bold=True, size=11))
    shapes += _beside(lane, width)
    return Picture(width, LANE, tuple(shapes), _says(lane))


class Scale(FrozenValue):
    """Where widths stand.

    Attributes:
        low_us, high_us: the ends of the scale.
        left, right: where they stand.
    """

    low_us: float
    high_us: float
    left: float
    right: float

    def x(self, at_us: float) -> float:
        """Where a width stands, at most at either end.

        Args:
            at_us: the width, µs.
        """
        share = (at_us - self.low_us) / (self.high_us - self.low_us)
        return self.left + min(max(share, 0.0), 1.0) * (self.right - self.left)


def _scale(lane: Lane, width: float, mine_us: Sequence[tuple[str, float]]) -> Scale:
    """From the first pulse or limit to the last; limits far from all pulses are left out."""
    spreads = [row.spread for row in (*lane.rows, *lane.before) if row is not None]
    low = min(float(spread.ns[0]) for spread in spreads) / 1000
    high = max(float(spread.ns[-1]) for spread in spreads) / 1000
    limits = [limit for row in lane.rows for limit in _limits(row.window)]
    limits += [at_us for _, at_us in mine_us]
    room = max(high - low, 0.02 * high, 0.5)
    near = [limit for limit in limits if low - 8 * room <= limit <= high + 8 * room]
    low, high = min([low, *near]), max([high, *near])
    pad = 0.06 * max(high - low, 0.5)
    return Scale(max(low - pad, 0.0), high + pad, LEFT, width - RIGHT)


def _limits(window: Window) -> list[float]:
    found = [window.min_us, *(() if window.max_us is None else (window.max_us,))]
    return found + list(window.common_us or ())


def _bands(window: Window, scale: Scale, base: float) -> Iterator[Shape]:
    if window.common_us is not None:
        left, right = (scale.x(limit) for limit in window.common_us)
        yield Box(left, TOP, right - left, base - TOP, Kind.COMMON)
    left = scale.x(window.min_us)
    right = scale.x(window.max_us) if window.max_us is not None else scale.right
    yield Box(left, TOP, right - left, base - TOP, Kind.BAND)


def _outline(spread: Spread, scale: Scale, base: float, kind: Kind, filled: bool) -> Stroke:
    """Steps up to the middle and down again; at most two points a pixel."""
    taper, us = spread.taper(), spread.ns / 1000
    top = np.log10(max(spread.total / 2, 1.0)) + 1
    heights = base - DEPTH * (np.log10(np.maximum(taper, 1.0)) + 1) / top
    middle = int(np.searchsorted(spread.up_to, spread.total / 2))
    points: list[tuple[float, float]] = [(scale.x(float(us[0])), base)]
    for at in _kept(us, scale, middle):
        x, y = scale.x(float(us[at])), float(heights[at])
        if at <= middle:
            points += [(x, points[-1][1]), (x, y)]
        else:
            points += [(x, points[-1][1]), (x, y)]
            after = float(heights[at + 1]) if at + 1 < us.size else base
            points.append((x, after))
    if middle + 1 >= us.size or points[-1][1] != base:
        points.append((scale.x(float(us[-1])), base))
    return Stroke(points, kind, 1.4, filled)


def _kept(us: FloatArray, scale: Scale, middle: int) -> list[int]:
    """The widths that change the outline by a pixel: the highest of each pixel's column."""
    columns = np.floor(
        scale.left
        + (us - scale.low_us) / (scale.high_us - scale.low_us) * (scale.right - scale.left)
    )
    last = np.append(np.flatnonzero(np.diff(columns)), us.size - 1)
    first = np.append(0, np.flatnonzero(np.diff(columns)) + 1)
    rising, falling = last[last <= middle].tolist(), first[first > middle].tolist()
    return sorted({0, *rising, middle, *falling, us.size - 1})


def _ticks(lane: Lane, scale: Scale, base: float) -> Iterator[Shape]:
    """The limits, where they are far enough from each other, else the ends of the pulses."""
    told = sorted({limit for row in lane.rows for limit in _limits(row.window)[:2]})
    if all(scale.low_us <= limit <= scale.high_us for limit in told):
        values = told
    else:
        values = [
            float(lane.rows[0].spread.ns[0]) / 1000,
            float(lane.rows[-1].spread.ns[-1]) / 1000,
        ]
    last = -100.0
    for value in values:
        x = scale.x(value)
        if x - last >= 44:
            yield Words(x, base + 14, us(value).removesuffix(" µs"), Kind.QUIET, "middle", 11)
            last = x


def _strays(row: Margin, scale: Scale, base: float) -> Iterator[Shape]:
    """Those that are outside or near as crosses, each once a place."""
    last: set[int] = set()
    for stray in row.strays:
        outside = stray.margin_us < 0
        if not outside and not row.count(Verdict.NEAR):
            continue
        x = scale.x(stray.width_ns / 1000)
        if round(x / 6) in last:
            continue
        last.add(round(x / 6))
        kind = Kind.BAD if outside else Kind.NEAR
        yield Cross(x, base - 6, kind, stray.exchange, stray.position, stray_words(row, stray))


def stray_words(row: Margin, stray: Stray) -> str:
    """A stray pulse: how long it is, and where it stands.

    Args:
        row: the row of its window.
        stray: the pulse.
    """
    where = f", pulse {stray.position + 1}" if stray.position >= 0 else ""
    width = us(stray.width_ns / 1000)
    side = "outside" if stray.margin_us < 0 else "inside"
    return (
        f"{row.window.label} of {width}: {us(abs(stray.margin_us))} {side}, exchange "
        f"{stray.exchange}{where}"
    )


def _gap(between: Between, scale: Scale, base: float) -> Iterator[Shape]:
    left, right = scale.x(between.low_us), scale.x(between.high_us)
    y = base - DEPTH * 0.62
    if between.free_us > 0:
        yield Stroke([(left, y), (right, y)], Kind.GOOD, 1.6)
        text = f"{between.free_us:.1f} µs free"
        yield Words((left + right) / 2, y - 5, text, Kind.GOOD, "middle", 11, True)
    else:
        text = f"overlap by {-between.free_us:.1f} µs"
        yield Words((left + right) / 2, y - 5, text, Kind.BAD, "middle", 11, True)


def _beside(lane: Lane, width: float) -> Iterator[Shape]:
    """Left what it is and how many; right the least margin and how it moved."""
    yield Words(0, TOP + 14, lane.label, Kind.INK, bold=True, size=13)
    counts = " / ".join(f"{row.spread.total:,}" for row in lane.rows)
    if lane.before and lane.before[0] is not None:
        counts = f"{lane.before[0].spread.total:,} → {counts}"
    yield Words(0, TOP + 31, counts, Kind.QUIET, size=11)
    worst = min(lane.rows, key=lambda row: row.least_us)
    outside = sum(row.count(Verdict.UNSOUND) for row in lane.rows)
    near = sum(row.count(Verdict.NEAR) for row in lane.rows)
    kind = Kind.BAD if outside else Kind.NEAR if near else Kind.GOOD
    yield Words(width, TOP + 14, margin_words(worst), kind, "end", 13, True)
    parts = [f"{outside:,} outside"] * bool(outside) + [f"{near:,} near"] * bool(near)
    shift = next((one for one in lane.shifts), None)
    text = shift_words(shift) if shift is not None else ", ".join(parts) or "all inside"
    yield Words(width, TOP + 31, text, Kind.QUIET, "end", 11)
    if shift is not None and parts:
        yield Words(width, TOP + 46, ", ".join(parts), Kind.QUIET, "end", 11)


def _says(lane: Lane) -> str:
    return "; ".join(
        f"{row.window.label}: {row.spread.total} pulses, least margin {margin_words(row)}"
        for row in lane.rows
    )
