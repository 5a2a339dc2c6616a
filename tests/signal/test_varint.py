"""Numbers in as few bytes as they need."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.signal import varint


class Numbers(unittest.TestCase):
    """There and back."""

    @given(st.lists(st.integers(0, 2**63 - 1)))
    def test_numbers_come_back(self, numbers: list[int]) -> None:
        """Both writers give the same bytes; the reader gives the numbers."""
        data = varint.packed(numbers)
        self.assertEqual(data, varint.packed_array(np.array(numbers, dtype=np.int64)))
        found = varint.unpacked(data)
        assert found is not None
        self.assertEqual(numbers, found.tolist())

    @given(st.binary(max_size=40))
    def test_broken_numbers(self, data: bytes) -> None:
        """Bytes are numbers, or are refused: ended within one, or with one that is too long."""
        found = varint.unpacked(data)
        longest = max(map(len, data.translate(LONG).split(b"x")), default=0) if data else 0
        if data and (data[-1] >= 0x80 or longest >= varint.MOST_BYTES):
            self.assertIsNone(found)
        else:
            assert found is not None
            self.assertEqual(sum(byte < 0x80 for byte in data), found.size)

    def test_at_each_length(self) -> None:
        """The largest number of so many bytes, and the next."""
        for size in range(1, varint.MOST_BYTES + 1):
            most = (1 << 7 * size) - 1
            self.assertEqual(size, len(varint.packed([most])))
            self.assertEqual([most], varint.unpacked(varint.packed([most]), size).tolist())
            self.assertIsNone(varint.unpacked(varint.packed([most + 1]), size))


LONG = bytes(ord("-") if byte >= 0x80 else ord("x") for byte in range(256))
