"""Scratchpads: values, resolution, ranges of the families, and what each byte says."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.readings.thermometer import (
    byte_words,
    explain,
    looks_half_degrees,
    temperatures,
    text_of,
)
from tests.physics import onewire

RANGES = {0x28: (-55, 125), 0x22: (-55, 125), 0x10: (-55, 125), 0x3B: (-270, 1800)}
RANGES |= {0x42: (-40, 85), 0: (-55, 125)}


def columns(*pads: bytes) -> np.ndarray:
    """Scratchpads as uint8 (9, m)."""
    return np.array([list(pad) for pad in pads], dtype=np.uint8).T


class Values(unittest.TestCase):
    """Bytes -> °C."""

    @given(st.integers(-880, 2000), st.integers(9, 12))
    def test_sixteenths(self, raw: int, bits: int) -> None:
        """Low bits that the resolution does not have say nothing."""
        found = temperatures(columns(onewire.pad_28(raw / 16, bits)), np.zeros(1, dtype=bool))
        step = 2 ** (12 - bits)
        self.assertEqual(raw // step * step / 16, found.values[0])
        self.assertEqual((bits, True), (found.resolution[0], found.possible[0]))
        self.assertEqual(found.values[0] == 85, found.power_on[0])

    @given(st.integers(-220, 499))
    def test_half_degrees_with_count_remain(self, quarters: int) -> None:
        """Family 10: finer than its half degrees by COUNT_REMAIN."""
        pad = columns(onewire.pad_10(quarters / 4))
        self.assertTrue(looks_half_degrees(pad)[0])
        found = temperatures(pad, np.ones(1, dtype=bool))
        self.assertEqual((quarters / 4, 9), (found.values[0], found.resolution[0]))

    def test_which_are_of_family_10(self) -> None:
        """By bytes 4 and 7; one without a count per degree is none, and impossible."""
        pad = bytearray(onewire.pad_10(21.5))
        pad[7] = 0
        self.assertFalse(looks_half_degrees(columns(bytes(pad)))[0])
        self.assertFalse(temperatures(columns(bytes(pad)), np.ones(1, dtype=bool)).possible[0])
        self.assertFalse(looks_half_degrees(columns(onewire.pad_28(21.5)))[0])

    def test_ranges(self) -> None:
        """From the least to the most that each family can send."""
        for family, (low, high) in RANGES.items():
            values = [low - 1 / 16, low, high, high + 1 / 16]
            pads = columns(*(onewire.pad_28(value) for value in values))
            with self.subTest(hex(family)):
                codes = np.full(4, family)
                found = temperatures(pads, np.zeros(4, dtype=bool), codes)
                self.assertEqual([False, True, True, False], found.possible.tolist())


class Bytes(unittest.TestCase):
    """What is told of a scratchpad that is looked at."""

    def test_text(self) -> None:
        """As many decimals as there are, at least one."""
        for value, said in ((85.0, "85.0"), (-0.0625, "-0.0625"), (10.5, "10.5")):
            self.assertEqual(said, text_of(value))

    def test_whole(self) -> None:
        """Value, resolution and what goes with it, limits."""
        for bits, undefined, step, conversion in (
            (9, 3, 0.5, 93_750),
            (10, 2, 0.25, 187_500),
            (11, 1, 0.125, 375_000),
            (12, 0, 0.0625, 750_000),
        ):
            pad = explain(onewire.pad_28(-10.125, bits), 0x28)
            with self.subTest(bits):
                self.assertEqual((-162, bits, undefined), (pad.raw, pad.resolution, pad.undefined))
                self.assertEqual((step, conversion), (pad.step_c, pad.conversion_us))
                self.assertEqual((75, 70), pad.limits)
        low = bytearray(onewire.pad_28(20))
        low[2:4] = 0xC9, 0x80
        self.assertEqual((-55, -128), explain(bytes(low), 0x28).limits)

    def test_words(self) -> None:
        """Each byte that came, by its name."""
        words = dict(byte_words(explain(onewire.pad_28(21.5, 11), 0x28)))
        self.assertEqual("alarm at or above 75 °C", words["TH"])
        self.assertEqual("alarm at or below 70 °C", words["TL"])
        self.assertEqual("11 bit, 0.125 °C, 375 ms", words["config"])
        self.assertEqual("sixteenths of a degree", words["T, low"])
        self.assertEqual(("sign and high bits", "check"), (words["T, high"], words["CRC"]))
        half = dict(byte_words(explain(onewire.pad_10(21.5)[:8], None)))
        self.assertEqual("half degrees", half["T, low"])
        self.assertEqual("count remain 4", half["remain"])
        self.assertEqual("count per degree 16", half["per degree"])
        self.assertNotIn("CRC", half)

    def test_cut_short(self) -> None:
        """Of what did not come nothing is said."""
        pad = onewire.pad_28(21.5)
        for count in range(10):
            found = explain(pad[:count], 0x28)
            with self.subTest(count):
                self.assertEqual(count >= 2, found.raw is not None)
                self.assertEqual(count >= 2, found.value is not None)
                self.assertEqual(count >= 4, found.limits is not None)
                self.assertEqual(count >= 5, found.resolution is not None)

    def test_half_degrees(self) -> None:
        """Family 10: nine bits, and one conversion time."""
        pad = explain(onewire.pad_10(-3.75), 0x10)
        self.assertEqual((True, -3.75, 9), (pad.half_degrees, pad.value, pad.resolution))
        self.assertEqual((0.5, 750_000), (pad.step_c, pad.conversion_us))
