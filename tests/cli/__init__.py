"""Tests of the room cli."""
