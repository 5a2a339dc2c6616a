"""Words and numbers in a buffer of bytes, all at once."""

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject
from pivet.signal.trace import BoolArray

ByteArray = npt.NDArray[np.uint8]
IntArray = npt.NDArray[np.int64]

SPACE = 32
LARGEST = 2**63 // 10 - 1
"""One more digit after a smaller number always fits int64."""

MOST_DIGITS = 18
"""This many decimal digits always fit int64."""


class Words(FrozenObject):
    """Words of a buffer.

    Attributes:
        buffer: the bytes, uint8 (b,).
        starts, lengths: where each word stands, int64 (n,).
    """

    buffer: ByteArray
    starts: IntArray
    lengths: IntArray

    def text(self, index: int) -> str:
        """One word, as text; what is no UTF-8 is replaced.

        Args:
            index: number of the word, from 0.
        """
        start = int(self.starts[index])
        return (
            self.buffer[start : start + int(self.lengths[index])]
            .tobytes()
            .decode("utf-8", "replace")
        )

    def character(self, place: int) -> ByteArray:
        """Character ``place`` of each word; a space where a word is shorter.

        Args:
            place: the place of the character, from 0.
        """
        at = np.minimum(self.starts + place, self.buffer.size - 1)
        found: ByteArray = np.where(self.lengths > place, self.buffer[at], np.uint8(SPACE))
        return found


def split_words(buffer: ByteArray) -> Words:
    """Words between white space (any byte up to 32).

    Args:
        buffer: uint8 (b,).
    """
    inside = np.empty(buffer.size + 2, dtype=np.int8)
    inside[0] = inside[-1] = 0
    np.greater(buffer, SPACE, out=inside[1:-1].view(bool))
    turns = np.flatnonzero(inside[1:] != inside[:-1])
    return Words(buffer, turns[0::2], turns[1::2] - turns[0::2])


def whole_numbers(words: Words) -> tuple[IntArray, BoolArray]:
    """Unsigned decimal numbers.

    Args:
        words: in the buffer.

    Returns:
        values int64 (n,), and which words are no such number or have over 18 digits.
    """
    lengths = words.lengths
    quick = (lengths > 0) & (lengths <= 2 * EIGHT)
    quick &= words.starts <= words.buffer.size - EIGHT
    if quick.all():
        return _eights(words)
    values, bad = _by_digits(Words(words.buffer, words.starts[~quick], lengths[~quick]))
    whole, wrong = np.empty(lengths.size, dtype=np.int64), np.empty(lengths.size, dtype=bool)
    whole[~quick], wrong[~quick] = values, bad
    some = Words(words.buffer, words.starts[quick], lengths[quick])
    whole[quick], wrong[quick] = _eights(some)
    return whole, wrong


EIGHT = 8
ZEROS, SIXES, HIGH_HALVES = (np.uint64(int(f"0x{byte * 8}", 16)) for byte in ("30", "06", "f0"))
SHIFTS = np.array([8 * count for count in range(EIGHT)], dtype=np.uint64)
FILLS = np.array([int("30" * count or "0", 16) for count in range(EIGHT)], dtype=np.uint64)
"""By how many zeros stand before a number: how far it goes to the higher bytes, and they."""


def _eights(words: Words) -> tuple[IntArray, BoolArray]:
    """Numbers of 1 to 16 digits, eight at once; eight bytes can be read from each word's start."""
    buffer, starts, lengths = words.buffer, words.starts, words.lengths
    if not starts.size:
        return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=bool)
    every = np.ndarray((buffer.size - EIGHT + 1,), "<u8", buffer, strides=(1,))
    # Neighbours are mostly of one length: what follows from it is then one number for all.
    shortest, longest = int(lengths.min()), int(lengths.max())
    length = shortest if shortest == longest else lengths
    # As many zeros before the number as its first eight, or what there is of them, need.
    missing = -length & (EIGHT - 1)
    chunks = every[starts]
    chunks <<= SHIFTS[missing]
    chunks |= FILLS[missing]
    values, bad = _eight_digits(chunks)
    if longest > EIGHT:
        long = slice(None) if shortest > EIGHT else np.flatnonzero(lengths > EIGHT)
        ends = starts[long] + (lengths[long] - EIGHT)
        last, wrong = _eight_digits(every[ends])
        values[long] = values[long] * 10**EIGHT + last
        bad[long] |= wrong
    return values, bad


def _eight_digits(digits: npt.NDArray[np.uint64]) -> tuple[IntArray, BoolArray]:
    """Numbers of eight digits, the first in the lowest byte.

    Pairs of digits, then pairs of pairs, are added in all places of a 64-bit number at once.
    """
    # A byte is a digit when its upper half is 3, and still is with 6 added to it.
    strange = digits + SIXES
    strange ^= ZEROS
    strange |= digits ^ ZEROS
    strange &= HIGH_HALVES
    digits = digits - ZEROS
    pairs = digits >> np.uint64(8)
    digits *= np.uint64(10)
    digits += pairs
    halves = np.uint64(0x000000FF000000FF)
    high = digits & halves
    high *= np.uint64(100 + (1_000_000 << 32))
    digits >>= np.uint64(16)
    digits &= halves
    digits *= np.uint64(1 + (10_000 << 32))
    high += digits
    high >>= np.uint64(32)
    return high.view(np.int64), strange != 0


def _by_digits(words: Words) -> tuple[IntArray, BoolArray]:
    """Numbers of any length, digit by digit."""
    values = np.zeros(words.starts.size, dtype=np.int64)
    bad = (words.lengths == 0) | (words.lengths > MOST_DIGITS)
    for place in range(min(int(words.lengths.max(initial=0)), MOST_DIGITS)):
        there = words.lengths > place
        digit = words.character(place) - np.uint8(ord("0"))
        bad |= there & (digit > 9)
        values = np.where(there, values * 10 + digit, values)
    return values, bad


class Decimals(FrozenObject):
    """Decimal numbers as integers: value = ``digits`` / 10 ** ``places``.

    Attributes:
        digits: with sign, int64 (n,).
        places: decimals, int64 (n,).
        bad: no plain decimal number, bool (n,).
    """

    digits: IntArray
    places: IntArray
    bad: BoolArray


def decimals(words: Words, mark: str) -> Decimals:
    """Plain decimal numbers, exact.  Decimals that int64 cannot hold are cut off.

    Args:
        words: the numbers.
        mark: the decimal mark, "." or ",".
    """
    size = words.starts.size
    digits, places = np.zeros(size, dtype=np.int64), np.zeros(size, dtype=np.int64)
    marked = np.zeros(size, dtype=bool)
    first = words.character(0)
    signed = (first == ord("-")) | (first == ord("+"))
    longest = int(words.lengths.max(initial=0))
    bad = words.lengths > 40
    for place in range(min(longest, 40)):
        there = words.lengths > place
        if place == 0:
            there &= ~signed
        character = words.character(place)
        is_mark = there & (character == ord(mark)) & ~marked
        marked |= is_mark
        digit = character - np.uint8(ord("0"))
        is_digit = there & ~is_mark & (digit <= 9)
        bad |= there & ~is_mark & ~is_digit
        fits = digits < LARGEST
        bad |= is_digit & ~fits & ~marked
        is_digit &= fits
        digits = np.where(is_digit, digits * 10 + digit, digits)
        places += is_digit & marked
    lone = words.lengths - signed - marked < 1
    return Decimals(np.where(first == ord("-"), -digits, digits), places, bad | lone)
