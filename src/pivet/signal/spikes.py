"""Taking out spikes: pulses too short to be meant by either side."""

import msgspec
import numpy as np

from pivet.frozen import FrozenObject
from pivet.signal.trace import BoolArray, Int64Array

NONE = np.empty(0, dtype=np.int64)
NONE.flags.writeable = False


class Cleaned(FrozenObject):
    """Edges without spikes, and the spikes taken out.

    Attributes:
        edges_ns: the remaining edges, int64, shape (n,), ns.
        spike_start_ns: start of each disturbance, int64, shape (m,), ns.
        spike_width_ns: from its first to its last edge, int64, shape (m,), ns.
    """

    edges_ns: Int64Array
    spike_start_ns: Int64Array = msgspec.field(default_factory=lambda: NONE)
    spike_width_ns: Int64Array = msgspec.field(default_factory=lambda: NONE)


class SpikeFilter:
    """Removes pulses shorter than a limit from a stream of edges.

    Edges closer together than the limit form one disturbance.  An even number of
    them leaves the level as it was: all go.  An odd number is one bouncing edge: the
    first stays.  So the levels of the remaining edges still alternate.

    Args:
        shortest_ns: a pulse of at least this length is kept, ns.
    """

    def __init__(self, shortest_ns: int) -> None:
        self._shortest_ns = shortest_ns
        self._held = NONE

    def feed(self, edges_ns: Int64Array, known_until_ns: int) -> Cleaned:
        """Takes further edges and gives those that no later edge can change.

        Args:
            edges_ns: the edges since the last call, int64, shape (n,), ns.
            known_until_ns: the line is known up to here, ns.
        """
        edges = np.concatenate((self._held, edges_ns)) if self._held.size else edges_ns
        if not edges.size:
            return Cleaned(NONE)
        close = np.diff(edges) < self._shortest_ns
        if known_until_ns - int(edges[-1]) >= self._shortest_ns:
            self._held = NONE
        else:
            settled = _until_last_apart(close)
            self._held = edges[settled:].copy()
            edges, close = edges[:settled], close[: max(settled - 1, 0)]
        if not close.any():
            return Cleaned(edges)
        return _without(edges, close)

    def settled_until(self, known_until_ns: int) -> int:
        """Up to when the edges given so far are the whole truth, ns.

        Args:
            known_until_ns: up to when the line is known, ns.
        """
        return min(int(self._held[0]), known_until_ns) if self._held.size else known_until_ns

    def finish(self) -> Cleaned:
        """Gives what was held back: the line ends here."""
        held, self._held = self._held, NONE
        if held.size < 2:
            return Cleaned(held)
        return _without(held, np.ones(held.size - 1, dtype=bool))


def _until_last_apart(close: BoolArray) -> int:
    """How many edges stand before the last distance that is long enough; 0 when none is."""
    if close.all():
        return 0
    return close.size - int(close[::-1].argmin())


def _without(edges: Int64Array, close: BoolArray) -> Cleaned:
    first = np.flatnonzero(np.concatenate(([True], ~close)))
    sizes = np.diff(np.append(first, edges.size))
    disturbed = sizes > 1
    starts = edges[first[disturbed]]
    ends = edges[first[disturbed] + sizes[disturbed] - 1]
    return Cleaned(edges[first[sizes % 2 == 1]], starts, ends - starts)
