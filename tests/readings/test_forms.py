"""Two bytes as a value: signs where the sheets have them, and where copies do."""

import unittest

import numpy as np

from pivet.readings.forms import FORMS
from pivet.readings.values import quantity
from pivet.sheets.load import find_sheet


class Signs(unittest.TestCase):
    """Every pair of bytes."""

    def setUp(self) -> None:
        self.high, self.low = (row.ravel().astype(np.uint8) for row in np.indices((256, 256)))

    def test_tenths(self) -> None:
        """The first byte counts 256 times."""
        made = FORMS["tenths"](self.high, self.low)
        np.testing.assert_array_equal(np.arange(2**16) / 10, made.values)
        self.assertTrue(made.well_formed.all())

    def test_signed_tenths(self) -> None:
        """Sign and magnitude, but FE and FF are two's complement."""
        made = FORMS["signed-tenths"](self.high, self.low)
        raw = self.high.astype(int) << 8 | self.low
        plain = np.where(raw & 0x8000, -(raw & 0x7FFF), raw)
        wanted = np.where(raw >= 0xFE00, raw - 0x10000, plain) / 10
        np.testing.assert_array_equal(wanted, made.values)
        np.testing.assert_array_equal(raw >= 0xFE00, made.other_sign)
        self.assertTrue(made.well_formed.all())

    def test_signed_whole_and_tenth(self) -> None:
        """Bit 7 of either byte is a sign, of both none; tenths end at 9."""
        made = FORMS["signed-whole-and-tenth"](self.high, self.low)
        whole, tenth = self.high & 0x7F, self.low & 0x7F
        signs = (self.high >> 7) + (self.low >> 7)
        wanted = np.where(signs > 0, -1, 1) * (whole.astype(int) * 10 + tenth) / 10
        np.testing.assert_array_equal(wanted, made.values)
        np.testing.assert_array_equal((tenth <= 9) & (signs < 2), made.well_formed)
        np.testing.assert_array_equal(self.high >= 0x80, made.other_sign)

    def test_whole_and_tenth(self) -> None:
        """Tenths end at 9."""
        made = FORMS["whole-and-tenth"](self.high, self.low)
        np.testing.assert_array_equal((self.high.astype(int) * 10 + self.low) / 10, made.values)
        np.testing.assert_array_equal(self.low <= 9, made.well_formed)

    def test_what_a_sheet_makes_of_them(self) -> None:
        """No pair is possible in two ways, and no humidity has a sign."""
        for sensor in ("dht22", "dht11"):
            for rule in find_sheet(sensor).values:
                zero = np.zeros_like(self.high)
                pair = (self.high, self.low)
                rows = (*pair, zero, zero) if rule.first == 0 else (zero, zero, *pair)
                found = quantity(rule, np.stack((*rows, zero)))
                inside = (found.values >= rule.least) & (found.values <= rule.most)
                self.assertFalse((found.possible & ~inside).any())
                self.assertEqual(rule.quantity == "temperature", bool(found.other_sign.any()))
