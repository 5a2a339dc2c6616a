"""The forms in which humidity sensors send a value in two bytes.

Source: the sensors' data sheets; a sheet's ``form`` entry names one of these.
"""

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject
from pivet.sheets.model import Sheet
from pivet.signal.trace import BoolArray

Bytes = npt.NDArray[np.uint8]
FloatArray = npt.NDArray[np.float64]

SIGN = 0x80
COMPLEMENT_FROM = 0xFE
"""First byte of -51.2 to -0.1 in two's complement; as a magnitude it would be over 3200 °C."""


class Values(FrozenObject):
    """Values of one quantity, a row an exchange.

    Attributes:
        values: float64 (n,), in the rule's unit.
        well_formed: whether the two bytes are a number in this form at all, bool (n,).
        other_sign: the sign stands where the sheet does not have it, bool (n,); None where a form
            has no sign.
    """

    values: FloatArray
    well_formed: BoolArray
    other_sign: BoolArray | None = None


def tenths(high: Bytes, low: Bytes) -> Values:
    """(high << 8 | low) / 10: humidity of the 22-type.

    Args:
        high: the first of the two bytes, uint8 (n,).
        low: the second of them, uint8 (n,).
    """
    raw = high.astype(np.int32) << 8 | low
    return Values(raw / 10, np.ones(raw.shape, dtype=bool))


def signed_tenths(high: Bytes, low: Bytes) -> Values:
    """Sign and magnitude in tenths: temperature of the 22-type.

    Some parts send negative values in two's complement; FE and FF in the first byte can mean
    nothing else.

    Args:
        high: the first of the two bytes, uint8 (n,).
        low: the second of them, uint8 (n,).
    """
    raw = (high.astype(np.int32) & ~SIGN) << 8 | low
    signed = np.where(high & SIGN, -raw, raw)
    whole = high.astype(np.int32) << 8 | low
    other = high >= COMPLEMENT_FROM
    return Values(np.where(other, whole - 0x10000, signed) / 10, np.ones(raw.shape, bool), other)


def whole_and_tenth(high: Bytes, low: Bytes) -> Values:
    """High + low / 10, with low 0..9: humidity of the 11-type.

    Args:
        high: the first of the two bytes, uint8 (n,).
        low: the second of them, uint8 (n,).
    """
    return Values((high.astype(np.int32) * 10 + low) / 10, low <= 9)


def signed_whole_and_tenth(high: Bytes, low: Bytes) -> Values:
    """High + (low & 0x7F) / 10, negative when bit 7 of low is set: 11-type temperature.

    Some parts set bit 7 of the whole byte instead, which no temperature does otherwise.

    Args:
        high: the first of the two bytes, uint8 (n,).
        low: the second of them, uint8 (n,).
    """
    tenth = low & ~np.uint8(SIGN)
    other = (high & SIGN) != 0
    raw = (high.astype(np.int32) & ~SIGN) * 10 + tenth
    signed = np.where((low & SIGN) | (high & SIGN), -raw, raw)
    return Values(signed / 10, (tenth <= 9) & ~(other & ((low & SIGN) != 0)), other)


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
    """What each of the five bytes holds, for people.

    Args:
        sheet: the sheet of the sensor type.
    """
    names = [""] * 4
    for rule in sheet.values:
        for offset, part in enumerate(PARTS[rule.form]):
            names[rule.first + offset] = f"{rule.quantity}, {part}"
    return (*names, "check sum")
