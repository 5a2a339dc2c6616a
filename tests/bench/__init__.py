"""Tests of the room bench."""
