"""1-Wire transactions as columns, and their slots as one long row."""

from collections.abc import Sequence
from enum import IntEnum, IntFlag
from typing import Any

import msgspec
import numpy as np
import numpy.typing as npt
from msgspec.structs import force_setattr

from pivet.decode.batches import join_batches
from pivet.frozen import FrozenObject, replace
from pivet.signal.trace import Int64Array

Int32Array = npt.NDArray[np.int32]
ByteArray = npt.NDArray[np.uint8]


class DecodeMark(IntFlag):
    """What the decoder noticed about how a transaction lies in the capture."""

    RESET_CLIPPED = 1
    """The capture starts inside the reset."""
    CAPTURE_ENDED = 2
    """The capture ends before the line came to rest."""
    CUT = 4
    """More slots follow than one transaction can have."""


class Speaker(IntEnum):
    """Who gives a slot its value; the host begins every slot."""

    HOST = 0
    DEVICE = 1


class OneWireExchanges(FrozenObject):
    """Columns of n transactions, in order of time, with s slots in all.

    Attributes:
        start_ns: fall of the reset, int64 (n,).
        end_ns: last edge that belongs to the transaction, int64 (n,).
        reset_ns: length of the reset, int64 (n,).
        wait_ns, presence_ns: from release to presence, and its length, int32 (n,); -1 for none.
        fast: the reset is one at overdrive speed, bool (n,).
        turns_fast: from the ninth slot on at overdrive speed, bool (n,).
        slot_count: slots after reset and presence, int64 (n,).
        command, function: ROM and function command, int16 (n,); -1 for none.
        function_at: slot at which the function command begins, int64 (n,); -1 for none.
        rom: the 64 bits of a code sent or found, bit 0 the first on the wire, uint64 (n,).
        has_rom: all 64 bits of it came, bool (n,).
        steps: triplets of a search that came whole, int16 (n,); -1 when it is no search.
        forks: bits at which devices differ (00), uint64 (n,).
        nobody_at: first bit at which nobody answered (11), int16 (n,); -1 for none.
        marks: ``DecodeMark`` bits, uint8 (n,).
        fall_ns: fall of each slot, int64 (s,).
        low_ns: low of each slot, int32 (s,).
        bit: its value, uint8 (s,).
        speaker: ``Speaker`` of each slot, uint8 (s,).
        spike_start_ns, spike_width_ns: disturbances taken out, (m,).
        stray_start_ns, stray_end_ns, stray_edges: stretches of edges in no transaction, (k,).
    """

    start_ns: Int64Array
    end_ns: Int64Array
    reset_ns: Int64Array
    wait_ns: Int32Array
    presence_ns: Int32Array
    fast: npt.NDArray[np.bool_]
    turns_fast: npt.NDArray[np.bool_]
    slot_count: Int64Array
    command: npt.NDArray[np.int16]
    function: npt.NDArray[np.int16]
    function_at: Int64Array
    rom: npt.NDArray[np.uint64]
    has_rom: npt.NDArray[np.bool_]
    steps: npt.NDArray[np.int16]
    forks: npt.NDArray[np.uint64]
    nobody_at: npt.NDArray[np.int16]
    marks: ByteArray
    fall_ns: Int64Array
    low_ns: Int32Array
    bit: ByteArray
    speaker: ByteArray
    spike_start_ns: Int64Array
    spike_width_ns: Int64Array
    stray_start_ns: Int64Array
    stray_end_ns: Int64Array
    stray_edges: Int64Array
    # Worked out once: a long capture asks for one transaction after the other.
    _first: list[Int64Array] = msgspec.field(default_factory=list)

    def __post_init__(self) -> None:
        force_setattr(self, "_first", [])  # other columns begin elsewhere

    def __len__(self) -> int:
        return int(self.start_ns.size)

    @property
    def ended(self) -> npt.NDArray[np.bool_]:
        """Whether the capture ends within each exchange, bool (n,)."""
        found: npt.NDArray[np.bool_] = (self.marks & DecodeMark.CAPTURE_ENDED) != 0
        return found

    @property
    def first_slot(self) -> Int64Array:
        """Where each transaction's slots begin, int64 (n,)."""
        ends: Int64Array = np.cumsum(self.slot_count)
        return ends - self.slot_count

    def slots_of(self, index: int) -> slice:
        """Where the slots of one transaction stand.

        Args:
            index: number of the exchange, from 0.
        """
        first = int(self._kept_first()[index])
        return slice(first, first + int(self.slot_count[index]))

    def _kept_first(self) -> Int64Array:
        if not self._first:
            self._first.append(self.first_slot)
        return self._first[0]

    def rows(self, first: int, last: int) -> "OneWireExchanges":
        """Transactions ``first`` up to ``last`` with their slots; views, no copies.

        Args:
            first: index of the first.
            last: one past the index of the last.
        """
        begins = self._kept_first()
        slots = slice(
            *(int(begins[at]) if at < len(self) else self.low_ns.size for at in (first, last))
        )
        own = {name: getattr(self, name)[first:last] for name in OWN}
        return replace(self, **own, **{name: getattr(self, name)[slots] for name in OF_SLOTS})

    def slot_is_fast(self) -> npt.NDArray[np.bool_]:
        """Whether each slot is at overdrive speed, bool (s,)."""
        fast = np.repeat(self.fast, self.slot_count)
        if self.turns_fast.any():
            turned = np.repeat(self.turns_fast, self.slot_count)
            fast |= turned & (positions(self.slot_count) >= 8)
        return fast


def positions(counts: Int64Array) -> Int64Array:
    """Number of each slot in its transaction, int64 (s,).

    Args:
        counts: the counts of each transaction, int64 (n,).
    """
    ends = np.cumsum(counts)
    total = int(ends[-1]) if ends.size else 0
    within: Int64Array = np.arange(total, dtype=np.int64)
    within -= np.repeat(ends - counts, counts)
    return within


KINDS: dict[str, type] = {
    "start_ns": np.int64,
    "end_ns": np.int64,
    "reset_ns": np.int64,
    "wait_ns": np.int32,
    "presence_ns": np.int32,
    "fast": np.bool_,
    "turns_fast": np.bool_,
    "slot_count": np.int64,
    "command": np.int16,
    "function": np.int16,
    "function_at": np.int64,
    "rom": np.uint64,
    "has_rom": np.bool_,
    "steps": np.int16,
    "forks": np.uint64,
    "nobody_at": np.int16,
    "marks": np.uint8,
    "fall_ns": np.int64,
    "low_ns": np.int32,
    "bit": np.uint8,
    "speaker": np.uint8,
    "spike_start_ns": np.int64,
    "spike_width_ns": np.int64,
    "stray_start_ns": np.int64,
    "stray_end_ns": np.int64,
    "stray_edges": np.int64,
}
"""The columns and the kind of their numbers."""

OF_SLOTS = ("fall_ns", "low_ns", "bit", "speaker")
OWN = tuple(KINDS)[: tuple(KINDS).index("fall_ns")]
"""Columns with a row a slot, and with a row a transaction."""


def made(**columns: npt.NDArray[Any]) -> OneWireExchanges:
    """Exchanges from some columns; the others are empty."""
    every: dict[str, Any] = {
        name: columns[name] if name in columns else np.empty(0, dtype=kind)
        for name, kind in KINDS.items()
    }
    return OneWireExchanges(**every)


def join(batches: Sequence[OneWireExchanges]) -> OneWireExchanges:
    """Batches of one line, in order of time, as one.

    Args:
        batches: columns, in order of time.
    """
    return join_batches(batches, made)
