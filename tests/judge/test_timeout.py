"""The sensor's timeout, learned from echoes chapter by chapter."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.decode.echo import EchoExchanges
from pivet.decode.echo.columns import made
from pivet.judge.chapter import CHAPTER, hindsight
from pivet.judge.echo.notices import Notice
from pivet.judge.echo.timeout import ALIKE_NS, LEAST_NS, OFTEN, UNKNOWN, learn
from pivet.judge.humidity.notices import Notice as Humid
from pivet.judge.notices import leading, raised
from pivet.judge.verdict import Verdict

TIMEOUT_NS = 20_000_000


def shots(flights: np.ndarray) -> EchoExchanges:
    """Measurements with these echoes."""
    size = flights.size
    return made(
        start_ns=np.arange(size) * 10**8,
        end_ns=np.arange(size) * 10**8 + flights,
        trigger_ns=np.full(size, 10_000),
        rise_ns=np.arange(size) * 10**8 + 500_000,
        flight_ns=flights,
        marks=np.zeros(size, dtype=np.uint8),
    )


def named(flights: np.ndarray) -> list[int]:
    """Numbers of the echoes that are called the timeout."""
    return np.flatnonzero(learn(shots(flights), 10, UNKNOWN, 0)[0]).tolist()


class Learned(unittest.TestCase):
    """Identical, longest of all, while others spread."""

    def flights(self, count: int = 60) -> np.ndarray:
        """Echoes of walls at many distances."""
        return np.random.default_rng(1).integers(2_000_000, 12_000_000, count)

    def test_named_from_the_third_on_and_back(self) -> None:
        """Twice says nothing; what is learned reaches back to the first."""
        flights = self.flights()
        self.assertEqual([], named(flights))
        for at, seen in ((5, []), (20, []), (40, [5, 20, 40])):
            flights[at] = TIMEOUT_NS + at
            self.assertEqual(seen, named(flights))

    def test_what_it_takes(self) -> None:
        """Long enough, alike enough, longer than the others by far, and others that spread."""
        for length, apart, most, spread, seen in (
            (TIMEOUT_NS, ALIKE_NS // 3, 12_000_000, 10_000_000, True),
            (LEAST_NS - 100, 0, 12_000_000, 10_000_000, False),
            (LEAST_NS + 100, 0, 12_000_000, 10_000_000, True),
            (TIMEOUT_NS, ALIKE_NS // 2 + 10, 12_000_000, 10_000_000, True),
            (TIMEOUT_NS, ALIKE_NS // 2 + 11, 12_000_000, 10_000_000, False),
            (TIMEOUT_NS, 0, 19_300_000, 10_000_000, True),
            (TIMEOUT_NS, 0, 19_500_000, 10_000_000, False),
            (TIMEOUT_NS, 0, 12_000_000, 70_000, True),
            (TIMEOUT_NS, 0, 12_000_000, 50_000, False),
        ):
            flights = np.linspace(most - spread, most, 30).astype(np.int64)
            flights = np.concatenate((flights, length + apart * np.arange(OFTEN)))
            self.assertEqual(seen, bool(named(flights)), (length, apart, most, spread))
        few = np.array([2_000_000, 9_000_000, *[TIMEOUT_NS] * 5])
        self.assertEqual([], named(few))
        self.assertEqual([3, 4, 5, 6, 7], named(np.insert(few, 0, 5_000_000)))

    def test_a_longer_one_begins_anew(self) -> None:
        """What was the longest is then one of the others."""
        flights = self.flights()
        flights[[5, 6, 7]] = TIMEOUT_NS
        flights[50] = 25_000_000
        self.assertEqual([], named(flights))
        flights[[51, 52]] = 25_000_000
        self.assertEqual([50, 51, 52], named(flights))

    def test_reaches_back_one_chapter(self) -> None:
        """Echoes two chapters before it was learned stay as they were told."""
        flights = self.flights(4 * CHAPTER)
        flights[[10, CHAPTER + 10, 3 * CHAPTER + 10]] = TIMEOUT_NS
        self.assertEqual([3 * CHAPTER + 10], named(flights))
        flights[2 * CHAPTER + 10] = TIMEOUT_NS
        self.assertEqual([CHAPTER + 10, 2 * CHAPTER + 10, 3 * CHAPTER + 10], named(flights))

    @given(st.integers(0, 10_000), st.integers(1, 3))
    def test_chapter_by_chapter(self, seed: int, cut: int) -> None:
        """What is left behind says as much as the echoes themselves."""
        random = np.random.default_rng(seed)
        flights = self.flights(4 * CHAPTER)
        at = random.integers(0, flights.size, random.integers(0, 9))
        flights[at] = random.choice([TIMEOUT_NS, 16_000_000, 25_000_000], at.size)
        whole, _ = learn(shots(flights), 10, UNKNOWN, 0)
        first = cut * CHAPTER
        _, before = learn(shots(flights[:first]), 10, UNKNOWN, 0)
        rest, _ = learn(shots(flights[first:]), 10, before, first)
        np.testing.assert_array_equal(whole[first:], rest)


class Chapters(unittest.TestCase):
    """How far back what is learned reaches."""

    def test_hindsight(self) -> None:
        """To the end of the next chapter, or of what is in sight; whole chapters before it."""
        for before in (0, CHAPTER, 2 * CHAPTER):
            found = hindsight(2 * CHAPTER + 40, before)
            self.assertEqual({2 * CHAPTER - 1}, set(found[:CHAPTER].tolist()))
            self.assertEqual({2 * CHAPTER + 39}, set(found[CHAPTER:].tolist()))


class Causes(unittest.TestCase):
    """What is told first of several notices."""

    def test_raised(self) -> None:
        """A cause weighs as much as the gravest of its symptoms; what explains nothing its own."""
        bits = int(Humid.SLOW_RISE | Humid.PULSE_OUTSIDE | Humid.SPIKE_REMOVED)
        self.assertIs(Verdict.UNSOUND, raised(bits, Humid.SLOW_RISE))
        self.assertIs(Verdict.SOUND, raised(int(Humid.SLOW_RISE), Humid.SLOW_RISE))
        self.assertIs(Humid.SLOW_RISE, leading(bits, Humid))
        self.assertEqual(0, Humid.NO_ANSWER.explains)
        self.assertIsNone(leading(0, Humid))
        silent = int(Notice.NO_ECHO | Notice.TRIGGER_SHORT | Notice.TOO_SOON)
        self.assertIs(Notice.TRIGGER_SHORT, leading(silent, Notice))
