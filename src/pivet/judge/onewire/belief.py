"""How far the bits of scratchpads and codes can be believed, by each transaction's own slots.

A read 1 is the host's short low, a read 0 is held by the device; both have their own middle and
spread in every transaction.  A slot that begins too soon after another may be a piece of one: then
what passes the CRC passes by chance.
"""

import numpy as np
import numpy.typing as npt

from pivet.decode.interface import ABSENT
from pivet.decode.onewire import OneWireExchanges, layout
from pivet.judge.belief import BROKEN, CERTAIN, crc_doubt, either, log_likelihood
from pivet.judge.onewire.classes import HOLD, ONE, SLOT, ZERO, SlotClasses
from pivet.judge.onewire.scratchpads import BITS, Scratchpads
from pivet.sheets.onewire import MATCHES, ROM_BITS, Rom
from pivet.signal.trace import BoolArray, Int64Array
from pivet.signal.uncertainty import Uncertainty, pick

FloatArray = npt.NDArray[np.float64]

LEAST_SPREAD_NS, FAST_LEAST_SPREAD_NS = 500.0, 100.0
STEP_SHARE = 0.1
OUTLIER, ASTRAY_NS = 1e-3, 30_000.0
"""So often a slot's low is not what noise alone would make it, and then anywhere within so much."""

ONE_NS, ZERO_NS, HELD_NS = 6_000.0, 62_000.0, 30_000.0
"""Where a transaction has no slot of a kind."""

TAME_ONE_NS, TAME_HOLD_NS, TAME_ZERO_NS = 11_000, 19_000, 45_000
TAME_SLOT_NS, TAME_STEP_NS = 50_000, 1_000
"""Ones up to this length, read and written zeros and slots from these on, finely captured."""

FAST_SHARE = 1 / 8
LEAST_PITCH = 0.65
LEAST_SLOT_NS = 45_000.0
"""Slots follow each other by 60 µs at least; one sooner, by this and this share of the usual, is a
piece."""


def doubts(
    exchanges: OneWireExchanges, classes: SlotClasses, pads: Scratchpads, resolution_ns: Uncertainty
) -> npt.NDArray[np.float64]:
    """Probability that each scratchpad whose CRC holds, or its device, is wrong, float64 (m,).

    Args:
        exchanges: decoded, columns of n exchanges.
        classes: the pulses by window.
        pads: the scratchpads that were read.
        resolution_ns: uncertainty of every width, ns.
    """
    found = np.full(pads.at.size, CERTAIN)
    plain = _tame(exchanges, classes, pads.at, resolution_ns)
    rows = np.flatnonzero(pads.holds & ~pads.zeros & ~plain)
    for first in range(0, rows.size, 4096):
        part = rows[first : first + 4096]
        at = pads.at[part]
        found[part] = _of_part(exchanges, at, pick(resolution_ns, at))
    return found


def _tame(
    exchanges: OneWireExchanges,
    classes: SlotClasses,
    at: Int64Array,
    resolution_ns: Uncertainty,
) -> BoolArray:
    """Transactions of which no bit can be doubted: ones and zeros far apart, slots in place."""
    least, most = classes.least_ns[:, at], classes.most_ns[:, at]
    calm = ~(exchanges.fast[at] | exchanges.turns_fast[at])
    calm &= (most[ONE] <= TAME_ONE_NS) & (least[SLOT] >= TAME_SLOT_NS)
    for row, floor in ((HOLD, TAME_HOLD_NS), (ZERO, TAME_ZERO_NS)):
        calm &= (least[row] >= floor) | (least[row] == ABSENT)
    calm &= exchanges.slot_count[at] == exchanges.function_at[at] + layout.BITS_IN_BYTE + BITS
    calm &= np.asarray(pick(resolution_ns, at) <= TAME_STEP_NS)
    return np.asarray(calm)


