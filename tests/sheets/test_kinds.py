"""The 1-Wire families, by the makers' sheets."""

import unittest

from pivet.sheets.onewire import KINDS

THERMOMETERS = {
    0x28: (-55, 125, 0.5, 2.0, None, None, 3),
    0x22: (-55, 125, 2.0, 3.0, None, None, 3),
    0x10: (-55, 125, 0.5, 2.0, 750_000, None, 2),
    0x3B: (-270, 1800, 0.5, 2.0, None, 100_000, 3),
    0x42: (-40, 85, 0.5, 2.0, None, None, 3),
}
"""Range, accuracy from -10 to 85 and beyond, conversion (µs), bytes of Write Scratchpad."""


class Kinds(unittest.TestCase):
    """One row a family."""

    def test_thermometers(self) -> None:
        """As the domain page has them."""
        found = {
            code: (
                kind.low_c,
                kind.high_c,
                kind.accuracy_c,
                kind.wide_c,
                kind.conversion_us,
                kind.least_conversion_us,
                kind.written,
            )
            for code, kind in KINDS.items()
            if kind.thermometer
        }
        self.assertEqual(THERMOMETERS, found)
        self.assertEqual([0x10], [code for code, kind in KINDS.items() if kind.half_degrees])
        self.assertEqual(list(KINDS), [kind.code for kind in KINDS.values()])
