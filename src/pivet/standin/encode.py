"""Values -> the bytes that a humidity sensor sends."""

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from pivet.errors import InputError
from pivet.sheets.inside import inside
from pivet.sheets.model import Sheet, ValueRule

Bytes = npt.NDArray[np.uint8]
FloatArray = npt.NDArray[np.float64]
Pair = tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]


def _tenths(tenth: npt.NDArray[np.int64]) -> Pair:
    return tenth >> 8, tenth & 0xFF


def _signed_tenths(tenth: npt.NDArray[np.int64]) -> Pair:
    size = np.abs(tenth)
    return (size >> 8) | np.where(tenth < 0, 0x80, 0), size & 0xFF


def _whole_and_tenth(tenth: npt.NDArray[np.int64]) -> Pair:
    return tenth // 10, tenth % 10


def _signed_whole_and_tenth(tenth: npt.NDArray[np.int64]) -> Pair:
    size = np.abs(tenth)
    sign: npt.NDArray[np.int64] = np.where(tenth < 0, np.int64(0x80), np.int64(0))
    return size // 10, (size % 10) | sign


ENCODERS: dict[str, Callable[[npt.NDArray[np.int64]], Pair]] = {
    "tenths": _tenths,
    "signed-tenths": _signed_tenths,
    "whole-and-tenth": _whole_and_tenth,
    "signed-whole-and-tenth": _signed_whole_and_tenth,
}


def encode(sheet: Sheet, values: dict[str, FloatArray]) -> Bytes:
    """Frames that hold these values.

    Args:
        sheet: the sensor type.
        values: by quantity, float64 (n,), rounded to the sensor's step.

    Returns:
        uint8 (n, 5), the sum in the last byte.

    Raises:
        InputError: the sensor cannot send a value.
    """
    size = len(next(iter(values.values())))
    frames = np.zeros((size, 5), dtype=np.int64)
    for rule in sheet.values:
        tenth = np.rint(np.rint(values[rule.quantity] / rule.step) * rule.step * 10)
        _refuse_unsendable(rule, sheet, tenth / 10)
        high, low = ENCODERS[rule.form](tenth.astype(np.int64))
        frames[:, rule.first], frames[:, rule.first + 1] = high, low
    frames[:, 4] = frames[:, :4].sum(axis=1) & 0xFF
    return frames.astype(np.uint8)


def _refuse_unsendable(rule: ValueRule, sheet: Sheet, values: FloatArray) -> None:
    wrong = values[~inside(values, *rule.possible)]
    if wrong.size:
        raise InputError(
            f"the {sheet.name} cannot send {rule.quantity} {wrong[0]:g} {rule.unit}",
            f"take a value from {rule.least:g} to {rule.most:g}",
        )
