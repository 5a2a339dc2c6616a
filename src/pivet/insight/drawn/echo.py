"""The time scale of stacked echoes, and the same as distances."""

import math
from dataclasses import dataclass

from pivet.readings.units import AS_KEPT, Dimension, Unit, UnitChoice
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
        sheet: the sheet of the sensor.
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

    def distance_ticks(self, speed: float, units: UnitChoice = AS_KEPT) -> list[tuple[float, str]]:
        """Round distances in the unit that was chosen: as µs, and how they are written."""
        unit = _unit(units)
        us_each = 2e6 / speed / unit.factor
        return [(d * us_each, _tick(d, unit)) for d in self._steps(self.span_us / us_each)]


def distance_text(distance_m: float, units: UnitChoice) -> str:
    """A distance in the unit that was chosen; while none was, in cm below a metre."""
    if Dimension.LENGTH in units.chosen:
        return units.words("distance", distance_m, 3)
    return f"{distance_m * 100:.1f} cm" if distance_m < 1 else f"{distance_m:.3f} m"


def round_text(distance_m: float, units: UnitChoice) -> str:
    """A distance to three figures, as the scale has it: ``2 cm``, ``4 m``."""
    unit = _unit(units)
    return _tick(float(f"{distance_m * unit.factor:.3g}"), unit)


def _unit(units: UnitChoice) -> Unit:
    """The unit of the scale: while none was chosen cm."""
    found = units if Dimension.LENGTH in units.chosen else units.with_unit("cm")
    return found.of("distance")


def _tick(value: float, unit: Unit) -> str:
    """A round distance; whole metres are not written in cm."""
    return (
        f"{value / 100:g} m" if unit.symbol == "cm" and value >= 100 else f"{value:g} {unit.symbol}"
    )
