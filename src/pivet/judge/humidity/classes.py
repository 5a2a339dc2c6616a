"""The pulses of humidity exchanges, sorted into the windows of a sheet."""

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import DecodeMark, HumidityExchanges, layout
from pivet.decode.interface import ABSENT, WIDEST_NS
from pivet.frozen import FrozenObject

KEYS = (
    "ask",
    "release",
    "answer_low",
    "answer_high",
    "bit_low",
    "zero_high",
    "one_high",
    "end_low",
)
"""Keys of the windows, in the order of the rows of ``PulseClasses``."""

Int32Array = npt.NDArray[np.int32]


class PulseClasses(FrozenObject):
    """Pulse lengths by window: a row a window of ``KEYS``, a column an exchange.

    Attributes:
        least_ns, most_ns: shortest and longest pulse, int32 (8, n), ns; -1 for none.
        mean_ns: mean length, float32 (8, n), ns; 0 for none.
        count: number of pulses, int16 (8, n).
    """

    least_ns: Int32Array
    most_ns: Int32Array
    mean_ns: npt.NDArray[np.float32]
    count: npt.NDArray[np.int16]

    def counts_of(self, first: int, last: int) -> npt.NDArray[np.integer]:
        """Number of pulses of each window in some exchanges, (k, m).

        Args:
            first: number of the first exchange.
            last: one past the number of the last.
        """
        return self.count[:, first:last]


def sort_pulses(exchanges: HumidityExchanges) -> PulseClasses:
    """Shortest, longest and mean pulse of every window, exchange by exchange.

    Args:
        exchanges: decoded, columns of n exchanges.
    """
    size = len(exchanges)
    shape = (len(KEYS), size)
    least = np.full(shape, ABSENT, dtype=np.int32)
    most, mean = least.copy(), np.zeros(shape, dtype=np.float32)
    count = np.zeros(shape, dtype=np.int16)
    for row, widths, chosen in pulse_groups(exchanges):
        if widths.ndim == 1:
            there = widths != ABSENT
            least[row] = most[row] = widths
            mean[row], count[row] = np.where(there, widths, 0), there
            continue
        number = layout.BITS if chosen is None else np.count_nonzero(chosen, axis=0)
        there = np.broadcast_to(np.asarray(number) > 0, size)
        kept = widths if chosen is None else widths * chosen
        far = widths if chosen is None else np.where(chosen, widths, np.int32(WIDEST_NS))
        most[row] = np.where(there, kept.max(axis=0), ABSENT)
        least[row] = np.where(there, far.min(axis=0), ABSENT)
        mean[row] = kept.sum(axis=0, dtype=np.float32) / np.maximum(number, 1)
        count[row] = number
    return PulseClasses(least, most, mean, count)


PulseGroup = tuple[int, Int32Array, npt.NDArray[np.bool_] | None]
"""Row of a window in ``KEYS``; widths, ns, (n,) with -1 for none, or (40, n); which of the latter
belong to the window, None for all."""


def pulse_groups(exchanges: HumidityExchanges) -> Iterator[PulseGroup]:
    """All pulses of each window.

    Args:
        exchanges: decoded, columns of n exchanges.
    """
    widths_ns = exchanges.widths_ns
    yield 0, _whole_asks(exchanges), None
    for row, column in ((1, layout.RELEASE), (2, layout.ANSWER_LOW), (3, layout.ANSWER_HIGH)):
        yield row, widths_ns[column], None
    highs, lows = exchanges.highs_ns, exchanges.lows_ns
    ones = highs > exchanges.split_ns
    whole = bool((exchanges.bit_count == layout.BITS).all())
    yield 4, lows, None if whole else lows != ABSENT
    yield 5, highs, ~ones if whole else (highs != ABSENT) & ~ones
    yield 6, highs, ones
    yield 7, widths_ns[layout.END_LOW], None


def _whole_asks(exchanges: HumidityExchanges) -> Int32Array:
    """Lengths of the asks that were seen from their fall to their rise."""
    part = (exchanges.marks & (DecodeMark.ASK_UNSEEN | DecodeMark.ASK_CLIPPED)) != 0
    part |= exchanges.ended & (exchanges.end_ns == exchanges.body_ns)
    asks = np.minimum(exchanges.ask_ns, WIDEST_NS).astype(np.int32)
    return np.where(part, np.int32(ABSENT), asks)
