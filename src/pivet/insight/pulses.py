"""All pulses of a wire, sorted into the windows of its sheet."""

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from pivet.decode.interface import ABSENT
from pivet.frozen import FrozenObject
from pivet.sheets.model import Window

Int64Array = npt.NDArray[np.int64]
BoolArray = npt.NDArray[np.bool_]

WHOLE = -1
"""Position of a pulse of which an exchange has one only."""


class Widths(FrozenObject):
    """All pulses of one window.

    Attributes:
        window: the window of the sheet.
        ns: their lengths, integers (m,), ns.
        find: of some of them, by their places in ``ns``, the exchanges (from 0) and the
            positions in these (a bit, a slot; ``WHOLE`` where there is only one).
    """

    window: Window
    ns: npt.NDArray[np.integer]
    find: Callable[[Int64Array], tuple[Int64Array, Int64Array]]

    def owners(self) -> Int64Array:
        """The exchange of each pulse, from 0, int64 (m,)."""
        return self.find(np.arange(self.ns.size))[0]

    def of(self, chosen: BoolArray) -> "Widths":
        """Those of some exchanges only.

        Args:
            chosen: which exchanges, bool (n,).
        """
        kept = np.flatnonzero(chosen[self.owners()])
        return Widths(self.window, self.ns[kept], lambda at: self.find(kept[at]))


def one_each(window: Window, ns: npt.NDArray[np.integer]) -> Widths:
    """Pulses of which each exchange has one at most.

    Args:
        window: the window of the sheet.
        ns: lengths, (n,), ns; ``ABSENT`` for none.
    """
    there = np.flatnonzero(ns != ABSENT)
    return Widths(window, ns[there], lambda at: (there[at], np.full(at.size, WHOLE)))
