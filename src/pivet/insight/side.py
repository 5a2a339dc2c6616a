"""Some exchanges of a wire: one side of a comparison, what is rehearsed, what a report is of."""

from dataclasses import dataclass, field

import numpy as np

from pivet.captures.wire import Wire
from pivet.insight.pulses import BoolArray


@dataclass(frozen=True, slots=True, eq=False)
class Side:
    """Exchanges of one side.

    Attributes:
        wire: that has them.
        chosen: which count, bool (n,); None for all.
    """

    wire: Wire = field(repr=False)
    chosen: BoolArray | None = field(default=None, repr=False)

    @property
    def counted(self) -> BoolArray:
        """Which count, bool (n,)."""
        return np.ones(len(self.wire), dtype=bool) if self.chosen is None else self.chosen
