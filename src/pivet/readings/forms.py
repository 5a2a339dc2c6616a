"""The forms in which humidity sensors send a value in two bytes.

Source: the sensors' data sheets; a sheet's ``form`` entry names one of these.
"""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from pivet.sheets.model import Sheet

Bytes = npt.NDArray[np.uint8]
FloatArray = npt.NDArray[np.float64]
BoolArray = npt.NDArray[np.bool_]

SIGN = 0x80


@dataclass(frozen=True, slots=True, eq=False)
class Values:
    """Values of one quantity, a row an exchange.

    Attributes:
        values: float64 (n,), in the rule's unit.
        well_formed: whether the two bytes are a number in this form at all, bool (n,).
    """

    values: FloatArray = field(repr=False)
    well_formed: BoolArray = field(repr=False)


def tenths(high: Bytes, low: Bytes) -> Values:
    """(high << 8 | low) / 10: humidity of the 22-type."""
    raw = high.astype(np.int32) << 8 | low
    return Values(raw / 10, np.ones(raw.shape, dtype=bool))


def signed_tenths(high: Bytes, low: Bytes) -> Values:
    """Sign and magnitude in tenths: temperature of the 22-type; not two's complement."""
    raw = (high.astype(np.int32) & ~SIGN) << 8 | low
    signed = np.where(high & SIGN, -raw, raw)
    return Values(signed / 10, np.ones(raw.shape, dtype=bool))


def whole_and_tenth(high: Bytes, low: Bytes) -> Values:
    """High + low / 10, with low 0..9: humidity of the 11-type."""
    return Values((high.astype(np.int32) * 10 + low) / 10, low <= 9)


def signed_whole_and_tenth(high: Bytes, low: Bytes) -> Values:
    """High + (low & 0x7F) / 10, negative when bit 7 of low is set: 11-type temperature."""
    tenth = low & ~np.uint8(SIGN)
    raw = high.astype(np.int32) * 10 + tenth
    signed = np.where(low & SIGN, -raw, raw)
    return Values(signed / 10, tenth <= 9)


PARTS: dict[str, tuple[str, str]] = {
    "tenths": ("high", "low"),
    "signed-tenths": ("high", "low"),
    "whole-and-tenth": ("whole", "tenth"),
    "signed-whole-and-tenth": ("whole", "tenth"),
}
"""What the first and the second byte of a form hold."""

FORMS: dict[str, Callable[[Bytes, Bytes], Values]] = {
    "tenths": tenths,
    "signed-tenths": signed_tenths,
    "whole-and-tenth": whole_and_tenth,
    "signed-whole-and-tenth": signed_whole_and_tenth,
}


def byte_names(sheet: Sheet) -> tuple[str, ...]:
    """What each of the five bytes holds, for people."""
    names = [""] * 4
    for rule in sheet.values:
        for offset, part in enumerate(PARTS[rule.form]):
            names[rule.first + offset] = f"{rule.quantity}, {part}"
    return (*names, "check sum")
