"""Limits of readings: when a value is beyond a line, with hysteresis and delay.

A crossing begins when values have been beyond a line for the delay; it ends when they have come
back by the hysteresis.  What lies between the line and the hysteresis changes nothing, and
neither does a failed reading: so each crossing is told once.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np
import numpy.typing as npt

from pivet.errors import InputError
from pivet.frozen import FrozenValue, replace
from pivet.signal.seconds import ns_of

FloatArray = npt.NDArray[np.float64]
Int64Array = npt.NDArray[np.int64]


class Side(StrEnum):
    """Which line was crossed."""

    ABOVE = "above"
    BELOW = "below"


class Limit(FrozenValue):
    """Two lines for a quantity, one of which may be missing.

    Attributes:
        low, high: in the kept unit; None for no line.
        hysteresis: so far a value must come back, in the kept unit.
        delay_s: so long values must be beyond, s.
    """

    low: float | None = None
    high: float | None = None
    hysteresis: float = 0.0
    delay_s: float = 0.0

    def __post_init__(self) -> None:
        if self.low is None and self.high is None:
            raise InputError("a limit needs a line", "give a lower one, an upper one, or both")
        if self.hysteresis < 0 or self.delay_s < 0:
            raise InputError("hysteresis and delay cannot be below 0", "give 0 or more")
        if self.low is not None and self.high is not None:
            if self.high <= self.low:
                raise InputError(
                    f"the upper line {self.high:g} is not above the lower one {self.low:g}",
                    "exchange them",
                )
            if self.hysteresis >= self.high - self.low:
                raise InputError(
                    f"a hysteresis of {self.hysteresis:g} leaves nothing between the lines",
                    f"take less than {self.high - self.low:g}",
                )

    @property
    def sides(self) -> list[tuple[Side, float]]:
        """The lines that there are."""
        rows = [(Side.ABOVE, self.high), (Side.BELOW, self.low)]
        return [(side, line) for side, line in rows if line is not None]


class Crossing(FrozenValue):
    """Values were beyond a line.

    Attributes:
        side: of which line.
        since_ns: the first value beyond it.
        told_ns: when the delay was over.
        value: at ``told_ns``.
        worst: the value farthest beyond, so far.
        until_ns: the first value that had come back; None while none has.
    """

    side: Side
    since_ns: int
    told_ns: int
    value: float
    worst: float
    until_ns: int | None = None


@dataclass(slots=True)
class LimitWatch:
    """Watches the values of one sensor as they come; any way of cutting them gives the same.

    Attributes:
        limit: the lines.
        open: the crossings that have begun and not ended, by side.
    """

    limit: Limit
    open: dict[Side, Crossing] = field(default_factory=dict)
    _waiting: dict[Side, tuple[int, float]] = field(default_factory=dict)

    def feed(self, times_ns: Int64Array, values: FloatArray) -> list[Crossing]:
        """Takes values in order of time.

        Args:
            times_ns: int64 (n,).
            values: float64 (n,); NaN where a reading failed.

        Returns:
            Crossings that began (``until_ns`` is None) or ended, in order of time.
        """
        there = ~np.isnan(values)
        times_ns, values = times_ns[there], values[there]
        found = [
            crossing
            for side, line in self.limit.sides
            for crossing in self._side(side, line, times_ns, values)
        ]
        return sorted(
            found,
            key=lambda crossing: (
                crossing.told_ns if crossing.until_ns is None else crossing.until_ns
            ),
        )

    def _side(
        self, side: Side, line: float, times_ns: Int64Array, values: FloatArray
    ) -> Iterator[Crossing]:
        sign = 1.0 if side is Side.ABOVE else -1.0
        height = sign * (values - line)
        beyond, back = height > 0, height <= -self.limit.hysteresis
        inside = ~beyond
        delay_ns = ns_of(self.limit.delay_s)
        at = 0
        while at < values.size:
            crossing = self.open.get(side)
            if crossing is not None:
                end = _next(back, at)
                self.open[side] = crossing = _worse(crossing, sign, values[at:end])
                if end < values.size:
                    del self.open[side]
                    yield replace(crossing, until_ns=int(times_ns[end]))
                at = end
                continue
            if side not in self._waiting:
                at = _next(beyond, at)
                if at == values.size:
                    return
                self._waiting[side] = (int(times_ns[at]), float(values[at]))
            since_ns, worst = self._waiting[side]
            # Beyond the line all the while: what comes back to it ends the waiting.
            end = _next(inside, at)
            due = at + int(np.searchsorted(times_ns[at:end], since_ns + delay_ns))
            if due < end:
                value = float(values[due])
                crossing = Crossing(side, since_ns, int(times_ns[due]), value, worst)
                crossing = _worse(crossing, sign, values[at : due + 1])
                self.open[side] = crossing
                del self._waiting[side]
                yield crossing
                at = due + 1
                continue
            if end < values.size:
                del self._waiting[side]
            elif end > at:
                seen = values[at:end]
                extreme = float(seen[np.argmax(sign * seen)])
                worst = max(worst, extreme, key=lambda value: sign * value)
                self._waiting[side] = (since_ns, worst)
            at = end


def _next(which: npt.NDArray[np.bool_], start: int) -> int:
    """The first place from ``start`` on where it holds; the size where there is none."""
    rest = which[start:]
    found = int(rest.argmax()) if rest.size else 0
    return start + found if rest.size and rest[found] else int(which.size)


def _worse(crossing: Crossing, sign: float, values: FloatArray) -> Crossing:
    if not values.size:
        return crossing
    extreme = float(values[np.argmax(sign * values)])
    return replace(crossing, worst=extreme) if sign * extreme > sign * crossing.worst else crossing
