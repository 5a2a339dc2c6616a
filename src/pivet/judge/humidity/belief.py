"""How far the bits of humidity frames can be believed, by each frame's own widths.

The highs of a frame fall into two heaps; their middles and their spread, and that of the lows,
are the frame's own, so a slow clock, a slow rise or a copy's habits cost nothing.  A disturbance
moves one edge: what a high gains, the low beside it loses.  Where pulses may be too many or lost,
what passes the sum passes by chance.
"""

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import HumidityExchanges, layout
from pivet.frozen import FrozenObject
from pivet.judge.belief import BROKEN, CERTAIN, either, log_likelihood, sum_doubt
from pivet.judge.humidity.classes import KEYS, PulseClasses
from pivet.signal.trace import BoolArray
from pivet.signal.uncertainty import Uncertainty, pick

FloatArray = npt.NDArray[np.float64]

LOW, ZERO, ONE = (KEYS.index(key) for key in ("bit_low", "zero_high", "one_high"))

TAME = 0.12
APART = 0.6
FINE_NS = 3_000
"""A frame whose lows, zeros and ones each spread less than this share of a low, with zeros and
ones so far apart, finely captured: no bit of it can be doubted."""

ZERO_IN_LOWS, ONE_IN_LOWS = 0.52, 1.4
"""Where a heap is empty: 26 and 70 of 50 µs."""

LEAST_SPREAD_NS = 300.0
STEP_SHARE = 0.05
"""The middles are known no better than this, and this share of a step.  Steps alone spread widths
by half a step at most (a width of this many steps and a half)."""

OUTLIER, ASTRAY_NS = 2e-3, 50_000
"""So often an edge is not where noise alone would put it, and then anywhere within so much."""

UNTOLD = (OUTLIER / ASTRAY_NS) ** 3
"""Density of three pulses of which none tells anything."""

FAR = 4.0
SPLIT = 0.5
"""A pulse shorter than this share of its like may be a part of one."""


class _Heaps(FrozenObject):
    """Middles and spread of frames' pulses, float64 (1, m), ns."""

    low: FloatArray
    first_low: FloatArray
    zero: FloatArray
    one: FloatArray
    spread: FloatArray
    outlier: FloatArray


def doubts(
    exchanges: HumidityExchanges,
    classes: PulseClasses,
    holds: BoolArray,
    resolution_ns: Uncertainty,
) -> FloatArray:
    """Probability that each frame whose sum holds has wrong bits, float64 (n,).

    Args:
        exchanges: the exchanges, in order of time, n.
        classes: their shortest and longest pulses.
        holds: the sum of a whole frame holds, bool (n,); of others nothing is said (0).
        resolution_ns: uncertainty of their widths, ns.
    """
    found = np.full(len(exchanges), CERTAIN)
    rows = np.flatnonzero(holds & ~_tame(exchanges, classes, resolution_ns))
    if rows.size:
        found[rows] = _looked_at(exchanges.pick(rows), pick(resolution_ns, rows))
    return found


def _tame(
    exchanges: HumidityExchanges, classes: PulseClasses, resolution_ns: Uncertainty
) -> BoolArray:
    least, most = classes.least_ns, classes.most_ns
    room = classes.mean_ns[LOW]
    calm = exchanges.pulse_count == layout.PULSES
    for pulse in (LOW, ZERO, ONE):
        calm &= most[pulse] - least[pulse] <= TAME * room
        calm &= classes.count[pulse] > 0
    calm &= least[ONE] - most[ZERO] >= APART * room
    calm &= resolution_ns <= FINE_NS
    return np.asarray(calm)


def _looked_at(exchanges: HumidityExchanges, resolution_ns: Uncertainty) -> FloatArray:
    lows = exchanges.lows_ns.astype(np.float64)
    highs = exchanges.highs_ns.astype(np.float64)
    ones = highs > exchanges.split_ns
    step = np.broadcast_to(np.asarray(resolution_ns, dtype=np.float64), highs.shape[1:])
    heaps = _heaps(lows, highs, ones, step)
    odds = _odds(lows, highs, ones, heaps, step)
    bits = sum_doubt(odds, ones)
    broken = _broken(exchanges, lows, highs, heaps, step)
    return either(bits, np.where(broken, BROKEN, 0.0))


