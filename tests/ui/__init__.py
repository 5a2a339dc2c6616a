"""Tests of the room ui."""
