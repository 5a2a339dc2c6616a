"""Derived quantities: from what was measured to what follows from it, each in its range.

Sources: dew point and vapour pressure by the Magnus form of Alduchov and Eskridge (1996),
J. Appl. Meteorol. 35, 601-609; heat index by the regression of Rothfusz (1990, NWS SR 90-23)
with the adjustments and the simple form of Steadman that the National Weather Service gives.
"""

from collections.abc import Callable, Mapping
from enum import IntEnum
from functools import cache

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject, FrozenValue
from pivet.readings.units import UNITS, Dimension

FloatArray = npt.NDArray[np.float64]

MAGNUS_A, MAGNUS_C, MAGNUS_HPA = 17.625, 243.04, 6.1094
"""Coefficients over water: -, °C, hPa."""

MAGNUS_LOW_C, MAGNUS_HIGH_C = -40.0, 50.0
"""The range over which the coefficients were fitted."""

LEAST_RH, MOST_RH = 1.0, 100.0

VAPOUR_G_K_PER_J = 2.16679
"""Molar mass of water over the gas constant, g K/J; absolute humidity = this x Pa / K."""

ZERO_C_K = 273.15

HEAT_LOW_F, HEAT_HIGH_F, HEAT_MOST_F = 40.0, 110.0, 137.0
"""From 40 °F (below it the heat index says nothing) up to where the NWS chart ends: 110 °F of
air, 137 °F felt."""

SIMPLE_BELOW_F = 80.0

ROTHFUSZ = (
    -42.379,
    2.04901523,
    10.14333127,
    -0.22475541,
    -6.83783e-3,
    -5.481717e-2,
    1.22874e-3,
    8.5282e-4,
    -1.99e-6,
)
"""Coefficients of 1, T, R, TR, T², R², T²R, TR², T²R²; T in °F, R in %."""


class Why(IntEnum):
    """Why a derived value is empty."""

    GIVEN = 0
    NOT_READ = 1
    TOO_COLD = 2
    TOO_WARM = 3
    TOO_DRY = 4
    TOO_DAMP = 5
    BEYOND = 6


class Derived(FrozenObject):
    """Values of a derived quantity.

    Attributes:
        values: float64 (n,), in the kept unit; NaN where it is not defined.
        why: ``Why`` of each, uint8 (n,).
    """

    values: FloatArray
    why: npt.NDArray[np.uint8]


class Rule(FrozenValue):
    """How a quantity follows from temperature and humidity.

    Attributes:
        quantity: its name, as in ``units.QUANTITIES``.
        decimals: with which it is shown.
        make: from °C and %RH, float64 (n,), the values.
        low_c, high_c: range of the air temperature, °C.
        most: largest value that is defined; beyond it the rule ends.
    """

    quantity: str
    decimals: int
    make: Callable[[FloatArray, FloatArray], FloatArray]
    low_c: float
    high_c: float
    most: float = np.inf


def vapour_pressure_hpa(air_c: FloatArray, humidity: FloatArray) -> FloatArray:
    """Pressure of the water vapour, hPa, from °C and %RH.

    Args:
        air_c: temperature of the air, float64 (n,), °C.
        humidity: float64 (n,), %RH.
    """
    saturated = MAGNUS_HPA * np.exp(MAGNUS_A * air_c / (air_c + MAGNUS_C))
    pressure: FloatArray = humidity / 100 * saturated
    return pressure


def dew_point(air_c: FloatArray, humidity: FloatArray) -> FloatArray:
    """Dew point, °C.

    Args:
        air_c: temperature of the air, float64 (n,), °C.
        humidity: float64 (n,), %RH.
    """
    gamma = np.log(humidity / 100) + MAGNUS_A * air_c / (air_c + MAGNUS_C)
    found: FloatArray = MAGNUS_C * gamma / (MAGNUS_A - gamma)
    return found


def absolute_humidity(air_c: FloatArray, humidity: FloatArray) -> FloatArray:
    """Water in the air, g/m³.

    Args:
        air_c: temperature of the air, float64 (n,), °C.
        humidity: float64 (n,), %RH.
    """
    pascal = 100 * vapour_pressure_hpa(air_c, humidity)
    found: FloatArray = VAPOUR_G_K_PER_J * pascal / (air_c + ZERO_C_K)
    return found


def heat_index(air_c: FloatArray, humidity: FloatArray) -> FloatArray:
    """Heat index, °C.

    Args:
        air_c: temperature of the air, float64 (n,), °C.
        humidity: float64 (n,), %RH.
    """
    fahrenheit = UNITS[Dimension.TEMPERATURE][1]
    t = air_c * fahrenheit.factor + fahrenheit.offset
    simple = 0.5 * (t + 61.0 + (t - 68.0) * 1.2 + humidity * 0.094)
    simple = (simple + t) / 2
    hot = simple >= SIMPLE_BELOW_F
    felt = np.where(hot, _rothfusz(t, humidity), simple) if hot.any() else simple
    found: FloatArray = (felt - fahrenheit.offset) / fahrenheit.factor
    return found


