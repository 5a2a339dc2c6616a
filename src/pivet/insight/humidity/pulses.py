"""All pulses of humidity exchanges."""

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import HumidityExchanges
from pivet.insight.pulses import BoolArray, Widths, one_each
from pivet.judge.humidity.classes import KEYS, pulse_groups
from pivet.sheets.model import Sheet, Window


def widths(exchanges: HumidityExchanges, sheet: Sheet) -> Iterator[Widths]:
    """All pulses, window by window.

    Args:
        exchanges: decoded, columns of n exchanges.
        sheet: the sheet of the sensor type.
    """
    for row, lengths, chosen in pulse_groups(exchanges):
        window = sheet.windows[KEYS[row]]
        yield one_each(window, lengths) if lengths.ndim == 1 else _bits(window, lengths, chosen)


def _bits(window: Window, lengths: npt.NDArray[np.int32], chosen: BoolArray | None) -> Widths:
    """Pulses of bits, a bit a row, an exchange a column."""
    size = lengths.shape[1]
    if chosen is None:
        return Widths(window, lengths.ravel(), lambda at: (at % size, at // size))
    flat = np.flatnonzero(chosen)
    return Widths(window, lengths[chosen], lambda at: (flat[at] % size, flat[at] // size))
