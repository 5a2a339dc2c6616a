"""Tests of the room files."""
