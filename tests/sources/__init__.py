"""Tests of sources."""
