"""All pulses of 1-Wire transactions."""

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from pivet.decode.interface import ABSENT
from pivet.decode.onewire import OneWireExchanges
from pivet.insight.pulses import BoolArray, Int64Array, Widths, one_each
from pivet.judge.onewire.classes import KEYS, PLAIN, line_groups, slot_groups
from pivet.sheets.model import Sheet, Window


def widths(exchanges: OneWireExchanges, sheet: Sheet) -> Iterator[Widths]:
    """All pulses, window by window; those at overdrive speed only where there are any.

    Args:
        exchanges: decoded, columns of n transactions.
        sheet: the sheet of the sensor type.
    """
    fast, groups = exchanges.fast, list(line_groups(exchanges))
    for row, lengths in groups:
        yield one_each(sheet.windows[KEYS[row]], np.where(fast, np.int32(ABSENT), lengths))
    if fast.any():
        for row, lengths in groups:
            window = sheet.windows[KEYS[row + len(PLAIN)]]
            yield one_each(window, np.where(fast, lengths, np.int32(ABSENT)))
    if exchanges.low_ns.size:
        ends = np.cumsum(exchanges.slot_count)
        for row, lengths, there in slot_groups(exchanges):
            yield _slots(sheet.windows[KEYS[row]], lengths, there, ends, exchanges.first_slot)


def _slots(
    window: Window,
    lengths: npt.NDArray[np.int32],
    there: BoolArray,
    ends: Int64Array,
    first: Int64Array,
) -> Widths:
    flat = np.flatnonzero(there)

    def find(at: Int64Array) -> tuple[Int64Array, Int64Array]:
        owner = np.searchsorted(ends, flat[at], side="right")
        return owner, flat[at] - first[owner]

    return Widths(window, lengths[flat], find)
