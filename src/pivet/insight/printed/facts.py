"""What exchanges gave, and what mistakes would make of it."""

from collections.abc import Mapping
from typing import NamedTuple

import msgspec

from pivet.frozen import FrozenValue


class Mistake(NamedTuple):
    """A value as a mistake makes it.

    Attributes:
        code: the code of the mistake, see docs/json.md.
        value: in the kept unit of the quantity.
        line: the arithmetic that goes wrong, for people.
    """

    code: str
    value: float
    line: str


class Truth(FrozenValue):
    """One quantity of an exchange.

    Attributes:
        value: in the kept unit.
        decimals: with which it is shown.
        mistakes: values that a mistake would make of it.
    """

    value: float
    decimals: int
    mistakes: tuple[Mistake, ...] = ()

    @property
    def text(self) -> str:
        """As people read it."""
        return f"{self.value:z.{self.decimals}f}"


class Fact(FrozenValue):
    """What one exchange gave that should have given something.

    Attributes:
        exchange: its number on the wire, from 0.
        end_s: when it was over, s.
        device: code of the 1-Wire device; empty for other families.
        truths: by quantity; empty where it gave no reading.
    """

    exchange: int
    end_s: float
    device: str = ""
    truths: Mapping[str, Truth] = msgspec.field(default_factory=dict)
