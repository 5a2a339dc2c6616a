"""Signals made by physics of our own, not by the stand-in: what is said of them must be true."""