def _middle(values: FloatArray, chosen: BoolArray, otherwise: FloatArray) -> FloatArray:
    """Median of the chosen in each column, (1, m)."""
    count = chosen.sum(axis=0)
    ordered = np.sort(np.where(chosen, values, np.inf), axis=0)
    lower = np.take_along_axis(ordered, (count - 1)[None] // 2, axis=0)
    upper = np.take_along_axis(ordered, count[None] // 2, axis=0)
    return np.where(count > 0, (lower + upper) / 2, otherwise)


def _refined(
    values: FloatArray, chosen: BoolArray, middle: FloatArray, step: FloatArray
) -> FloatArray:
    """Mean of the chosen that lie about a middle, (1, m): steps of the recorder cancel in it."""
    off = np.abs(values - middle)
    usual = np.maximum(1.4826 * _middle(off, chosen, middle), LEAST_SPREAD_NS)
    near = chosen & (off <= np.maximum(FAR * usual, step))
    total = np.where(near, values, 0.0).sum(axis=0, keepdims=True)
    count = near.sum(axis=0, keepdims=True)
    return np.where(count > 0, total / np.maximum(count, 1), middle)


def _heaps(lows: FloatArray, highs: FloatArray, ones: BoolArray, step: FloatArray) -> _Heaps:
    every = np.ones(lows.shape, dtype=bool)
    begins = np.broadcast_to((np.arange(layout.BITS) % 8 == 0)[:, None], lows.shape)
    low = _middle(lows, ~begins, lows.mean(axis=0)[None])
    first_low = _refined(lows, begins, _middle(lows, begins, low), step)
    low = _refined(lows, ~begins, low, step)
    zero = _refined(highs, ~ones, _middle(highs, ~ones, ZERO_IN_LOWS * low), step)
    one = _refined(highs, ones, _middle(highs, ones, ONE_IN_LOWS * low), step)
    off_low = np.abs(lows - np.where(begins, first_low, low))
    off_high = np.abs(highs - np.where(ones, one, zero))
    square = np.zeros((1, lows.shape[1]))
    outlier = np.full((1, lows.shape[1]), OUTLIER)
    for off in (off_low, off_high):
        usual = np.maximum(1.4826 * _middle(off, every, low), LEAST_SPREAD_NS)
        near = off <= np.maximum(FAR * usual, step)
        total = np.where(near, off * off, 0.0).sum(axis=0, keepdims=True)
        square = np.maximum(square, total / np.maximum(near.sum(axis=0), 1))
        outlier = np.maximum(outlier, (~near).mean(axis=0, keepdims=True))
    floor = LEAST_SPREAD_NS + STEP_SHARE * step
    spread = np.sqrt(np.maximum(square - step * step / 4, 0.0) + floor * floor)
    return _Heaps(low, first_low, zero, one, spread, outlier / ASTRAY_NS)


def _odds(
    lows: FloatArray, highs: FloatArray, ones: BoolArray, heaps: _Heaps, step: FloatArray
) -> FloatArray:
    """How much likelier each bit would be as the other one, float64 (40, m)."""
    begins = (np.arange(layout.BITS) % 8 == 0)[:, None]
    before = lows - np.where(begins, heaps.first_low, heaps.low)
    behind = np.concatenate((before[1:], np.zeros((1, lows.shape[1]))))
    as_read = highs - np.where(ones, heaps.one, heaps.zero)
    as_other = highs - np.where(ones, heaps.zero, heaps.one)
    likely = _likelihood(before, as_read, behind, heaps, step)
    other = _likelihood(before, as_other, behind, heaps, step)
    odds: FloatArray = other / np.maximum(likely, 1e-300)
    return odds


def _likelihood(
    before: FloatArray, high: FloatArray, behind: FloatArray, heaps: _Heaps, step: FloatArray
) -> FloatArray:
    """Of a low, a high and a low, by their distances from the middles: five ways to come by them.

    Noise alone; the rise disturbed, so low and high together keep their length; the fall
    disturbed; both; or something else, which says nothing for either value of the bit.
    """

    def density(off: FloatArray) -> FloatArray:
        width = np.sqrt(2 * np.pi) * heaps.spread + 2 * step
        found: FloatArray = np.exp(log_likelihood(off, step, heaps.spread)) / width
        return found

    per = heaps.outlier
    own = density(before) * density(high) * density(behind)
    rise = per * density(before + high) * density(behind)
    fall = per * density(before) * density(high + behind)
    both = per * per * density(before + high + behind)
    total: FloatArray = own + rise + fall + both + UNTOLD
    return total


def _broken(
    exchanges: HumidityExchanges,
    lows: FloatArray,
    highs: FloatArray,
    heaps: _Heaps,
    step: FloatArray,
) -> BoolArray:
    """Frames that may hold pulses that nobody sent, or lack some."""
    room = FAR * heaps.spread + step
    split = lows < np.minimum(SPLIT * heaps.low, heaps.low - room)
    split |= highs < np.minimum(SPLIT * heaps.zero, heaps.zero - room)
    return np.asarray((exchanges.pulse_count != layout.PULSES) | split.any(axis=0))
