"""Echo measurements as columns: the last axis of every array counts the measurements."""

from collections.abc import Sequence
from enum import IntFlag
from typing import Any

import numpy as np
import numpy.typing as npt

from pivet.decode.batches import join_batches
from pivet.frozen import FrozenObject, replace
from pivet.signal.trace import Int64Array


class DecodeMark(IntFlag):
    """What the decoder noticed about how a measurement lies in the capture."""

    TRIGGER_UNSEEN = 1
    """An echo of which no trigger is known."""
    ECHO_UP = 2
    """Triggered while an echo was still up."""
    CAPTURE_ENDED = 4
    """The capture ends inside the pulse, or before the echo could come."""
    BROKEN = 8
    """Short gaps in the echo were closed."""
    RAGGED = 16
    """Pulses touch an end of the echo: where it begins or ends nobody can say."""
    SEVERAL = 32
    """Several echoes answer one trigger, and none stands out; the longest is kept."""
    STRAYS = 64
    """Short pulses near the echo were passed over."""
    STUCK = 128
    """The echo line was high for longer than any sensor keeps it so."""


class EchoExchanges(FrozenObject):
    """Columns of n measurements, in order of time.

    Attributes:
        start_ns: rise of the trigger (of the echo when no trigger is known), int64 (n,).
        end_ns: last edge of the measurement, int64 (n,).
        trigger_ns: length of the trigger, int64 (n,); -1 for none.
        rise_ns: rise of the echo, int64 (n,); of no meaning without one.
        flight_ns: length of the echo, int64 (n,); -1 for none.
        marks: ``DecodeMark`` bits, uint8 (n,).
        spike_start_ns, spike_width_ns: disturbances taken out, (m,).
        stray_start_ns, stray_end_ns, stray_edges: highs that began before the capture, (k,).
    """

    start_ns: Int64Array
    end_ns: Int64Array
    trigger_ns: Int64Array
    rise_ns: Int64Array
    flight_ns: Int64Array
    marks: npt.NDArray[np.uint8]
    spike_start_ns: Int64Array
    spike_width_ns: Int64Array
    stray_start_ns: Int64Array
    stray_end_ns: Int64Array
    stray_edges: Int64Array

    def __len__(self) -> int:
        return int(self.start_ns.size)

    @property
    def ended(self) -> npt.NDArray[np.bool_]:
        """Whether the capture ends within each exchange, bool (n,)."""
        found: npt.NDArray[np.bool_] = (self.marks & DecodeMark.CAPTURE_ENDED) != 0
        return found

    @property
    def wait_ns(self) -> Int64Array:
        """From the trigger's fall to the echo's rise, int64 (n,); -1 without both."""
        both = (self.trigger_ns >= 0) & (self.flight_ns >= 0)
        wait: Int64Array = np.where(both, self.rise_ns - self.start_ns - self.trigger_ns, -1)
        return wait

    def rows(self, first: int, last: int) -> "EchoExchanges":
        """Measurements ``first`` up to ``last``; views, no copies.

        Args:
            first: index of the first.
            last: one past the index of the last.
        """
        return replace(self, **{name: getattr(self, name)[first:last] for name in OWN})

    def pick(self, indices: Int64Array) -> "EchoExchanges":
        """Chosen measurements, copied.

        Args:
            indices: of those chosen, int64 (k,).
        """
        return replace(self, **{name: getattr(self, name)[indices] for name in OWN})


OWN = ("start_ns", "end_ns", "trigger_ns", "rise_ns", "flight_ns", "marks")
"""Columns with a row a measurement."""

NAMES = EchoExchanges.__struct_fields__


def made(**columns: npt.NDArray[Any]) -> EchoExchanges:
    """Measurements from some columns; the others are empty."""
    kinds = {"marks": np.uint8}
    return EchoExchanges(
        **{name: columns.get(name, np.empty(0, dtype=kinds.get(name, np.int64))) for name in NAMES}
    )


def join(batches: Sequence[EchoExchanges]) -> EchoExchanges:
    """Batches of one wire, in order of time, as one.

    Args:
        batches: columns, in order of time.
    """
    return join_batches(batches, made)
