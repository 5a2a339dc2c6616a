"""Signals of which one figure grows."""
