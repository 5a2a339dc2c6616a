"""Where stacked echoes stand: a row a shot, on a scale of time, which is one of distances, too."""

import math

import numpy as np
import numpy.typing as npt

from pivet.decode.echo import EchoExchanges
from pivet.decode.interface import ABSENT
from pivet.frozen import FrozenValue
from pivet.insight.drawn.picture import Points
from pivet.insight.drawn.place import Rect
from pivet.judge.echo.judged import JudgedShots
from pivet.judge.wording import seconds
from pivet.readings.units import AS_KEPT, Dimension, Unit, UnitChoice
from pivet.sheets.model import Sheet

SPARE = 1.12
"""A little more than the longest echo is shown."""

LEAST_US = 500.0
FAR_PX = 64.0
STEPS = (1, 2, 5, 10)
LEAD_PX = 10.0
CHIPS_HEIGHT = 28.0
AXIS = 20.0
LABEL = 118.0
VALUE = 92.0
ROW = 27.0
USUAL_US = 1000.0
"""Shown where no shot has an echo."""


class EchoScale(FrozenValue):
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


class ShotsLayout:
    """The places of the shots about a chosen one.

    Args:
        area: where they stand, with the line of pulses above and both axes.
        flights_ns: length of each echo of the wire, (n,), ns; ``ABSENT`` for none.
        index: the chosen shot.
        sheet: the sheet of the sensor.

    Attributes:
        grid: where the rows stand.
        numbers: the shots that are shown, the chosen one in the middle.
        scale: from time to places.
    """

    def __init__(
        self, area: Rect, flights_ns: npt.NDArray[np.integer], index: int, sheet: Sheet
    ) -> None:
        self.grid = grid = area.inside(0, CHIPS_HEIGHT + AXIS, 0, AXIS)
        count, total = max(int(grid.height // ROW), 1), flights_ns.size
        first = min(max(index - count // 2, 0), max(total - count, 0))
        self.numbers = range(first, min(first + count, total))
        flights = flights_ns[self.numbers.start : self.numbers.stop]
        there = flights[flights != ABSENT]
        longest_us = float(there.max()) / 1000 if there.size else USUAL_US
        width = grid.width - LABEL - VALUE
        self.scale = EchoScale(grid.left + LABEL, width, longest_us, sheet)

    def row(self, number: int) -> Rect:
        """All of a shot.

        Args:
            number: of the shot, one of ``numbers``.
        """
        top = self.grid.top + (number - self.numbers.start) * ROW
        return self.grid._replace(top=top, height=ROW)

    def name(self, number: int) -> Rect:
        """Its number and time.

        Args:
            number: of the shot.
        """
        return self.row(number).inside(18, 0, self.grid.width - LABEL + 12, 0)

    def value(self, number: int) -> Rect:
        """Its distance.

        Args:
            number: of the shot.
        """
        return self.row(number).inside(self.grid.width - VALUE, 0, 4, 0)

    def line(self, number: int, width_us: float) -> Points:
        """The line of its echo.

        Args:
            number: of the shot.
            width_us: how long the echo lasts, µs.
        """
        box, scale = self.row(number).inside(0, 6, 0, 6), self.scale
        rise, fall = scale.x_of(0.0), scale.x_of(width_us)
        points = ((rise - 6, box.bottom), (rise, box.bottom), (rise, box.top), (fall, box.top))
        if width_us > scale.span_us:
            return points
        return (*points, (fall, box.bottom), (min(fall + 8, scale.right), box.bottom))

    def between(self, low_us: float, high_us: float) -> Rect:
        """A stretch of time over all rows.

        Args:
            low_us: its beginning, µs.
            high_us: its end, µs.
        """
        left, right = self.scale.x_of(low_us), self.scale.x_of(high_us)
        return self.grid._replace(left=left, width=right - left)

    def above(self, x: float) -> Rect:
        """Room for the words of a distance.

        Args:
            x: where it stands, px.
        """
        return Rect(x - 40, self.grid.top - AXIS, 80, AXIS - 3)

    def below(self, x: float) -> Rect:
        """Room for the words of a time.

        Args:
            x: where it stands, px.
        """
        return Rect(x - 40, self.grid.bottom + 3, 80, AXIS - 3)

    def number_at(self, x: float, y: float) -> int | None:
        """The shot under a point.

        Args:
            x: how far to the right, px.
            y: how far down, px.
        """
        if not self.grid.holds(x, y):
            return None
        place = int((y - self.grid.top) // ROW)
        return self.numbers[place] if place < len(self.numbers) else None


def shot_words(exchanges: EchoExchanges, number: int) -> str:
    """A shot's number and when it was.

    Args:
        exchanges: of the wire.
        number: of the shot.
    """
    return f"{number} · {seconds(int(exchanges.start_ns[number])).rpartition('.')[0]}"


def distance_words(judged: JudgedShots, number: int, units: UnitChoice) -> str:
    """What a shot measured, in brackets where it is not to be used.

    Args:
        judged: of the wire.
        number: of the shot; it has an echo.
        units: the units in which values are shown.
    """
    text = distance_text(float(judged.distance[number]), units)
    return text if judged.given[number] else f"({text})"


def median_us(judged: JudgedShots, number: int) -> float | None:
    """The median of the shots up to one, as the time of its echo, µs; None where there is none.

    Args:
        judged: of the wire.
        number: of the shot.
    """
    shot = int(judged.shot_of[number])
    if shot < 0:
        return None
    return 2e6 * float(judged.shots.median[shot]) / float(judged.speed[number])


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
