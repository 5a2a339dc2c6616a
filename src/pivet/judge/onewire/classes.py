"""The pulses of 1-Wire transactions, sorted into the windows of the sheet."""

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from pivet.decode.interface import ABSENT, WIDEST_NS
from pivet.decode.onewire import DecodeMark, OneWireExchanges, Speaker
from pivet.frozen import FrozenObject
from pivet.signal.trace import BoolArray, Int64Array

PLAIN = ("reset", "presence_wait", "presence", "phase", "one", "zero", "hold", "slot", "recovery")
FAST = tuple(f"fast_{key}" for key in PLAIN)
KEYS = PLAIN + FAST
"""Keys of the windows, in the order of the rows of ``SlotClasses``."""

RESET, WAIT, PRESENCE, PHASE, ONE, ZERO, HOLD, SLOT, RECOVERY = range(len(PLAIN))

Int32Array = npt.NDArray[np.int32]
AT_ONCE = 1 << 15
"""Slots that are sorted together: their columns stay in the processor's cache."""
NONE = np.int32(ABSENT)


class SlotClasses(FrozenObject):
    """Pulse lengths by window: a row a window of ``KEYS``, a column a transaction.

    Attributes:
        least_ns, most_ns: shortest and longest pulse, int32 (18, n), ns; -1 for none.
        count: number of pulses, int32 (18, n).
    """

    least_ns: Int32Array
    most_ns: Int32Array
    count: Int32Array

    def counts_of(self, first: int, last: int) -> npt.NDArray[np.integer]:
        """Number of pulses of each window in some exchanges, (k, m).

        Args:
            first: number of the first exchange.
            last: one past the number of the last.
        """
        return self.count[:, first:last]


def _int32(lengths_ns: Int64Array) -> Int32Array:
    return np.minimum(lengths_ns, WIDEST_NS).astype(np.int32)


def sort_pulses(exchanges: OneWireExchanges) -> SlotClasses:
    """Shortest and longest pulse of every window, transaction by transaction.

    Args:
        exchanges: decoded, columns of n exchanges.
    """
    size = len(exchanges)
    least = np.full((len(KEYS), size), ABSENT, dtype=np.int32)
    most = least.copy()
    count = np.zeros((len(KEYS), size), dtype=np.int32)
    fast = exchanges.fast
    for row, lengths in line_groups(exchanges):
        for own_row, there in ((row, ~fast), (row + len(PLAIN), fast)):
            chosen = np.where(there, lengths, NONE)
            least[own_row] = most[own_row] = chosen
            count[own_row] = chosen != ABSENT
    for begin, end in _pieces(exchanges.slot_count):
        part = exchanges.rows(begin, end)
        own = np.flatnonzero(part.slot_count)
        first = part.first_slot[own]
        for row, lengths, there in slot_groups(part):
            _extremes(lengths, there, first, own + begin, row, least, most, count)
    return SlotClasses(least, most, count)


def _pieces(slot_count: Int64Array) -> Iterator[tuple[int, int]]:
    """Transactions whose slots are sorted together: from the first, up to the last; none empty."""
    ends = np.cumsum(slot_count)
    full = np.flatnonzero(np.diff(ends // AT_ONCE, prepend=0)) + 1
    begin = 0
    for end in [*full.tolist(), ends.size]:
        if end > begin and ends[end - 1] > (ends[begin - 1] if begin else 0):
            yield begin, end
            begin = end


def line_groups(exchanges: OneWireExchanges) -> Iterator[tuple[int, Int32Array]]:
    """Of each window of which a transaction has one pulse: its row, and widths, (n,), ns.

    The row is that at standard speed; -1 stands for no pulse.

    Args:
        exchanges: decoded, columns of n transactions.
    """
    clipped = (exchanges.marks & DecodeMark.RESET_CLIPPED) != 0
    yield RESET, np.where(clipped, NONE, _int32(exchanges.reset_ns))
    yield WAIT, exchanges.wait_ns
    yield PRESENCE, exchanges.presence_ns
    yield PHASE, _phases(exchanges)


def _phases(exchanges: OneWireExchanges) -> Int32Array:
    """From release to first slot; -1 without a slot."""
    phase = np.full(len(exchanges), ABSENT, dtype=np.int32)
    rows = np.flatnonzero(exchanges.slot_count)
    if rows.size:
        release = (exchanges.start_ns + exchanges.reset_ns)[rows]
        phase[rows] = _int32(exchanges.fall_ns[exchanges.first_slot[rows]] - release)
    return phase


def slot_groups(exchanges: OneWireExchanges) -> Iterator[tuple[int, Int32Array, BoolArray]]:
    """Of each window that slots are measured by: its row, lengths, (s,), ns, and which count.

    Args:
        exchanges: decoded, with s slots, at least one.
    """
    low = exchanges.low_ns
    one = exchanges.bit == 1
    device = exchanges.speaker == Speaker.DEVICE
    pitch = np.empty(low.size, dtype=np.int64)
    np.subtract(exchanges.fall_ns[1:], exchanges.fall_ns[:-1], out=pitch[:-1])
    pitch[np.cumsum(exchanges.slot_count)[exchanges.slot_count > 0] - 1] = ABSENT
    slot = np.minimum(pitch, WIDEST_NS, out=pitch).astype(np.int32)
    followed = slot != ABSENT
    is_fast = exchanges.slot_is_fast() if _any_fast(exchanges) else None
    for row, lengths, there in (
        (ONE, low, one),
        (ZERO, low, ~one & ~device),
        (HOLD, low, ~one & device),
        (SLOT, slot, followed),
        (RECOVERY, slot - low, followed),
    ):
        yield row, lengths, there if is_fast is None else there & ~is_fast
        if is_fast is not None:
            yield row + len(PLAIN), lengths, there & is_fast


def _any_fast(exchanges: OneWireExchanges) -> bool:
    return bool(exchanges.fast.any() or exchanges.turns_fast.any())


def _extremes(
    lengths: Int32Array,
    there: BoolArray,
    first: Int64Array,
    rows: Int64Array,
    row: int,
    least: Int32Array,
    most: Int32Array,
    count: Int32Array,
) -> None:
    """Shortest and longest of those that count, without a choice for each of them.

    One more than a length, or 0 for none; less one, none is the largest of all, and read with its
    sign, ``ABSENT``.
    """
    raised = lengths.view(np.uint32) + np.uint32(1)
    raised *= there
    count[row, rows] = np.add.reduceat(there, first, dtype=np.int32)
    most[row, rows] = (np.maximum.reduceat(raised, first) - np.uint32(1)).view(np.int32)
    raised -= np.uint32(1)
    least[row, rows] = np.minimum.reduceat(raised, first).view(np.int32)
