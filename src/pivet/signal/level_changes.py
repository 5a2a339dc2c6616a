"""From time-stamped levels, as files give them, to a line's edges."""

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject
from pivet.signal.trace import Int64Array, Level


class LevelChanges(FrozenObject):
    """The edges found among time-stamped levels.

    Attributes:
        initial: level at the first stamp.
        edges_ns: times of the level changes, int64, shape (n,), ns.
        instant: how often a line changed there and back within one time stamp.
    """

    initial: Level
    edges_ns: Int64Array
    instant: int


def turns(times_ns: Int64Array, levels: npt.NDArray[np.uint8]) -> LevelChanges:
    """Keeps the stamps at which the level really changes.

    The last of several levels with the same stamp counts: a simulator writes them
    when a net settles in steps of no duration.

    Args:
        times_ns: rising or equal stamps, int64, shape (n,), ns; n >= 1.
        levels: 0 or 1 at each stamp, uint8, shape (n,).
    """
    last = np.ones(times_ns.size, dtype=bool)
    np.not_equal(times_ns[1:], times_ns[:-1], out=last[:-1])
    all_changes = int(np.count_nonzero(levels[1:] != levels[:-1]))
    if not last.all():
        times_ns, levels = times_ns[last], levels[last]
    changed = np.flatnonzero(levels[1:] != levels[:-1]) + 1
    return LevelChanges(Level(int(levels[0])), times_ns[changed], (all_changes - changed.size) // 2)
