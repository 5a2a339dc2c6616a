"""What every family's decoder promises, and how all keep the widths of pulses."""

from typing import ClassVar, Protocol, TypeVar

import numpy as np
import numpy.typing as npt

from pivet.signal.trace import Int64Array

ABSENT = -1
"""Width of a pulse that is not there, ns."""

WIDEST_NS = 2**31 - 1
"""Widths are kept as int32; a longer one is kept as this."""

Batch_co = TypeVar("Batch_co", covariant=True)


class Exchanges(Protocol):
    """What the exchanges of every family have: columns, the last axis counts the exchanges."""

    __struct_fields__: ClassVar[tuple[str, ...]]
    """They are structs of arrays."""

    @property
    def start_ns(self) -> Int64Array:
        """Start of each exchange, rising, int64 (n,), ns."""
        ...

    @property
    def end_ns(self) -> Int64Array:
        """Last edge of each exchange, int64 (n,), ns."""
        ...

    @property
    def spike_start_ns(self) -> Int64Array:
        """Disturbances taken out, anywhere on the lines, int64 (m,), ns."""
        ...

    @property
    def spike_width_ns(self) -> Int64Array:
        """How long each of them lasts, int64 (m,), ns."""
        ...

    @property
    def stray_start_ns(self) -> Int64Array:
        """Starts of stretches of edges that belong to no exchange, int64 (k,), ns."""
        ...

    @property
    def stray_edges(self) -> Int64Array:
        """Number of edges in each such stretch, int64 (k,)."""
        ...

    @property
    def ended(self) -> npt.NDArray[np.bool_]:
        """Whether the capture ends within each exchange, bool (n,)."""
        ...

    def __len__(self) -> int: ...


class Decoder(Protocol[Batch_co]):
    """Takes the edges of a wire's lines in any pieces and gives its exchanges.

    A decoder has no clock, file or thread.  It never raises on any rising sequences of
    edges, and any way of cutting the same edges into pieces gives the same exchanges.
    """

    def feed(self, lines: tuple[Int64Array, ...], known_until_ns: int) -> Batch_co:
        """Takes the edges since the last call; gives the exchanges that are now certain.

        Args:
            lines: for each line of the wire strictly rising times, int64, shape (n,), ns.
            known_until_ns: the lines are known up to here; a quiet line is news too, ns.
        """
        ...

    def finish(self) -> Batch_co:
        """Gives what was still open: nothing follows."""
        ...
