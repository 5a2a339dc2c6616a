"""The time scale of stacked echoes, and the same in centimetres; no painting."""

import math
from dataclasses import dataclass

from pivet.sheets.model import Sheet

SPARE = 1.12
"""A little more than the longest echo is shown."""

LEAST_US = 500.0
FAR_PX = 64.0
STEPS = (1, 2, 5, 10)
LEAD_PX = 10.0


@dataclass(frozen=True, slots=True)
class EchoScale:
    """Microseconds after the echo's rise on pixels.

    Attributes:
        left, width: where it stands, px.
        longest_us: longest echo to show, µs.
        sheet: of the sensor.
    """

    left: float
    width: float
    longest_us: float
    sheet: Sheet

    @property
    def span_us(self) -> float:
        """Shown time, µs."""
        return max(self.longest_us * SPARE, LEAST_US)

    @property
    def right(self) -> float:
        """End of the scale, px."""
        return self.left + self.width

    def x_of(self, t_us: float) -> float:
        """Where a time stands, cut at the ends."""
        x = self.left + LEAD_PX + t_us / self.span_us * (self.width - LEAD_PX)
        return min(max(x, self.left), self.right)

    def t_of(self, x: float) -> float:
        """Time at a pixel, µs."""
        return (x - self.left - LEAD_PX) / (self.width - LEAD_PX) * self.span_us

    def _steps(self, span: float) -> list[float]:
        """Round values over a span, not too close to each other."""
        least = span * FAR_PX / self.width
        power = 10.0 ** math.floor(math.log10(least))
        step = next(power * n for n in STEPS if power * n >= least)
        return [step * n for n in range(int(span / step) + 1)]

    def time_ticks(self) -> list[tuple[float, str]]:
        """Round times: µs, and how they are written."""
        rows = self._steps(self.span_us)
        fine = self.span_us < 3000
        return [(t, f"{t:g} µs" if fine else f"{t / 1000:g} ms") for t in rows]

    def distance_ticks(self, speed: float) -> list[tuple[float, str]]:
        """Round distances: as µs, and how they are written."""
        centimetres = self._steps(self.span_us * speed / 2e4)
        return [
            (d * 2e4 / speed, f"{d:g} cm" if d < 100 else f"{d / 100:g} m") for d in centimetres
        ]
