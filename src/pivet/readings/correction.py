"""Corrections of a sensor's readings: by an offset, or through two points.

The raw value is always kept; a correction only acts where a value is shown or counted with.
"""

from typing import overload

import numpy as np
import numpy.typing as npt

from pivet.errors import InputError
from pivet.frozen import FrozenValue
from pivet.readings.units import AS_KEPT, UnitChoice

FloatArray = npt.NDArray[np.float64]


class Correction(FrozenValue):
    """Corrected = gain x raw + offset.

    Attributes:
        gain: without unit; 1 for a plain offset.
        offset: in the quantity's kept unit.
        points: raw and true values that it was made from, if it was made from two.
    """

    gain: float = 1.0
    offset: float = 0.0
    points: tuple[tuple[float, float], ...] = ()

    @overload
    def applied(self, raw: float) -> float: ...

    @overload
    def applied(self, raw: FloatArray) -> FloatArray: ...

    def applied(self, raw: float | FloatArray) -> float | FloatArray:
        """Raw values, corrected; in the kept unit.

        Args:
            raw: in the kept unit.
        """
        return self.gain * raw + self.offset

    def text(self, quantity: str, units: UnitChoice = AS_KEPT) -> str:
        """What it does, in a few words.

        Args:
            quantity: what is measured.
            units: the units in which values are shown.
        """
        unit = units.of(quantity)
        if not self.points:
            return f"{units.shown_difference(quantity, self.offset):+.3g} {unit.symbol}"
        rows = (
            f"{units.shown(quantity, raw):.4g} → {units.shown(quantity, true):.4g}"
            for raw, true in self.points
        )
        return f"{', '.join(rows)} {unit.symbol}"


def by_offset(offset: float) -> Correction:
    """Adds so much to every value, in the kept unit.

    Args:
        offset: in the kept unit.

    Raises:
        InputError: that is no number.
    """
    if not np.isfinite(offset):
        raise InputError("an offset must be a number", "give one such as -1.2")
    return Correction(offset=float(offset))


def by_points(one: tuple[float, float], other: tuple[float, float]) -> Correction:
    """The line through two points, each a raw and a true value in the kept unit.

    Args:
        one: raw and true value, in the kept unit.
        other: the same at another place.

    Raises:
        InputError: they do not make a line that rises.
    """
    (raw, true), (raw_2, true_2) = one, other
    if not np.isfinite((raw, true, raw_2, true_2)).all() or raw == raw_2:
        raise InputError("two points of a correction need two raw values", "give others")
    gain = (true_2 - true) / (raw_2 - raw)
    if gain <= 0:
        raise InputError(
            "with these two points a larger raw value would become a smaller one",
            "check which is raw and which is true",
        )
    points = tuple(sorted((one, other)))
    return Correction(gain, true - gain * raw, points)
