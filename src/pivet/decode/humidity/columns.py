"""Humidity exchanges as columns: the last axis of every array counts the exchanges."""

from collections.abc import Sequence
from enum import IntFlag
from typing import Any

import numpy as np
import numpy.typing as npt

from pivet.decode.batches import join_batches
from pivet.decode.humidity import layout
from pivet.frozen import FrozenObject
from pivet.signal.trace import Int64Array


class DecodeMark(IntFlag):
    """What the decoder noticed about how an exchange lies in the capture."""

    ASK_UNSEEN = 1
    """The answer is there, its ask is not."""
    ASK_CLIPPED = 2
    """The capture starts inside the ask, which is at least as long as measured."""
    CAPTURE_ENDED = 4
    """The capture ends before the line came to rest."""


class HumidityExchanges(FrozenObject):
    """Columns of n exchanges, in order of time, and what lies between them.

    Attributes:
        start_ns: fall of the ask (of the answer when the ask is unseen), int64 (n,).
        body_ns: rise of the ask, where the pulses of ``widths_ns`` begin; int64 (n,).
        end_ns: last edge that belongs to the exchange, int64 (n,).
        widths_ns: pulse lengths by column of ``layout``, int32 (84, n); -1 = absent.
        pulse_count: complete pulses after the ask, int32 (n,); 84 in a whole frame.
        bit_count: complete bits, int8 (n,), at most 40.
        split_ns: high length that parts 0 from 1 in this frame, int32 (n,).
        packed: the bits, most significant first, uint8 (5, n); bits not received are 0.
        marks: ``DecodeMark`` bits, uint8 (n,).
        spike_start_ns, spike_width_ns: disturbances taken out, anywhere on the line, (m,).
        stray_start_ns, stray_end_ns, stray_edges: stretches of edges that belong to no
            exchange, (k,).
    """

    start_ns: Int64Array
    body_ns: Int64Array
    end_ns: Int64Array
    widths_ns: npt.NDArray[np.int32]
    pulse_count: npt.NDArray[np.int32]
    bit_count: npt.NDArray[np.int8]
    split_ns: npt.NDArray[np.int32]
    packed: npt.NDArray[np.uint8]
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
    def ask_ns(self) -> Int64Array:
        """Length of each ask, int64 (n,), ns; 0 where it is unseen."""
        return self.body_ns - self.start_ns

    @property
    def highs_ns(self) -> npt.NDArray[np.int32]:
        """Highs of the bits, int32 (40, n), ns."""
        return self.widths_ns[layout.FIRST_HIGH : layout.END_LOW : 2]

    @property
    def lows_ns(self) -> npt.NDArray[np.int32]:
        """Lows of the bits, int32 (40, n), ns."""
        return self.widths_ns[layout.FIRST_LOW : layout.END_LOW : 2]

    def bits(self, index: int) -> npt.NDArray[np.uint8]:
        """The received bits of one exchange, uint8 (bit_count,).

        Args:
            index: number of the exchange, from 0.
        """
        return np.unpackbits(self.packed[:, index])[: int(self.bit_count[index])]

    def pulse_starts_ns(self, index: int) -> Int64Array:
        """Start of each pulse of one exchange by column, int64 (84,), ns.

        Args:
            index: number of the exchange, from 0.
        """
        widths = np.maximum(self.widths_ns[:, index].astype(np.int64), 0)
        return int(self.body_ns[index]) + np.concatenate(([0], np.cumsum(widths)[:-1]))

    def spikes_in(self, index: int) -> tuple[Int64Array, Int64Array]:
        """Start and width of the spikes taken out of one exchange, ns.

        Args:
            index: number of the exchange, from 0.
        """
        first, last = np.searchsorted(
            self.spike_start_ns, (int(self.start_ns[index]), int(self.end_ns[index]))
        )
        return self.spike_start_ns[first:last], self.spike_width_ns[first:last]

    def rows(self, first: int, last: int) -> "HumidityExchanges":
        """Exchanges ``first`` up to ``last``; views, no copies.

        Args:
            first: index of the first.
            last: one past the index of the last.
        """
        of_exchange = {name: getattr(self, name)[..., first:last] for name in EXCHANGE_COLUMNS}
        others = {name: getattr(self, name) for name in LINE_COLUMNS}
        return HumidityExchanges(**of_exchange, **others)

    def pick(self, indices: Int64Array) -> "HumidityExchanges":
        """Chosen exchanges, copied.

        Args:
            indices: of those chosen, int64 (k,).
        """
        of_exchange = {name: getattr(self, name)[..., indices] for name in EXCHANGE_COLUMNS}
        others = {name: getattr(self, name) for name in LINE_COLUMNS}
        return HumidityExchanges(**of_exchange, **others)


EXCHANGE_COLUMNS = (
    "start_ns",
    "body_ns",
    "end_ns",
    "widths_ns",
    "pulse_count",
    "bit_count",
    "split_ns",
    "packed",
    "marks",
)
LINE_COLUMNS = tuple(
    name for name in HumidityExchanges.__struct_fields__ if name not in EXCHANGE_COLUMNS
)

_SHAPES: dict[str, tuple[type, tuple[int, ...]]] = {
    "widths_ns": (np.int32, (layout.PULSES,)),
    "pulse_count": (np.int32, ()),
    "bit_count": (np.int8, ()),
    "split_ns": (np.int32, ()),
    "packed": (np.uint8, (layout.BYTES,)),
    "marks": (np.uint8, ()),
}


def empty() -> HumidityExchanges:
    """No exchanges at all."""
    made: dict[str, npt.NDArray[Any]] = {}
    for name in EXCHANGE_COLUMNS + LINE_COLUMNS:
        kind, shape = _SHAPES.get(name, (np.int64, ()))
        made[name] = np.empty((*shape, 0), dtype=kind)
    return HumidityExchanges(**made)


def join(batches: Sequence[HumidityExchanges]) -> HumidityExchanges:
    """Batches of one line, in order of time, as one.

    Args:
        batches: columns, in order of time.
    """
    return join_batches(batches, empty)
