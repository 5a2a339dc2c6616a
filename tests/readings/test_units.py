"""Units, derived quantities, corrections."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.errors import InputError
from pivet.frozen import replace
from pivet.readings.correction import Correction, by_offset, by_points
from pivet.readings.derived import RULES, Why, derive, why_words
from pivet.readings.units import AS_KEPT, QUANTITIES, UNITS, Dimension, chosen_symbols, symbol_of
from tests.base import PivetTest


class Units(PivetTest):
    """What is kept can be shown in other units, and comes back."""

    @given(st.sampled_from(list(QUANTITIES)), st.floats(-500, 500), st.integers(0, 3))
    def test_there_and_back(self, quantity: str, value: float, turns: int) -> None:
        """Any value in any unit."""
        units = AS_KEPT
        for _ in range(turns):
            units = units.next(QUANTITIES[quantity])
        self.assertAlmostEqual(value, units.kept(quantity, units.shown(quantity, value)), 6)
        self.assertAlmostEqual(
            units.shown(quantity, value + 1) - units.shown(quantity, value),
            units.shown_difference(quantity, 1.0),
            6,
        )

    def test_known_values(self) -> None:
        """A few that everybody knows; a difference has no offset."""
        warm = AS_KEPT.with_unit("°F")
        self.assertEqual("212.0", warm.text("temperature", 100.0, 1))
        self.assertEqual("-40.0", warm.text("dew point", -40.0, 1))
        self.assertEqual("0.0", warm.text("temperature", -17.8, 1), "nothing is minus zero")
        self.assertAlmostEqual(1.8, warm.shown_difference("temperature", 1.0))
        self.assertEqual("60", AS_KEPT.with_unit("mm").text("level", 0.06, 3))
        self.assertEqual("2.36", AS_KEPT.with_unit("in").text("level", 0.06, 3))
        self.assertEqual(AS_KEPT, AS_KEPT.with_unit("furlong"))

    def test_one_key_goes_round(self) -> None:
        """The next unit, and after the last the first."""
        for dimension, rows in UNITS.items():
            units = AS_KEPT
            for _ in rows:
                units = units.next(dimension)
            self.assertEqual(rows[0].symbol, units.chosen[dimension])
        for symbol in ("°C", "°F", "m", "cm"):
            self.assertIn(symbol, chosen_symbols())
        self.assertNotIn("%RH", chosen_symbols())
        self.assertEqual("°F", AS_KEPT.next(Dimension.TEMPERATURE).of("temperature").symbol)


class Derived(PivetTest):
    """What follows from temperature and humidity."""

    def value(self, quantity: str, air_c: float, humidity: float) -> float:
        """One value."""
        made = derive(RULES[quantity], np.array([air_c]), np.array([humidity]))
        return float(made.values[0])

    def test_dew_point(self) -> None:
        """Of damp air the air temperature; 20 °C and 50 % are 9.3 °C."""
        self.assertAlmostEqual(11.8, self.value("dew point", 11.8, 100.0), 9)
        self.assertAlmostEqual(9.26, self.value("dew point", 20.0, 50.0), 2)

    def test_absolute_humidity(self) -> None:
        """Saturated air of 20 °C holds 17.3 g/m³, of 0 °C 4.8."""
        self.assertAlmostEqual(17.27, self.value("absolute humidity", 20.0, 100.0), 1)
        self.assertAlmostEqual(4.85, self.value("absolute humidity", 0.0, 100.0), 1)

    def test_heat_index(self) -> None:
        """Fields of the chart of the National Weather Service, °F, and both adjustments."""
        for air_f, humidity, felt_f in ((90, 70, 106), (86, 90, 105), (100, 50, 118), (80, 40, 80)):
            found = self.value("heat index", (air_f - 32) / 1.8, humidity) * 1.8 + 32
            self.assertAlmostEqual(felt_f, found, delta=1.0)
        dry = self.value("heat index", (95 - 32) / 1.8, 10.0) * 1.8 + 32
        self.assertAlmostEqual(89.6, dry, delta=0.5)

    @given(
        st.sampled_from(list(RULES)),
        st.floats(-80, 80) | st.just(float("nan")),
        st.floats(-5, 120) | st.just(float("nan")),
    )
    def test_outside_there_is_a_reason(self, name: str, air_c: float, humidity: float) -> None:
        """A value or a reason, never both, never neither."""
        rule = RULES[name]
        made = derive(rule, np.array([air_c]), np.array([humidity]))
        why = Why(int(made.why[0]))
        self.assertEqual(why is Why.GIVEN, bool(np.isfinite(made.values[0])))
        self.assertEqual(why is Why.GIVEN, not why_words(rule, why))
        if not rule.low_c <= air_c <= rule.high_c or not 1 <= humidity <= 100:
            self.assertIsNot(Why.GIVEN, why)

    def test_limits_count(self) -> None:
        """At an end there is a value; one beside another and alone say the same, and why."""
        for rule in RULES.values():
            low, high = rule.low_c, rule.high_c
            rows = (
                (low, 50.0, None),
                (low - 0.01, 50.0, Why.TOO_COLD),
                (high, 1.0, None),
                (high + 0.01, 50.0, Why.TOO_WARM),
                (20.0, 100.0, None),
                (20.0, 100.01, Why.TOO_DAMP),
                (20.0, 0.99, Why.TOO_DRY),
                (high + 1, 200.0, Why.TOO_WARM),
                (np.nan, 200.0, Why.NOT_READ),
                (20.0, np.nan, Why.NOT_READ),
            )
            air, damp = (np.array([row[at] for row in rows]) for at in (0, 1))
            made = derive(rule, air, damp)
            for number, (air_c, humidity, why) in enumerate(rows):
                alone = derive(rule, air[number : number + 1], damp[number : number + 1])
                self.assertEqual(int(made.why[number]), int(alone.why[0]))
                np.testing.assert_allclose(made.values[number], alone.values[0])
                wanted = Why.GIVEN if why is None else why
                with self.subTest(rule.quantity, air_c=air_c, humidity=humidity):
                    self.assertIn(Why(int(made.why[number])), {wanted, why or Why.BEYOND})
        hot = RULES["heat index"]
        self.assertEqual(Why.BEYOND, int(derive(hot, np.array([43.0]), np.array([99.0])).why[0]))
        for size in (1, 2):
            air, damp = np.full(size, 35.0), np.full(size, 60.0)
            felt = float(derive(hot, air, damp).values[0])
            for most, why in ((felt, Why.GIVEN), (np.nextafter(felt, 0), Why.BEYOND)):
                self.assertEqual(why, int(derive(replace(hot, most=most), air, damp).why[0]))


class Corrections(PivetTest):
    """Raw values, corrected."""

    def test_points(self) -> None:
        """The line goes through both; in any order."""
        one, other = (75.3, 75.0), (33.9, 33.0)
        for made in (by_points(one, other), by_points(other, one)):
            for raw, true in (one, other):
                self.assertAlmostEqual(true, made.applied(raw))
        self.assertEqual("33.9 → 33, 75.3 → 75 %RH", made.text("humidity"))

    def test_offset(self) -> None:
        """Told in the unit that is shown."""
        made = by_offset(-1.0)
        self.assertEqual(9.0, made.applied(10.0))
        self.assertEqual("-1.8 °F", made.text("temperature", AS_KEPT.with_unit("°F")))
        self.assertEqual(Correction(offset=-1.0), made)

    def test_nonsense(self) -> None:
        """Points that make no line, or one that falls."""
        for one, other in (((1.0, 1.0), (1.0, 2.0)), ((1.0, 2.0), (2.0, 1.0))):
            with self.assertRaises(InputError):
                by_points(one, other)
        with self.assertRaises(InputError):
            by_offset(float("nan"))


class Typed(unittest.TestCase):
    """Units as people type them."""

    def test_without_the_sign(self) -> None:
        """Whatever case, with or without the degree sign; each symbol is its own."""
        for written, symbol in (("F", "°F"), ("f", "°F"), ("°c", "°C"), ("degC", "°C"), ("k", "K")):
            self.assertEqual(symbol, symbol_of(written), written)
        for units in UNITS.values():
            for unit in units:
                self.assertEqual(unit.symbol, symbol_of(f" {unit.symbol.upper()} "))
        for wrong in ("", "furlong", "°", "deg"):
            self.assertIsNone(symbol_of(wrong), wrong)
