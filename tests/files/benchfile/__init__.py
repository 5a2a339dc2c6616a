"""Tests of the bench file."""
