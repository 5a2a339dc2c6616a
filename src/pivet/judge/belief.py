"""Belief: how likely the bits of an exchange are wrong although its check holds.

Each bit gets *odds*: how much likelier its pulse is if the bit were the other one.  A check lets
only some sets of wrong bits pass; their odds, added up over all of them, are the odds that what
passed is wrong.  docs/truth.md derives it.
"""

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from pivet.decode.checks import Bytes, crc8

FloatArray = npt.NDArray[np.float64]

LIMIT = 1e-4
"""A value is given only when it is wrong with less than this probability."""

CERTAIN = 0.0
"""What cannot be told from certainty."""

BROKEN = 1 / 256
"""Where bits may be too many or lost, what passes a check of eight bits passes by chance."""

MOST_ODDS = 1e6
ENOUGH = 1e-6
"""Odds so small in all need no exact sum."""

BLOCK = 2048
"""Exchanges worked out at a time."""


def log_likelihood(
    off_ns: FloatArray, step_ns: FloatArray | float, spread_ns: FloatArray
) -> FloatArray:
    """Log of how likely a pulse is so far from its middle, up to a constant.

    Within a step of the recorder every distance is as good as another; beyond, normal.

    Args:
        off_ns: how far widths lie from the middle of their cluster, (..., n), ns.
        step_ns: of the capture, ns.
        spread_ns: standard deviation of the cluster, ns.
    """
    beyond = np.maximum(np.abs(off_ns) - step_ns, 0.0) / spread_ns
    found: FloatArray = -0.5 * beyond * beyond
    return found


def sum_doubt(odds: FloatArray, ones: npt.NDArray[np.bool_]) -> FloatArray:
    """Probability that frames whose sum holds have wrong bits, float64 (n,).

    Args:
        odds: the odds of each bit, float64 (40, n).
        ones: the bits as they were read, bool (40, n).
    """
    step = 1 << (7 - np.arange(odds.shape[0]) % 8)
    in_sum = np.arange(odds.shape[0]) >= 32
    shift = np.where(ones ^ in_sum[:, None], -step[:, None], step[:, None])
    found = _few(odds, 2)
    rows = np.flatnonzero(found > ENOUGH)
    for first in range(0, rows.size, BLOCK):
        part = rows[first : first + BLOCK]
        found[part] = _sums(odds[:, part], shift[:, part])
    return found


def _few(odds: FloatArray, least: int) -> FloatArray:
    """Upper bound of the odds when at least this many wrong bits pass."""
    total = np.minimum(odds.sum(axis=0), 50.0)
    factor = {2: 2.0, 4: 24.0}[least]
    bound: FloatArray = np.minimum(total**least / factor * np.exp(total), 1.0)
    return bound


def _wrong(odds: FloatArray, moved: Callable[[FloatArray, int], FloatArray]) -> FloatArray:
    """All sets of wrong bits, by what they do to the check: of those that keep it, how many.

    Args:
        odds: the odds of each bit, float64 (bits, n).
        moved: weights by what was done to the check, float64 (256, n), after one more wrong bit.
    """
    chance = np.minimum(odds, MOST_ODDS)
    chance = chance / (1 + chance)
    weight = np.zeros((256, odds.shape[1]))
    weight[0] = 1.0
    for bit in range(odds.shape[0]):
        if (odds[bit] > 1e-12).any():
            weight = (1 - chance[bit]) * weight + chance[bit] * moved(weight, bit)
    right = np.prod(1 - chance, axis=0)
    wrong: FloatArray = np.clip(1 - right / np.maximum(weight[0], 1e-300), 0.0, 1.0)
    return wrong


def _sums(odds: FloatArray, shift: npt.NDArray[np.int64]) -> FloatArray:
    """For a sum: a wrong bit shifts it."""
    place = np.arange(256)[:, None]
    return _wrong(
        odds, lambda weight, bit: np.take_along_axis(weight, (place - shift[bit]) & 255, axis=0)
    )


def _syndromes(size: int) -> Bytes:
    """What one wrong bit does to the CRC over so many bytes, by bit as sent, uint8 (8 * size,)."""
    alone = np.zeros((size, 8 * size), dtype=np.uint8)
    bit = np.arange(8 * size)
    alone[bit // 8, bit] = 1 << (bit % 8)
    return crc8(alone)


def crc_doubt(odds: FloatArray) -> FloatArray:
    """Probability that bytes whose CRC-8 holds have wrong bits, float64 (n,).

    Args:
        odds: of each bit, in the order on the wire, float64 (8 k, n); k bytes, the CRC included.
    """
    found = _few(odds, 4)
    rows = np.flatnonzero(found > ENOUGH)
    syndrome = _syndromes(odds.shape[0] // 8)
    for first in range(0, rows.size, BLOCK):
        part = rows[first : first + BLOCK]
        found[part] = _crcs(odds[:, part], syndrome)
    return found


def _crcs(odds: FloatArray, syndrome: Bytes) -> FloatArray:
    """For a CRC, which adds without carrying: a wrong bit turns some of its bits over."""
    place = np.arange(256)
    return _wrong(odds, lambda weight, bit: weight[place ^ int(syndrome[bit])])


def either(first: FloatArray, second: FloatArray | float) -> FloatArray:
    """Probability that one of two independent things is wrong.

    Args:
        first: probability that the one is wrong, float64 (n,).
        second: the second that the other is.
    """
    found: FloatArray = 1 - (1 - first) * (1 - second)
    return found


def chance(doubt: float) -> str:
    """A probability as people say it: ``1 in 300``.

    Args:
        doubt: how likely the value is wrong, 0 to 1.
    """
    if doubt >= 0.5:
        return "more likely wrong than right"
    number = round(1 / max(doubt, 1e-9))
    digits = 1 if number < 20 else 10 ** (len(str(number)) - 1)
    return f"1 in {number // digits * digits:,}"


def doubt_words(doubt: float) -> str:
    """Why a value is refused.

    Args:
        doubt: how likely the value is wrong, 0 to 1.
    """
    return (
        f"too doubtful: {chance(doubt)}"
        if doubt >= 0.5
        else f"too doubtful: {chance(doubt)} is wrong"
    )


DOUBT_ADVICE = "Do not use this value; mend what disturbs the pulses, or record with a finer step."


def says_doubt(check: str, doubt: float) -> str:
    """That a check which holds is not enough.

    Args:
        check: what holds: ``sum``, ``CRC``.
        doubt: probability that the value is wrong.
    """
    stands = chance(doubt)
    what = f"its value is {stands}" if doubt >= 0.5 else f"{stands} such values is wrong"
    return (
        f"{check[0].upper()}{check[1:]} holds, but the pulses are not clear enough for it: {what}."
    )


def refused_doubt(doubt: float) -> float | None:
    """The doubt for which a value is refused; None where that is not why.

    Args:
        doubt: how likely the value is wrong, 0 to 1.
    """
    return doubt if doubt >= LIMIT else None
