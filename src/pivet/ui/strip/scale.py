"""The time scale of the wire strip: which stretch is shown, zoom and pan; no painting."""

import math

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject, FrozenValue, replace
from pivet.judge.wording import seconds

NEAREST_NS = 200.0
"""The shortest stretch that can be shown, ns."""

TICK_STEPS = (1, 2, 5)
FAR_PX = 90.0
"""Ticks stand at least so far apart."""


class TimeScale(FrozenValue):
    """A stretch of time on a number of pixels.

    Attributes:
        start_ns, end_ns: what is shown, ns.
        first_ns, last_ns: what can be shown at all, ns.
        left, width: where it stands, px.
    """

    start_ns: float
    end_ns: float
    first_ns: float
    last_ns: float
    left: float
    width: float

    @property
    def span_ns(self) -> float:
        """Shown length, ns."""
        return self.end_ns - self.start_ns

    def x_of(self, t_ns: float) -> float:
        """Pixel of a time."""
        return self.left + (t_ns - self.start_ns) / self.span_ns * self.width

    def t_of(self, x: float) -> float:
        """Time at a pixel, ns."""
        return self.start_ns + (x - self.left) / max(self.width, 1) * self.span_ns

    def zoomed(self, factor: float, x: float) -> "TimeScale":
        """Shows ``factor`` times as much, the time under pixel ``x`` stays where it is."""
        whole = self.last_ns - self.first_ns
        span = min(max(self.span_ns * factor, NEAREST_NS), whole)
        at = self.t_of(x)
        start = at - (x - self.left) / max(self.width, 1) * span
        return self.shown(start, start + span)

    def moved(self, px: float) -> "TimeScale":
        """Moves the picture by this many pixels to the right."""
        by = -px / max(self.width, 1) * self.span_ns
        return self.shown(self.start_ns + by, self.end_ns + by)

    def shown(self, start_ns: float, end_ns: float) -> "TimeScale":
        """Another stretch, held inside what can be shown."""
        span = min(max(end_ns - start_ns, NEAREST_NS), self.last_ns - self.first_ns)
        start = min(max(start_ns, self.first_ns), self.last_ns - span)
        return replace(self, start_ns=start, end_ns=start + span)

    def counted_from(self, zero_ns: int) -> "TimeScale":
        """The same stretch with times counted from another zero."""
        return replace(
            self,
            start_ns=self.start_ns - zero_ns,
            end_ns=self.end_ns - zero_ns,
            first_ns=self.first_ns - zero_ns,
            last_ns=self.last_ns - zero_ns,
        )

    def ticks(self) -> tuple[list[int], int]:
        """Times of ticks on round steps counted from 0, ns, and the step, ns."""
        least = max(self.span_ns * FAR_PX / max(self.width, 1), 1.0)
        power = 10 ** int(np.floor(np.log10(least)))
        step = next((power * n for n in (*TICK_STEPS, 10) if power * n >= least), power * 10)
        first = int(np.ceil(self.start_ns / step)) * step
        return list(range(first, int(self.end_ns) + 1, step)), step


class Outline(FrozenObject):
    """A line's course as pixels: never more than a few points a pixel column.

    Attributes:
        levels: (x from, x to, high) of level pieces, float64 (n, 3).
        steps: x of the columns in which the level changes, float64 (m,).
        whole: each piece begins where the one before ends.
    """

    levels: npt.NDArray[np.floating]
    steps: npt.NDArray[np.floating]
    whole: bool

    def points(self, top: float, bottom: float) -> npt.NDArray[np.float64]:
        """The course as one run of points, float64 (2 n, 2), px; only if it is ``whole``."""
        points = np.empty((2 * len(self.levels), 2))
        # In the middle of pixels: else Qt draws a step within one pixel only in part.
        points[:, 0] = self.levels[:, :2].ravel()
        np.floor(points[:, 0], out=points[:, 0])
        points[:, 0] += 0.5
        high = self.levels[:, 2] > 0
        points[:, 1] = np.repeat(np.where(high, math.floor(top), math.floor(bottom)) + 0.5, 2)
        return points


def outline(edges_ns: npt.NDArray[np.int64], initial: int, scale: TimeScale) -> Outline:
    """The course of a line within the shown stretch.

    Costs as much as edges are shown, or, when there are more than a few a pixel, as much
    as there are pixels: a search for each column's edges instead of a look at each edge.
    """
    columns = int(scale.width)
    first, last = np.searchsorted(edges_ns, (int(scale.start_ns), int(np.ceil(scale.end_ns))))
    if last - first <= 2 * columns:
        x = scale.left + (edges_ns[first:last] - scale.start_ns) / scale.span_ns * scale.width
        cuts = np.concatenate(([scale.left], x, [scale.left + scale.width]))
        high = (initial + first + np.arange(cuts.size - 1)) % 2
        return Outline(np.stack((cuts[:-1], cuts[1:], high), axis=1), x, True)
    bounds = scale.start_ns + np.arange(columns + 1) * (scale.span_ns / columns)
    at = np.searchsorted(edges_ns, bounds.astype(np.int64))
    busy = np.flatnonzero(np.diff(at))
    calm = np.flatnonzero(np.diff(at) == 0)
    x = scale.left + calm
    levels = np.stack((x, x + 1, (initial + at[calm]) % 2), axis=1)
    return Outline(levels, scale.left + busy + 0.5, False)


def snapped(edges_ns: npt.NDArray[np.int64], t_ns: float, reach_ns: float) -> int:
    """The nearest edge within reach, else the time itself, ns."""
    if edges_ns.size:
        at = int(np.searchsorted(edges_ns, t_ns))
        near = edges_ns[max(at - 1, 0) : at + 1]
        best = int(near[np.argmin(np.abs(near - t_ns))])
        if abs(best - t_ns) <= reach_ns:
            return best
    return round(t_ns)


def tick_text(t_ns: int, step_ns: int, zero_ns: int) -> str:
    """A time from the fall of the ask; far away the time from the capture's start."""
    if step_ns >= 10**8:
        return seconds(t_ns + zero_ns)
    unit, name = (1_000_000, "ms") if step_ns >= 100_000 else (1_000, "µs")
    places = max(0, math.ceil(-math.log10(step_ns / unit) - 1e-9))
    return f"{t_ns / unit:.{places}f} {name}"
