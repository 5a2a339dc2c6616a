"""Seconds, as people and sheets say them, and nanoseconds, in which all is counted."""

S_NS = 1_000_000_000
"""A second, ns."""


def ns_of(seconds: float) -> int:
    """A length of time in whole ns.

    Args:
        seconds: the length, s.
    """
    return round(seconds * S_NS)
