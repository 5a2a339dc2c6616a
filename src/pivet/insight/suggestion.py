"""Which constants a firmware should have, and what stands behind them."""

from collections.abc import Mapping

from pivet.frozen import FrozenValue

RULE_OF_THREE = 3.0
"""What was never seen in n tries happens, at 95 %, less than 3 times in n."""


UNITS = {"_us": "µs", "_m_s": "m/s"}


class Constant(FrozenValue):
    """A constant that is suggested.

    Attributes:
        name: as in ``Reader``.
        label: for people.
        value: µs, or a plain number.
        why: the evidence, a sentence without its full stop.
    """

    name: str
    label: str
    value: float
    why: str

    @property
    def unit(self) -> str:
        """``µs`` or ``m/s``; empty for a plain number."""
        return next((unit for end, unit in UNITS.items() if self.name.endswith(end)), "")


class Suggestion(FrozenValue):
    """What some exchanges suggest for a kind of reader.

    Attributes:
        exchanges: on so many it rests.
        constants: the deciding one first; none where the exchanges support nothing.
        low_us, high_us: between them everything is read right; None where no value does.
        why_not: why nothing is suggested; empty otherwise.
        beside: what no constant helps against, a sentence without its full stop; may be empty.
    """

    exchanges: int
    constants: tuple[Constant, ...]
    low_us: float | None = None
    high_us: float | None = None
    why_not: str = ""
    beside: str = ""

    @property
    def beyond(self) -> float:
        """Share of exchanges that may lie beyond what was seen, at most, at 95 %."""
        return min(RULE_OF_THREE / self.exchanges, 1.0) if self.exchanges else 1.0

    @property
    def value(self) -> float | None:
        """The deciding constant; None where nothing is suggested."""
        return self.constants[0].value if self.constants else None

    def as_json(self) -> Mapping[str, object]:
        """As docs/json.md has it."""
        found: dict[str, object] = {
            one.name: round(one.value, 3) if one.unit else int(one.value) for one in self.constants
        }
        for name, value in (("low_us", self.low_us), ("high_us", self.high_us)):
            found[name] = None if value is None else round(value, 3)
        return found


class Found(FrozenValue):
    """What exchanges of several files say of one threshold.

    Attributes:
        low_us: the longest of what must be below it, µs; -inf for none.
        high_us: the shortest of what must be above it, µs; inf for none.
    """

    low_us: float
    high_us: float

    @property
    def holds(self) -> bool:
        """There is room between, and something on either side."""
        return self.low_us < self.high_us and self.low_us > 0 and self.high_us < float("inf")

    @property
    def middle_us(self) -> float:
        """As far from either side, µs."""
        return (self.low_us + self.high_us) / 2
