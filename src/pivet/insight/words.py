"""Numbers in JSON and for people."""

import math


def tidy(value: float, digits: int = 3) -> float | None:
    """A number for JSON: without dust, and null where there is none.

    Args:
        value: NaN and infinity are none.
        digits: behind the point.
    """
    return round(float(value), digits) + 0.0 if math.isfinite(value) else None
