"""Tests of the history of wires."""
