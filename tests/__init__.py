"""Tests of Pivet."""
