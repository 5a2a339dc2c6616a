"""What a printed number is beside what the wire gave: the same, an older one, or a mistake."""

import math
from collections.abc import Iterator

from pivet.frozen import FrozenValue
from pivet.insight.printed.facts import Truth
from pivet.insight.printed.lines import Number
from pivet.readings.units import Unit

SAME, STALE = "same", "stale"
DUST = 1e-6
DISTANCE = "distance"
NEAR_M = 0.001
"""Distances that differ by less are the same: no firmware's timer is finer."""


class Meant(FrozenValue):
    """A printed number with what it is of.

    Attributes:
        quantity: the quantity of the wire.
        unit: the unit in which it was printed.
        fahrenheit: its line says °F.
        number: as it was printed.
    """

    quantity: str
    unit: Unit
    number: Number
    fahrenheit: bool = False


def codes_of(meant: Meant, truth: Truth, before: Truth | None) -> dict[str, str]:
    """What a number may be; each code with the arithmetic behind it, ``same`` alone when it is.

    Args:
        meant: the number; it has a value.
        truth: what the exchange gave.
        before: what the exchange before gave; None where there is none.
    """
    if _equals(meant, truth):
        return {SAME: ""}
    found: dict[str, str] = {}
    if before is not None and _equals(meant, before):
        found[STALE] = f"{before.text} is what the exchange before gave"
    for code, line in _own(meant, truth):
        found.setdefault(code, line)
    for code, value, line in truth.mistakes:
        if _shown_as(meant, _in_unit(meant, value)):
            found.setdefault(code, line)
    if not found and before is not None:
        # An older value may be mistaken, too.
        late = codes_of(meant, before, None)
        if late:
            code, line = next(iter(late.items()))
            found[STALE] = f"{before.text} is what the exchange before gave, and {code}: {line}"
    return found


def _in_unit(meant: Meant, value: float) -> float:
    return value * meant.unit.factor + meant.unit.offset


def _wire(meant: Meant, truth: Truth) -> tuple[float, int]:
    """What the wire gave in the printed unit, and with how many decimals."""
    return _in_unit(meant, truth.value), max(truth.decimals + meant.unit.decimals, 0)


def _equals(meant: Meant, truth: Truth) -> bool:
    wire, decimals = _wire(meant, truth)
    off = abs(_value(meant) - wire)
    if off < DUST:
        return True
    if meant.quantity == DISTANCE:
        near = NEAR_M * meant.unit.factor
        return off <= near or (meant.number.decimals >= decimals and off <= 0.5 * 10**-decimals)
    return meant.number.decimals >= decimals and off <= 0.5 * 10**-decimals * (1 - DUST)


def _value(meant: Meant) -> float:
    assert meant.number.value is not None
    return meant.number.value


def _own(meant: Meant, truth: Truth) -> Iterator[tuple[str, str]]:
    """Mistakes that any firmware can make of any value."""
    value, decimals = _value(meant), meant.number.decimals
    wire, _ = _wire(meant, truth)
    text = truth.text
    if value == int(value) and value in (math.trunc(wire), math.floor(wire)):
        if decimals:
            yield (
                "tenths-lost",
                f"{text}: only {int(value)} is kept, printed as {meant.number.text}",
            )
        else:
            yield "whole-part-only", f"{text}: a whole number is made of it, {int(value)}"
    if abs(value - wire) <= 0.5 * 10**-decimals + DUST:
        yield "rounded", f"{text}: rounded to {decimals} decimals"
    elif decimals and abs(value - math.trunc(wire * 10**decimals) / 10**decimals) < DUST:
        yield "rounded", f"{text}: cut off after {decimals} decimals"
    if meant.quantity == "temperature":
        celsius, fahrenheit = truth.value, truth.value * 1.8 + 32
        other = celsius if meant.fahrenheit else fahrenheit
        if _shown_as(meant, other):
            yield "fahrenheit", f"{celsius:g} °C x 1.8 + 32 = {fahrenheit:.4g} °F"
    if meant.quantity != DISTANCE and _shown_as(meant, wire * 10):
        yield "tenths-lost", f"{text}: the tenths are not divided by 10"


def _shown_as(meant: Meant, value: float) -> bool:
    """The number may be this value, rounded or cut off."""
    printed, scale = _value(meant), 10.0**meant.number.decimals
    if meant.quantity == DISTANCE and abs(printed - value) <= NEAR_M * meant.unit.factor:
        return True
    if abs(printed - value) <= 0.5 / scale + DUST:
        return True
    return abs(printed - math.trunc(value * scale + math.copysign(DUST, value)) / scale) < DUST
