"""Tests of the room sheets."""
