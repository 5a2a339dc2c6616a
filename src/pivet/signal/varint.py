"""Whole numbers in as few bytes as they need: seven bits a byte, the lowest first.

All bytes of a number but the last have bit 7 set.  Numbers up to 2^63 - 1 take nine bytes at most.
"""

from collections.abc import Iterable

import numpy as np

from pivet.signal.trace import Int64Array

MOST_BYTES = 9
NONE = np.empty(0, dtype=np.int64)


def packed(numbers: Iterable[int]) -> bytes:
    """Numbers from 0 on as bytes.

    Args:
        numbers: each at least 0.
    """
    data = bytearray()
    for number in numbers:
        while number > 0x7F:
            data.append(number & 0x7F | 0x80)
            number >>= 7
        data.append(number)
    return bytes(data)


def packed_array(numbers: Int64Array) -> bytes:
    """The same for an int64 array (n,), in a few passes.

    Args:
        numbers: int64 (n,), each at least 0.
    """
    if not numbers.size:
        return b""
    places = np.arange(max(-(-int(numbers.max()).bit_length() // 7), 1))
    groups = numbers[:, None] >> (7 * places)
    there = groups > 0
    there[:, 0] = True
    digits = (groups & 0x7F).astype(np.uint8)
    digits[:, :-1] |= there[:, 1:].astype(np.uint8) << 7
    return digits[there].tobytes()


def unpacked(data: bytes, most_bytes: int = MOST_BYTES) -> Int64Array | None:
    """The numbers in some bytes, int64 (n,); None when they end within one or one is too long.

    Args:
        data: numbers one after the other.
        most_bytes: the most bytes that a number may have.
    """
    if not data:
        return NONE
    digits = np.frombuffer(data, dtype=np.uint8)
    last = np.flatnonzero(digits < 0x80)
    if not last.size or last[-1] != digits.size - 1:
        return None
    first = np.concatenate(([0], last[:-1] + 1))
    lengths = last - first + 1
    longest = int(lengths.max())
    if longest > most_bytes:
        return None
    numbers: Int64Array = (digits[first] & 0x7F).astype(np.int64)
    for place in range(1, longest):
        longer = np.flatnonzero(lengths > place)
        numbers[longer] |= (digits[first[longer] + place] & 0x7F).astype(np.int64) << (7 * place)
    return numbers
