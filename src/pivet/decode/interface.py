"""What every family's decoder promises, and how all keep the widths of pulses."""

from typing import Protocol, TypeVar

from pivet.signal.trace import Int64Array

ABSENT = -1
"""Width of a pulse that is not there, ns."""

WIDEST_NS = 2**31 - 1
"""Widths are kept as int32; a longer one is kept as this."""

Batch_co = TypeVar("Batch_co", covariant=True)


class Decoder(Protocol[Batch_co]):
    """Takes a line's edges in any pieces and gives its exchanges.

    A decoder has no clock, file or thread.  It never raises on any rising sequence of
    edges, and any way of cutting the same edges into pieces gives the same exchanges.
    """

    def feed(self, edges_ns: Int64Array, known_until_ns: int) -> Batch_co:
        """Takes the edges since the last call; gives the exchanges that are now certain.

        Args:
            edges_ns: strictly rising times, int64, shape (n,), ns.
            known_until_ns: the line is known up to here; a quiet line is news too, ns.
        """
        ...

    def finish(self) -> Batch_co:
        """Gives what was still open: nothing follows."""
        ...
