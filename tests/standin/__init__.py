"""Tests of the room standin."""
