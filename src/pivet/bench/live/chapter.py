"""How a long wire is cut."""

CHAPTER = 256
"""Exchanges of a chapter."""
