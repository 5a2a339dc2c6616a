"""Telling 0 from 1 by where the widths of one frame fall."""

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity.layout import BITS
from pivet.decode.interface import WIDEST_NS
from pivet.signal.trace import BoolArray

Int32Array = npt.NDArray[np.int32]

LONGEST_LOW_NS = np.int32(160_000)
"""One stuck low must not spoil the mean of a frame."""

LONGEST_IN_LOWS = 1.8
"""A high longer than this many bit lows says no more than "1" (1 / low is 70 / 50)."""

ONE_KIND_IN_LOWS = 0.35
"""Highs that spread less than this many bit lows are all of one kind: 0 and 1 differ by
44 µs, 0.88 lows."""

SPLIT_IN_LOWS = 0.96
"""Between 0 (26 µs) and 1 (70 µs) when a frame has only one kind, in bit lows (50 µs)."""


def split_widths(lows: Int32Array, highs: Int32Array, count: npt.NDArray[np.int8]) -> Int32Array:
    """The high width that parts 0 from 1, frame by frame.

    Highs fall into two heaps; the split lies midway between their means.  A frame with
    one heap only is measured against its own bit lows, so that the sensor's clock
    does not matter.

    Args:
        lows: low of each bit, int32 (40, n), ns; of each exchange only the first
            ``count`` are looked at.
        highs: high of each bit, likewise.
        count: complete bits, int8 (n,).

    Returns:
        int32 (n,), ns; 0 for a frame without bits.
    """
    got = _received(count)
    number = np.maximum(count, 1).astype(np.float32)
    low = _total(np.minimum(lows, LONGEST_LOW_NS), got) / number
    cap = (LONGEST_IN_LOWS * low).astype(np.int32)
    capped = np.minimum(highs, cap)
    least = (capped if got is None else np.where(got, capped, np.int32(WIDEST_NS))).min(axis=0)
    most = (capped if got is None else np.where(got, capped, np.int32(0))).max(axis=0)
    ones = capped > (least + most) // 2
    if got is not None:
        ones &= got
    one_count = np.count_nonzero(ones, axis=0)
    one_sum = _total(capped, ones)
    zero_sum = _total(capped, got) - one_sum
    split = zero_sum / np.maximum(count - one_count, 1) + one_sum / np.maximum(one_count, 1)
    one_kind = most - least < ONE_KIND_IN_LOWS * low
    split = np.where(one_kind, SPLIT_IN_LOWS * low, split / 2)
    return np.where(count > 0, split, 0).astype(np.int32)


def pack_bits(
    highs: Int32Array, split: Int32Array, count: npt.NDArray[np.int8]
) -> npt.NDArray[np.uint8]:
    """The bits as bytes, most significant first; uint8 (5, n).

    Args:
        highs: widths of the high pulses, int32 (bits, n), ns.
        split: a longer one is a 1, ns, (n,).
        count: of bits that each frame has, (n,).
    """
    ones = highs > split
    got = _received(count)
    return np.packbits(ones if got is None else ones & got, axis=0)


def _received(count: npt.NDArray[np.int8]) -> BoolArray | None:
    """Which bits came, bool (40, n); None when all did."""
    return None if (count == BITS).all() else np.arange(BITS)[:, None] < count


def _total(widths: Int32Array, chosen: BoolArray | None) -> npt.NDArray[np.float32]:
    kept = widths if chosen is None else widths * chosen
    total: npt.NDArray[np.float32] = kept.sum(axis=0, dtype=np.float32)
    return total
