"""Tests of the room signal."""
