"""A track: one quantity of one sensor over the exchanges of a wire."""

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject


class Track(FrozenObject):
    """Values over exchanges, with gaps.

    Attributes:
        name: what is measured, and by whom if a wire has several sensors.
        quantity, unit: of the values.
        decimals: with which values are shown.
        at: numbers of the exchanges that should have given a value, rising, int64 (k,).
        values: float64 (k,), in ``unit``.
        given: which of them may be believed, bool (k,).
        rom: code of the 1-Wire device in kernel form; empty for other families.
    """

    name: str
    quantity: str
    unit: str
    decimals: int
    at: npt.NDArray[np.int64]
    values: npt.NDArray[np.float64]
    given: npt.NDArray[np.bool_]
    rom: str = ""

    def text(self, value: float) -> str:
        """A value as people read it.

        Args:
            value: as it stands in the unit of the message.
        """
        return f"{value:z.{self.decimals}f}"
