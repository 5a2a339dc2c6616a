"""Tests of readings: units, derived quantities, what is found over time."""

from tests.rooms import all_in

load_tests = all_in(__file__)
