"""A map over two constants of a firmware: which share of exchanges it would read right."""

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject
from pivet.insight.resample import reach

FloatArray = npt.NDArray[np.float64]

SIDE = 64
"""How many values of either constant a map has."""

DRAWN = 20_000
"""How many exchanges are drawn for a map."""


class Grid(FrozenObject):
    """Shares of exchanges that are read right.

    Attributes:
        across, up: names of the constants, as in ``Reader``.
        across_label, up_label: for people.
        x, y: their values, rising, (k,) and (m,).
        right: share that is read right, (m, k), 0 to 1.
        drawn: from so many exchanges.
        says: what was drawn, for people.
    """

    across: str
    up: str
    across_label: str
    up_label: str
    x: FloatArray
    y: FloatArray
    right: FloatArray
    drawn: int
    says: str

    @property
    def half_width(self) -> float:
        """So far from the truth a share may be, at most, at 95 %."""
        return reach() * 0.5 / float(np.sqrt(self.drawn)) if self.drawn else 1.0

    def as_json(self) -> dict[str, object]:
        """As docs/json.md has it."""
        return {
            "x": self.across,
            "y": self.up,
            "x_values": np.round(self.x, 3).tolist(),
            "y_values": np.round(self.y, 3).tolist(),
            "right": np.round(self.right, 4).tolist(),
            "drawn": self.drawn,
            "half_width": round(self.half_width, 4),
            "says": self.says,
        }


def drawn_rows(
    at: npt.NDArray[np.int64], number: int, rng: np.random.Generator
) -> npt.NDArray[np.int64]:
    """Some of the exchanges, rising: all once when they are few, else drawn with replacement.

    Args:
        at: those that there are.
        number: how many are wanted.
        rng: that draws.
    """
    if not at.size:
        return at
    return np.sort(rng.choice(at, number, replace=True))
