"""Tests of feeds."""

from tests.rooms import all_in

load_tests = all_in(__file__)
