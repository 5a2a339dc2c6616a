"""What makers state of the accuracy of their sensors."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from pivet.readings.accuracy import stated_accuracy
from pivet.sheets.load import find_sheet

PROBE, HALVES, ROOM = "28-0000061b2c7d", "10-000802b3a1c4", "22-0000061b2c7d"


class Accuracy(unittest.TestCase):
    """Plus or minus, in the kept unit."""

    def test_as_the_sheets_have_it(self) -> None:
        """Of each type, within its range and beyond."""
        for name, quantity, value, wanted in (
            ("dht22", "humidity", 50.0, 2.0),
            ("dht22", "temperature", 12.0, 0.5),
            ("dht22", "temperature", 90.0, None),
            ("dht22", "distance", 1.0, None),
            ("dht11", "humidity", 50.0, 5.0),
            ("dht11", "temperature", 12.0, 2.0),
            ("hc-sr04", "distance", 1.0, 0.003),
            ("hc-sr04", "level", 1.0, 0.003),
            ("hc-sr04", "volume", 1.0, None),
        ):
            with self.subTest(name=name, quantity=quantity, value=value):
                self.assertEqual(wanted, stated_accuracy(find_sheet(name), quantity, value))

    def test_of_thermometers(self) -> None:
        """By family, narrower in the middle of the range."""
        sheet = find_sheet("onewire")
        for rom, value, wanted in (
            (PROBE, 12.0, 0.5),
            (PROBE, -10.0, 0.5),
            (PROBE, -10.1, 2.0),
            (PROBE, 85.1, 2.0),
            (PROBE, 126.0, None),
            (HALVES, 12.0, 0.5),
            (ROOM, 12.0, 2.0),
            (ROOM, 100.0, 3.0),
            ("01-0000061b2c7d", 12.0, None),
        ):
            with self.subTest(rom=rom, value=value):
                self.assertEqual(wanted, stated_accuracy(sheet, "temperature", value, rom))

    @given(st.floats(-200, 200))
    def test_never_better_at_the_ends(self, value: float) -> None:
        """Nothing is promised beyond the range, and nowhere more than in the middle."""
        found = stated_accuracy(find_sheet("onewire"), "temperature", value, PROBE)
        self.assertEqual(found is None, not -55 <= value <= 125)
        self.assertTrue(found is None or found >= 0.5)
