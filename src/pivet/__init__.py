"""Pivet: captures and decodes pulse-timed single-wire sensor signals."""

__version__ = "0.2.0"