def _rothfusz(t: FloatArray, r: FloatArray) -> FloatArray:
    """The regression with its adjustments for dry and damp air, °F."""
    terms = (np.ones_like(t), t, r, t * r, t**2, r**2, t**2 * r, t * r**2, t**2 * r**2)
    felt = np.tensordot(np.array(ROTHFUSZ), np.stack(terms), axes=1)
    dry = np.maximum(13 - r, 0) / 4 * np.sqrt(np.maximum(17 - np.abs(t - 95), 0) / 17)
    damp = np.maximum(r - 85, 0) / 10 * np.maximum(87 - t, 0) / 5
    adjusted: FloatArray = felt - dry + np.where(t >= 80, damp, 0.0)
    return adjusted


def _celsius(fahrenheit: float) -> float:
    return (fahrenheit - 32.0) / 1.8


RULES: Mapping[str, Rule] = {
    rule.quantity: rule
    for rule in (
        Rule("dew point", 1, dew_point, MAGNUS_LOW_C, MAGNUS_HIGH_C),
        Rule("absolute humidity", 2, absolute_humidity, MAGNUS_LOW_C, MAGNUS_HIGH_C),
        Rule(
            "heat index",
            1,
            heat_index,
            _celsius(HEAT_LOW_F),
            _celsius(HEAT_HIGH_F),
            _celsius(HEAT_MOST_F),
        ),
    )
}
"""By quantity."""


def derive(rule: Rule, air_c: FloatArray, humidity: FloatArray) -> Derived:
    """A derived quantity; outside its range it is empty, and says why.

    Args:
        rule: one of ``RULES``.
        air_c: temperature of the air, float64 (n,), °C; NaN where it was not read.
        humidity: float64 (n,), %RH; NaN where it was not read.
    """
    if air_c.size == 1:
        return _derive_one(rule, float(air_c[0]), float(humidity[0]))
    why = np.zeros(air_c.size, dtype=np.uint8)
    with np.errstate(invalid="ignore", divide="ignore", over="ignore"):
        values = rule.make(air_c, humidity)
        why[values > rule.most] = Why.BEYOND
        for reason, there in _outside(rule, air_c, humidity):
            why[there] = reason
    return Derived(np.where(why == Why.GIVEN, values, np.nan), why)


def _outside(
    rule: Rule, air_c: FloatArray | float, humidity: FloatArray | float
) -> list[tuple[Why, npt.NDArray[np.bool_] | np.bool_ | bool]]:
    """Where a rule does not hold, of arrays as of single values; the last reason counts."""
    return [
        (Why.TOO_DAMP, humidity > MOST_RH),
        (Why.TOO_DRY, humidity < LEAST_RH),
        (Why.TOO_WARM, air_c > rule.high_c),
        (Why.TOO_COLD, air_c < rule.low_c),
        (Why.NOT_READ, (air_c != air_c) | (humidity != humidity)),
    ]


def _derive_one(rule: Rule, air_c: float, humidity: float) -> Derived:
    """The same for one pair, as a log has them: without passes over arrays of one."""
    reasons = [reason for reason, there in _outside(rule, air_c, humidity) if there]
    why, value = reasons[-1] if reasons else Why.GIVEN, np.full(1, np.nan)
    if why is Why.GIVEN:
        value = rule.make(np.array([air_c]), np.array([humidity]))
        if value[0] > rule.most:
            value, why = np.full(1, np.nan), Why.BEYOND
    return Derived(value, np.full(1, why, dtype=np.uint8))


@cache
def why_words(rule: Rule, why: Why) -> str:
    """Why a value is empty, in a few words; nothing for a value.

    Args:
        rule: what follows, and how.
        why: the reason.
    """
    name, beyond = rule.quantity, "is not defined"
    words = {
        Why.NOT_READ: ("no reading", 0.0, ""),
        Why.TOO_COLD: (f"{name} {beyond} below", rule.low_c, "°C"),
        Why.TOO_WARM: (f"{name} {beyond} above", rule.high_c, "°C"),
        Why.TOO_DRY: (f"{name} {beyond} below", LEAST_RH, "%RH"),
        Why.TOO_DAMP: (f"{name} {beyond} above", MOST_RH, "%RH"),
        Why.BEYOND: (f"{name} {beyond} above", rule.most, "°C felt"),
    }
    if why is Why.GIVEN:
        return ""
    text, limit, unit = words[why]
    return f"{text} {limit:.3g} {unit}" if unit else text
