"""Tests of listening."""
