"""Bytes of frames -> values, as a sheet's value rules say."""

import numpy as np

from pivet.frozen import FrozenObject
from pivet.readings.forms import FORMS, Bytes, FloatArray
from pivet.sheets.inside import inside
from pivet.sheets.model import ValueRule
from pivet.signal.trace import BoolArray

STEP_SLACK = 1e-6
"""Binary fractions of tenths are not exact."""


class Quantity(FrozenObject):
    """One quantity over n exchanges.

    Attributes:
        rule: how it was made.
        values: float64 (n,), in ``rule.unit``.
        possible: the sensor can send this value, bool (n,).
        in_range: inside the range for which the sheet promises its accuracy, bool (n,).
        other_sign: its sign stands where the sheet does not have it, bool (n,).
    """

    rule: ValueRule
    values: FloatArray
    possible: BoolArray
    in_range: BoolArray
    other_sign: BoolArray


def quantity(rule: ValueRule, packed: Bytes) -> Quantity:
    """Values of one rule.

    Args:
        rule: which bytes, which form, which range.
        packed: frames, uint8 (5, n).
    """
    made = FORMS[rule.form](packed[rule.first], packed[rule.first + 1])
    values = made.values
    steps = values / rule.step
    possible = made.well_formed & inside(values, *rule.possible)
    possible &= np.abs(steps - np.rint(steps)) < STEP_SLACK
    in_range = inside(values, *rule.promised)
    other = made.other_sign if made.other_sign is not None else np.zeros(values.shape, dtype=bool)
    return Quantity(rule, values, possible, in_range, other)


def decimals_of(rule: ValueRule) -> int:
    """As many decimals as the sensor's step has.

    Args:
        rule: how the sheet reads it.
    """
    return 0 if rule.step >= 1 else 1


def shown(value: float, rule: ValueRule) -> str:
    """A value as people read it.

    Args:
        value: in the unit of the rule.
        rule: that made it.
    """
    return f"{value:.{decimals_of(rule)}f}"
