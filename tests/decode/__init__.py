"""Tests of the room decode."""
