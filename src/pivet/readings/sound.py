"""Speed of sound, air temperature, distance, and what a vessel holds."""

import math

import numpy as np
import numpy.typing as npt

from pivet.errors import InputError
from pivet.frozen import FrozenObject, FrozenValue
from pivet.signal.seconds import S_NS
from pivet.signal.trace import Int64Array

FloatArray = npt.NDArray[np.float64]

ZERO_C_SPEED = 331.3
"""Speed of sound in dry air at 0 °C, m/s."""

ABSOLUTE_ZERO_C = -273.15
USUAL_AIR_C = 20.0
"""Taken when nobody gives an air temperature."""

COLDEST_C, WARMEST_C = -60.0, 80.0
"""Air temperatures that can be given."""

MEDIAN_OVER = 5
"""A median over 3 to 7 shots beats a single one (domain page, echo traps)."""

FIXED_SPEED = 340.0
"""What simple firmware counts with whatever the air, m/s."""


def speed_of_sound(air_c: FloatArray) -> FloatArray:
    """Speed of sound in air, m/s.

    Source: c = 331.3 x sqrt(1 + T / 273.15), dry air.

    Args:
        air_c: float64, any shape, °C.
    """
    speed: FloatArray = ZERO_C_SPEED * np.sqrt(1 + air_c / -ABSOLUTE_ZERO_C)
    return speed


def distance_m(flight_ns: Int64Array, speed: FloatArray) -> FloatArray:
    """Distance of which the sound flies there and back, m.

    Args:
        flight_ns: there and back, int64 (n,), ns.
        speed: of sound, float64 (n,), m/s.
    """
    distance: FloatArray = flight_ns * speed / (2 * S_NS)
    return distance


class Air(FrozenObject):
    """The air temperature over time, and where it comes from.

    Attributes:
        label: where it comes from, for people.
        times_ns, values: when which temperature was read, int64 and float64 (k,), °C; k >= 1.
        given: by the person or a thermometer; False for the usual 20 °C.
    """

    label: str
    times_ns: Int64Array
    values: FloatArray
    given: bool = True

    def at(self, times_ns: Int64Array) -> FloatArray:
        """The last temperature read at each time; before the first the first, °C.

        Args:
            times_ns: rising, int64 (n,), ns.
        """
        if self.values.size == 1:
            return np.full(times_ns.shape, self.values[0])
        place = np.searchsorted(self.times_ns, times_ns, side="right") - 1
        found: FloatArray = self.values[np.maximum(place, 0)]
        return found


def fixed_air(air_c: float, given: bool = True) -> Air:
    """The same air all the time.

    Args:
        air_c: its temperature, °C.
        given: by the person; else it is assumed.

    Raises:
        InputError: that is no temperature of air.
    """
    if not COLDEST_C <= air_c <= WARMEST_C:
        raise InputError(
            f"an air temperature of {air_c:g} °C cannot be used",
            f"give one from {COLDEST_C:g} to {WARMEST_C:g}",
        )
    label = "given" if given else "assumed"
    return Air(label, np.zeros(1, dtype=np.int64), np.array([float(air_c)]), given)


USUAL_AIR = fixed_air(USUAL_AIR_C, given=False)


class Vessel(FrozenValue):
    """An upright vessel below the sensor.

    Attributes:
        depth_m: from the sensor to the bottom, m.
        full_m: level at which it counts as full, m.
        area_m2: of its cross-section, m²; 0 when only the level matters.
    """

    depth_m: float
    full_m: float
    area_m2: float = 0.0

    def __post_init__(self) -> None:
        if not 0 < self.full_m <= self.depth_m:
            raise InputError(
                f"a vessel of {self.depth_m:g} m cannot be full at {self.full_m:g} m",
                "give a full level above 0 and no higher than the sensor",
            )

    def level_m(self, distance: float) -> float:
        """Level for a distance from the sensor to the surface, m; never below the bottom.

        Args:
            distance: from the sensor, m.
        """
        return max(self.depth_m - distance, 0.0)

    def share(self, level: float) -> float:
        """Level as a share of the full one.

        Args:
            level: of the surface, m.
        """
        return level / self.full_m

    def litres(self, level: float) -> float | None:
        """Volume, l; None when the cross-section is not known.

        Args:
            level: of the surface, m.
        """
        return level * self.area_m2 * 1000 if self.area_m2 else None


def round_area(diameter_m: float) -> float:
    """Cross-section of a round vessel, m².

    Args:
        diameter_m: its inner diameter, m.
    """
    return math.pi * diameter_m**2 / 4
