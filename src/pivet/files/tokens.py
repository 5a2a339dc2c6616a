"""Words and numbers in a buffer of bytes, all at once."""

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from pivet.signal.trace import BoolArray

ByteArray = npt.NDArray[np.uint8]
IntArray = npt.NDArray[np.int64]

SPACE = 32
LARGEST = 2**63 // 10 - 1
"""One more digit behind a smaller number always fits int64."""

MOST_DIGITS = 18
"""So many decimal digits always fit int64."""


@dataclass(frozen=True, slots=True, eq=False)
class Words:
    """Words of a buffer.

    Attributes:
        buffer: the bytes, uint8 (b,).
        starts, lengths: where each word stands, int64 (n,).
    """

    buffer: ByteArray = field(repr=False)
    starts: IntArray = field(repr=False)
    lengths: IntArray = field(repr=False)

    def text(self, index: int) -> str:
        """One word, as text; what is no UTF-8 is replaced."""
        start = int(self.starts[index])
        return (
            self.buffer[start : start + int(self.lengths[index])]
            .tobytes()
            .decode("utf-8", "replace")
        )

    def character(self, place: int) -> ByteArray:
        """Character ``place`` of each word; a space where a word is shorter."""
        at = np.minimum(self.starts + place, self.buffer.size - 1)
        found: ByteArray = np.where(self.lengths > place, self.buffer[at], np.uint8(SPACE))
        return found


def split_words(buffer: ByteArray) -> Words:
    """Words between white space (any byte up to 32)."""
    inside = np.empty(buffer.size + 2, dtype=np.int8)
    inside[0] = inside[-1] = 0
    np.greater(buffer, SPACE, out=inside[1:-1].view(bool))
    turns = np.flatnonzero(inside[1:] != inside[:-1])
    return Words(buffer, turns[0::2], turns[1::2] - turns[0::2])


def whole_numbers(words: Words) -> tuple[IntArray, BoolArray]:
    """Unsigned decimal numbers.

    Returns:
        values int64 (n,), and which words are no such number or have over 18 digits.
    """
    values = np.zeros(words.starts.size, dtype=np.int64)
    bad = (words.lengths == 0) | (words.lengths > MOST_DIGITS)
    for place in range(min(int(words.lengths.max(initial=0)), MOST_DIGITS)):
        there = words.lengths > place
        digit = words.character(place) - np.uint8(ord("0"))
        bad |= there & (digit > 9)
        values = np.where(there, values * 10 + digit, values)
    return values, bad


@dataclass(frozen=True, slots=True, eq=False)
class Decimals:
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
