"""Units: which a quantity can be shown in, and how they are converted.

Readings are kept in the first unit of their dimension (°C, %RH, g/m³, m, l, %); every other is
only for showing them.
"""

from collections.abc import Mapping
from enum import StrEnum
from functools import cached_property
from typing import NamedTuple, overload

import msgspec
import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenValue

FloatArray = npt.NDArray[np.float64]


class Dimension(StrEnum):
    """What can be measured in the same units."""

    TEMPERATURE = "temperature"
    HUMIDITY = "relative humidity"
    DENSITY = "absolute humidity"
    LENGTH = "length"
    VOLUME = "volume"
    SHARE = "share"


class Unit(FrozenValue):
    """A unit: shown = kept x factor + offset.

    Attributes:
        symbol: as shown and as the command line takes it.
        factor, offset: from the kept unit to this one.
        decimals: how many more (or fewer) than in the kept unit.
    """

    symbol: str
    factor: float = 1.0
    offset: float = 0.0
    decimals: int = 0


UNITS: Mapping[Dimension, tuple[Unit, ...]] = {
    Dimension.TEMPERATURE: (Unit("°C"), Unit("°F", 1.8, 32.0), Unit("K", 1.0, 273.15)),
    Dimension.HUMIDITY: (Unit("%RH"),),
    Dimension.DENSITY: (Unit("g/m³"),),
    Dimension.LENGTH: (
        Unit("m"),
        Unit("cm", 100.0, decimals=-2),
        Unit("mm", 1000.0, decimals=-3),
        Unit("in", 1 / 0.0254, decimals=-1),
    ),
    Dimension.VOLUME: (Unit("l"),),
    Dimension.SHARE: (Unit("%"),),
}
"""The units of each dimension, the kept one first; 1 in is 25.4 mm (international inch)."""

QUANTITIES: Mapping[str, Dimension] = {
    "humidity": Dimension.HUMIDITY,
    "temperature": Dimension.TEMPERATURE,
    "dew point": Dimension.TEMPERATURE,
    "heat index": Dimension.TEMPERATURE,
    "absolute humidity": Dimension.DENSITY,
    "distance": Dimension.LENGTH,
    "level": Dimension.LENGTH,
    "fill": Dimension.SHARE,
    "volume": Dimension.VOLUME,
}
"""Every quantity, in the order in which they are shown."""


def kept_unit(quantity: str) -> str:
    """The unit in which a quantity is kept.

    Args:
        quantity: what is measured.
    """
    return UNITS[QUANTITIES[quantity]][0].symbol


NO_UNIT = Unit("")


class UnitChoice(FrozenValue, dict=True):
    """In which units somebody wants to see readings; every change gives a new object.

    Attributes:
        chosen: symbol by dimension; others are shown as they are kept.
    """

    chosen: Mapping[Dimension, str] = msgspec.field(default_factory=dict)

    def of(self, quantity: str) -> Unit:
        """The unit for a quantity; of one that is not known an empty one.

        Args:
            quantity: what is measured.
        """
        return self._units.get(quantity, NO_UNIT)

    @cached_property
    def _units(self) -> Mapping[str, Unit]:
        """By quantity."""
        chosen = {
            dimension: next(
                (unit for unit in units if unit.symbol == self.chosen.get(dimension)), units[0]
            )
            for dimension, units in UNITS.items()
        }
        return {quantity: chosen[dimension] for quantity, dimension in QUANTITIES.items()}

    def next(self, dimension: Dimension) -> "UnitChoice":
        """The next unit of a dimension; after the last the first.

        Args:
            dimension: the dimension of the unit.
        """
        symbols = [unit.symbol for unit in UNITS[dimension]]
        here = symbols.index(self.chosen.get(dimension, symbols[0]))
        return self.with_unit(symbols[(here + 1) % len(symbols)])

    def with_unit(self, symbol: str) -> "UnitChoice":
        """Another unit for the dimension that it belongs to.

        Args:
            symbol: the symbol of the unit.
        """
        dimension = dimension_of(symbol)
        return self if dimension is None else UnitChoice({**self.chosen, dimension: symbol})

    @overload
    def shown(self, quantity: str, values: float) -> float: ...

    @overload
    def shown(self, quantity: str, values: FloatArray) -> FloatArray: ...

    def shown(self, quantity: str, values: float | FloatArray) -> float | FloatArray:
        """Kept values in the unit that is shown.

        Args:
            quantity: what is measured.
            values: in the kept unit, one or an array.
        """
        unit = self.of(quantity)
        return values * unit.factor + unit.offset

    def kept(self, quantity: str, value: float) -> float:
        """A value that was given in the unit that is shown, in the kept one.

        Args:
            quantity: what is measured.
            value: in the unit that is chosen.
        """
        unit = self.of(quantity)
        return (value - unit.offset) / unit.factor

    def shown_difference(self, quantity: str, difference: float) -> float:
        """A difference of two values in the unit that is shown: 1 °C is 1.8 °F.

        Args:
            quantity: what is measured.
            difference: in the kept unit.
        """
        return difference * self.of(quantity).factor

    def kept_difference(self, quantity: str, difference: float) -> float:
        """A difference that was given in the unit that is shown, in the kept one.

        Args:
            quantity: what is measured.
            difference: in the unit that is chosen.
        """
        return difference / self.of(quantity).factor

    def decimals(self, quantity: str, decimals: int) -> int:
        """With how many decimals a value of so many in the kept unit is shown.

        Args:
            quantity: what is measured.
            decimals: to which a value is known in the kept unit.
        """
        return max(decimals + self.of(quantity).decimals, 0)

    def text(self, quantity: str, value: float, decimals: int) -> str:
        """A kept value as people read it, without its unit.

        Args:
            quantity: what was measured.
            value: in the unit in which it is kept.
            decimals: to which it is known in that unit.
        """
        return f"{self.shown(quantity, value):z.{self.decimals(quantity, decimals)}f}"

    def words(self, quantity: str, value: float, decimals: int) -> str:
        """A kept value as people read it, with its unit.

        Args:
            quantity: what was measured.
            value: in the unit in which it is kept.
            decimals: to which it is known in that unit.
        """
        return f"{self.text(quantity, value, decimals)} {self.of(quantity).symbol}"


class Amount(NamedTuple):
    """A value inside a text, to be written in the unit that is chosen.

    Attributes:
        quantity: what it is; of a difference one whose units have no offset.
        value: in the kept unit.
        decimals: with which it is shown in the kept unit.
    """

    quantity: str
    value: float
    decimals: int


def chosen_symbols() -> list[str]:
    """The symbols among which one can choose."""
    return [unit.symbol for units in UNITS.values() if len(units) > 1 for unit in units]


def symbol_of(written: str) -> str | None:
    """The symbol of a unit as people type it: ``F`` and ``f`` for °F; None when there is none.

    Args:
        written: as a person writes it.
    """
    plain = written.strip().lower().removeprefix("°").removeprefix("deg")
    every = [unit.symbol for units in UNITS.values() for unit in units]
    return next((known for known in every if known.lower().removeprefix("°") == plain), None)


def dimension_of(symbol: str) -> Dimension | None:
    """The dimension that a unit belongs to; None when there is no such unit.

    Args:
        symbol: the symbol of the unit.
    """
    return next((key for key, units in UNITS.items() if symbol in [u.symbol for u in units]), None)


AS_KEPT = UnitChoice()
