"""Some exchanges of a wire: one side of a comparison, what is rehearsed, what a report is of."""

import numpy as np

from pivet.captures.wire import Wire
from pivet.frozen import FrozenObject
from pivet.insight.pulses import BoolArray


class Side(FrozenObject):
    """Exchanges of one side.

    Attributes:
        wire: the wire that has them.
        chosen: which count, bool (n,); None for all.
    """

    wire: Wire
    chosen: BoolArray | None = None

    @property
    def counted(self) -> BoolArray:
        """Which count, bool (n,)."""
        return np.ones(len(self.wire), dtype=bool) if self.chosen is None else self.chosen


def by_number(wire: Wire, first: int, last: int) -> BoolArray:
    """Which exchanges of a wire have a number in a range, bool (n,).

    Args:
        wire: or a part of one.
        first: number of the first.
        last: number of the last, with it.
    """
    numbers = np.arange(wire.first, wire.end)
    found: BoolArray = (numbers >= first) & (numbers <= last)
    return found


def of_device(wire: Wire, code: str) -> BoolArray:
    """Which exchanges of a wire mean a device, bool (n,).

    Args:
        wire: of 1-Wire devices; of others none does.
        code: the code of the device, in kernel form.
    """
    judged, family = wire.judged, wire.family
    return np.array([family.device(judged, at) == code for at in range(len(wire))], dtype=bool)
