"""Tests of the room judge."""