def _of_part(exchanges: OneWireExchanges, at: Int64Array, resolution_ns: Uncertainty) -> FloatArray:
    step = np.broadcast_to(np.asarray(resolution_ns, dtype=np.float64), at.shape)
    begin = exchanges.function_at[at] + layout.BITS_IN_BYTE
    pad = _doubt(exchanges, at, begin, BITS, step)
    coded = exchanges.has_rom[at] & np.isin(exchanges.command[at], [*MATCHES, Rom.READ])
    rom = np.zeros(at.size)
    rows = np.flatnonzero(coded)
    if rows.size:
        first = np.full(rows.size, layout.BITS_IN_BYTE)
        rom[rows] = _doubt(exchanges, at[rows], first, ROM_BITS, step[rows])
    return either(either(pad, rom), np.where(_broken(exchanges, at, begin + BITS), BROKEN, 0.0))


def _doubt(
    exchanges: OneWireExchanges, at: Int64Array, begin: Int64Array, bits: int, step: FloatArray
) -> FloatArray:
    """Of so many bits from a slot on, by their CRC."""
    index = (exchanges.first_slot[at] + begin)[:, None] + np.arange(bits)
    lows = exchanges.low_ns[index].T.astype(np.float64)
    ones = exchanges.bit[index].T == 1
    fast = exchanges.turns_fast[at] | exchanges.fast[at]
    scale = np.where(fast, FAST_SHARE, 1.0)
    host = exchanges.speaker[index[:, 0]] == 0
    usual_zero = np.where(host, ZERO_NS, HELD_NS) * scale
    one, own_one = _heap(lows, ones, ONE_NS * scale)
    zero, own_zero = _heap(lows, ~ones, usual_zero)
    floor = np.where(fast, FAST_LEAST_SPREAD_NS, LEAST_SPREAD_NS) + STEP_SHARE * step
    spread = np.sqrt(np.maximum(np.maximum(own_one, own_zero) - step * step / 4, 0) + floor**2)
    own, other = np.where(ones, one, zero), np.where(ones, zero, one)
    likely, unlikely = _density(lows - own, step, spread), _density(lows - other, step, spread)
    return crc_doubt(unlikely / likely)


def _density(off: FloatArray, step: FloatArray, spread: FloatArray) -> FloatArray:
    width = np.sqrt(2 * np.pi) * spread + 2 * step
    found: FloatArray = np.exp(log_likelihood(off, step, spread)) / width + OUTLIER / ASTRAY_NS
    return found


def _heap(
    lows: FloatArray, chosen: BoolArray, otherwise: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Mean and square of the spread of the chosen in each column, (m,)."""
    count = chosen.sum(axis=0)
    number = np.maximum(count, 1)
    mean = np.where(chosen, lows, 0.0).sum(axis=0) / number
    off = np.where(chosen, lows - mean, 0.0)
    return np.where(count > 0, mean, otherwise), (off * off).sum(axis=0) / number


def _broken(exchanges: OneWireExchanges, at: Int64Array, whole: Int64Array) -> BoolArray:
    """Transactions that may hold slots that nobody sent: too many, or two where one has room."""
    count = exchanges.slot_count[at]
    found = count > whole
    first = exchanges.first_slot[at]
    last = first + np.minimum(count, whole)
    index = first[:, None] + np.arange(int(np.minimum(count, whole).max()))
    inside = index < last[:, None] - 1
    falls = exchanges.fall_ns
    pitch = falls[np.minimum(index + 1, falls.size - 1)] - falls[np.minimum(index, falls.size - 1)]
    pitch = np.where(inside, pitch, np.iinfo(np.int64).max)
    ordered = np.sort(pitch, axis=1)
    middle = ordered[np.arange(at.size), np.maximum(inside.sum(axis=1) // 2, 0)]
    slow = ~(exchanges.turns_fast[at] | exchanges.fast[at])
    least = np.minimum(LEAST_PITCH * middle, np.where(slow, LEAST_SLOT_NS, np.inf))
    return np.asarray(found | (pitch < least[:, None]).any(axis=1))
