"""Sound, air, and what a vessel holds."""

import math
import unittest

import numpy as np

from pivet.errors import InputError
from pivet.readings.sound import (
    USUAL_AIR,
    Air,
    Vessel,
    distance_m,
    fixed_air,
    round_area,
    speed_of_sound,
)


class Sound(unittest.TestCase):
    """Figures of the domain page."""

    def test_speed_and_distance(self) -> None:
        """At 0 and 20 °C; a flight there and back is twice the way."""
        np.testing.assert_allclose([331.3, 343.2], speed_of_sound(np.array([0.0, 20.0])), atol=0.03)
        flight = np.array([5_827_505])
        np.testing.assert_allclose([1.0], distance_m(flight, np.array([343.2])), atol=1e-6)

    def test_air_over_time(self) -> None:
        """The last that was read; before the first reading the first."""
        air = Air("wheels", np.array([100, 200]), np.array([10.0, 12.0]))
        self.assertEqual(
            [10, 10, 10, 12, 12], air.at(np.array([0, 100, 199, 200, 10**12])).tolist()
        )
        self.assertEqual([20.0, 20.0], USUAL_AIR.at(np.array([5, 6])).tolist())
        self.assertEqual((False, "assumed"), (USUAL_AIR.given, USUAL_AIR.label))
        self.assertEqual((True, "given"), (fixed_air(11.0).given, fixed_air(11.0).label))

    def test_air_that_cannot_be(self) -> None:
        """The limits themselves are air."""
        for air_c in (-60.0, 80.0):
            self.assertEqual([air_c], fixed_air(air_c).values.tolist())
        for air_c in (-60.1, 80.1, math.nan):
            with self.assertRaisesRegex(InputError, "from -60 to 80"):
                fixed_air(air_c)


class Vessels(unittest.TestCase):
    """Upright vessels below a sensor."""

    def test_level_share_and_volume(self) -> None:
        """Never below the bottom; without a cross-section no volume."""
        vat = Vessel(1.4, 1.2, round_area(0.8))
        self.assertAlmostEqual(0.9, vat.level_m(0.5))
        self.assertEqual(0.0, vat.level_m(1.5))
        self.assertAlmostEqual(0.75, vat.share(0.9))
        litres = vat.litres(0.9)
        assert litres is not None
        self.assertAlmostEqual(452.39, litres, delta=0.01)
        self.assertIsNone(Vessel(1.4, 1.2).litres(0.9))

    def test_full_level(self) -> None:
        """Above 0, and no higher than the sensor."""
        for full_m in (1e-3, 1.0, 1.4):
            self.assertEqual(full_m, Vessel(1.4, full_m).full_m)
        for full_m in (0.0, -0.1, 1.5, math.nan):
            with self.assertRaisesRegex(InputError, "no higher than the sensor"):
                Vessel(1.4, full_m)
