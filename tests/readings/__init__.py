"""Tests of readings: units, derived quantities, what is found over time."""
