"""Belief: the exact sums against counting all sets of wrong bits one by one."""

import itertools
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.decode.checks import crc8_of
from pivet.judge.belief import (
    ENOUGH,
    LIMIT,
    _few,
    crc_doubt,
    doubt_words,
    either,
    log_likelihood,
    refused_doubt,
    says_doubt,
    sum_doubt,
)
from pivet.judge.humidity.belief import doubts
from pivet.judge.humidity.classes import sort_pulses
from tests.base import decode
from tests.decode.frames import edges_from, frame_widths, with_sum

BITS = 40


def flipped(data: bytes, wrong: tuple[int, ...], low_first: bool) -> bytes:
    """Bytes with some bits turned over."""
    out = bytearray(data)
    for bit in wrong:
        out[bit // 8] ^= 1 << (bit % 8 if low_first else 7 - bit % 8)
    return bytes(out)


def counted(data: bytes, odds: dict[int, float], holds: object, low_first: bool) -> float:
    """Share of the wrong among all sets of wrong bits that the check lets pass."""
    right = total = 1.0
    for size in range(1, len(odds) + 1):
        for wrong in itertools.combinations(odds, size):
            if holds(flipped(data, wrong, low_first)):  # type: ignore[operator]
                total += float(np.prod([odds[bit] for bit in wrong]))
    return 1 - right / total


doubtful = st.dictionaries(st.integers(0, BITS - 1), st.floats(1e-3, 5.0), min_size=1, max_size=8)


class Exact(unittest.TestCase):
    """Sums over all sets of wrong bits."""

    def test_few(self) -> None:
        """The bound of two wrong bits or four: nearly met where all are unlikely, never above 1."""
        odds = np.full((BITS, 1), 1e-4)
        for least, sets in ((2, BITS * (BITS - 1) / 2), (4, BITS**4 / 24)):
            self.assertAlmostEqual(1.0, _few(odds, least)[0] / (sets * 1e-4**least), delta=0.03)
            self.assertEqual(1.0, _few(odds * 1e7, least)[0])

    @given(st.binary(min_size=4, max_size=4), doubtful)
    def test_sum(self, payload: bytes, odds: dict[int, float]) -> None:
        """Of a humidity frame."""
        data = with_sum(payload)
        column = np.zeros((BITS, 2))
        for bit, value in odds.items():
            column[bit, 1] = value
        ones = np.unpackbits(np.frombuffer(data, np.uint8)).astype(bool)[:, None]
        found = sum_doubt(column, np.repeat(ones, 2, axis=1))
        wanted = counted(data, odds, lambda row: sum(row[:4]) % 256 == row[4], False)
        self.assertEqual(0.0, found[0])
        self.assertAlmostEqual(wanted, found[1], delta=max(ENOUGH, 1e-9))

    @given(st.binary(min_size=4, max_size=4), doubtful)
    def test_crc(self, payload: bytes, odds: dict[int, float]) -> None:
        """Of bytes and their CRC."""
        data = payload + bytes([crc8_of(payload)])
        column = np.zeros((BITS, 1))
        for bit, value in odds.items():
            column[bit, 0] = value
        wanted = counted(data, odds, lambda row: crc8_of(row) == 0, True)
        self.assertAlmostEqual(wanted, crc_doubt(column)[0], delta=ENOUGH)

    def test_small_odds_are_bounded_from_above(self) -> None:
        """Two of the same weight, one up and one down: their product, and not much more."""
        data = with_sum(bytes(4))
        ones = np.zeros((BITS, 1), dtype=bool)
        odds = np.zeros((BITS, 1))
        odds[7] = odds[39] = 1e-4
        found = float(sum_doubt(odds, ones)[0])
        self.assertGreaterEqual(found, 1e-8)
        self.assertLess(found, ENOUGH)
        self.assertEqual(bytes(5), data)

    def test_hopeless(self) -> None:
        """All bits as likely one way as the other: one in 256 is right, whatever the odds above."""
        ones = np.zeros((BITS, 1), dtype=bool)
        for odds in (1.0, 1e12):
            self.assertGreater(sum_doubt(np.full((BITS, 1), odds), ones)[0], 0.99)
            self.assertGreater(crc_doubt(np.full((BITS, 1), odds))[0], 0.99)

    def test_distance(self) -> None:
        """Within a step all is alike; beyond, normal."""
        found = log_likelihood(np.array([0.0, 10, -10, 12, 14]), 10.0, np.array(2.0))
        self.assertEqual([0, 0, 0, -0.5, -2], found.tolist())
        self.assertAlmostEqual(0.28, float(either(np.array(0.1), 0.2)))


class Words(unittest.TestCase):
    """A probability as people say it."""

    def test_chances(self) -> None:
        """In sentences; the chance alone stands in figures.toml."""
        self.assertEqual("too doubtful: 1 in 200 is wrong", doubt_words(1 / 256))
        self.assertEqual("too doubtful: more likely wrong than right", doubt_words(0.7))
        self.assertIn("The sum holds", says_doubt("the sum", 0.01))
        self.assertIn("1 in 100 such values is wrong", says_doubt("the sum", 0.01))
        self.assertIn("its value is more likely wrong", says_doubt("the CRC", 0.8))
        self.assertEqual([None, LIMIT], [refused_doubt(LIMIT / 2), refused_doubt(LIMIT)])


class Frames(unittest.TestCase):
    """Single frames with one thing wrong."""

    def doubt(self, *changes: tuple[int, float], step_ns: int = 10) -> float:
        """Of a frame of which some widths (µs) are changed."""
        widths = frame_widths(with_sum(b"\x02\x8c\x01\x5f"))
        for at, width in changes:
            widths[at] += width
        edges = edges_from(widths, 20_000.0)
        found = decode(edges, int(edges[-1]) + 10**8)
        return float(doubts(found, sort_pulses(found), np.array([True]), step_ns)[0])

    def test_one_bit_in_the_middle(self) -> None:
        """Alone it costs nothing: a single wrong bit cannot pass the sum."""
        low, high = 4 + 2 * 11, 5 + 2 * 11
        self.assertEqual(0.0, self.doubt())
        self.assertLess(self.doubt((high, 20.0)), LIMIT)
        self.assertLess(self.doubt((high, 20.0), (low, -20.0)), LIMIT)

    def test_two_of_the_same_weight(self) -> None:
        """A 0 and a 1 in the middle that could change places: too doubtful."""
        bits = np.unpackbits(np.frombuffer(b"\x02\x8c\x01\x5f", np.uint8))
        zero = next(n for n in range(32) if not bits[n])
        one = next(n for n in range(32) if bits[n] and n % 8 == zero % 8)
        middle = ((5 + 2 * zero, 21.0), (5 + 2 * one, -21.0))
        self.assertGreater(self.doubt(*middle), LIMIT)
        # What the lows beside them lost or gained tells which edge was moved.
        told = (*middle, (4 + 2 * zero, -21.0), (4 + 2 * one, 21.0))
        self.assertLess(self.doubt(*told), LIMIT)

    def test_a_piece(self) -> None:
        """A low of less than half its length may be a piece of one."""
        self.assertGreater(self.doubt((4 + 2 * 9, -26.0)), LIMIT)
        self.assertLess(self.doubt((4 + 2 * 9, -20.0)), LIMIT)
