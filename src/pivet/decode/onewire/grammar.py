"""Who speaks in each slot, and which commands a transaction holds.

A slot's bit is what its reader sees: a device samples a written bit late, a host samples
a read bit early.  So the speaker comes first, the bit second.
"""

from collections.abc import Iterable

import numpy as np
import numpy.typing as npt

from pivet.decode.onewire import layout
from pivet.decode.onewire.columns import ByteArray, Speaker
from pivet.frozen import FrozenObject
from pivet.sheets.onewire import (
    BEHIND,
    DEVICE,
    GIVEN,
    HOST,
    KINDS,
    MATCHES,
    ROM_BITS,
    SEARCHES,
    Rom,
)
from pivet.signal.trace import BoolArray, Int64Array

NOTHING = -1
UNKNOWN = 2
"""Speaker of a slot of which the commands do not say whose it is."""

COMMAND_SLOTS = layout.BITS_IN_BYTE
LETTERS = {HOST: Speaker.HOST, DEVICE: Speaker.DEVICE}

FUNCTION_FROM = np.full(256, NOTHING, dtype=np.int64)
"""Slot at which the function command begins, by ROM command; of others nobody knows."""
for _command, _slots in BEHIND.items():
    FUNCTION_FROM[_command] = COMMAND_SLOTS + len(_slots)

BETWEEN = {
    command: np.array([LETTERS[letter] for letter in slots], dtype=np.uint8)
    for command, slots in BEHIND.items()
    if DEVICE in slots
}
"""Speakers after a ROM command before its function command, where devices are among them."""

PAYLOAD = np.full(256, UNKNOWN, dtype=np.uint8)
"""Who speaks after a thermometer's function command."""
for _function, _letter in GIVEN.items():
    PAYLOAD[_function] = LETTERS[_letter]

THERMOMETER = np.zeros(256, dtype=bool)
for _kind in KINDS.values():
    THERMOMETER[_kind.code] = _kind.thermometer


def _among(commands: Iterable[int]) -> BoolArray:
    """Whether a ROM command is one of some, by its number; the last stands for ``NOTHING``."""
    found = np.zeros(257, dtype=bool)
    found[list(commands)] = True
    return found


IS_MATCH, IS_READ, IS_SEARCH = _among(MATCHES), _among((Rom.READ,)), _among(SEARCHES)


class SlotMeanings(FrozenObject):
    """What the slots of n transactions mean; see ``OneWireExchanges``."""

    command: npt.NDArray[np.int16]
    function: npt.NDArray[np.int16]
    function_at: Int64Array
    rom: npt.NDArray[np.uint64]
    has_rom: BoolArray
    steps: npt.NDArray[np.int16]
    forks: npt.NDArray[np.uint64]
    nobody_at: npt.NDArray[np.int16]
    bit: ByteArray
    speaker: ByteArray


class Slots(FrozenObject):
    """The slots of n transactions.

    Attributes:
        low_ns: int64 (s,), ns.
        fast: at overdrive speed, bool (s,).
        first, count: of each transaction's slots, int64 (n,).
        place: number of each slot in its transaction, int64 (s,).
    """

    low_ns: Int64Array
    fast: BoolArray
    first: Int64Array
    count: Int64Array
    place: Int64Array


def make_sense(slots: Slots) -> SlotMeanings:
    """Commands, codes, speakers and bits of transactions.

    Args:
        slots: the slots of the transactions.
    """
    any_fast = bool(slots.fast.any())
    written = slots.low_ns < _limit(slots, any_fast, True)
    read = slots.low_ns <= _limit(slots, any_fast, False)
    size = slots.count.size
    start = np.zeros(size, dtype=np.int64)
    command = _bytes_at(written, slots, start)
    function_at = np.where(command >= 0, FUNCTION_FROM[np.maximum(command, 0)], NOTHING)
    function = _bytes_at(written, slots, function_at)
    rom, has_rom = _codes(written, read, slots, command)
    searched = IS_SEARCH[command]
    steps = np.where(searched, 0, NOTHING).astype(np.int16)
    forks, nobody = np.zeros(size, dtype=np.uint64), np.full(size, NOTHING, dtype=np.int16)
    rows = np.flatnonzero(searched)
    if rows.size:
        taken, steps[rows], forks[rows], nobody[rows] = _walks(written, read, slots, rows)
        rom[rows], has_rom[rows] = taken, (steps[rows] == ROM_BITS) & (nobody[rows] == NOTHING)
    speaker = _speakers(slots, command, function, function_at, rom, has_rom)
    unknown = speaker == UNKNOWN
    if unknown.any():
        speaker[unknown] = _guessed(slots, command, function_at, unknown)
    bit = np.where(speaker == Speaker.HOST, written, read).view(np.uint8)
    function_at = np.where(function >= 0, function_at, NOTHING)
    return SlotMeanings(
        command, function, function_at, rom, has_rom, steps, forks, nobody, bit, speaker
    )


def _limit(slots: Slots, any_fast: bool, write: bool) -> Int64Array | int:
    slow = layout.WRITE_SPLIT_NS if write else layout.READ_SPLIT_NS
    fast = layout.FAST_WRITE_SPLIT_NS if write else layout.FAST_READ_SPLIT_NS
    return np.where(slots.fast, fast, slow) if any_fast else slow


def _bytes_at(bits: BoolArray, slots: Slots, at: Int64Array) -> npt.NDArray[np.int16]:
    """The byte that begins at slot ``at`` of each transaction; -1 where it did not come."""
    whole = (at >= 0) & (slots.count >= at + layout.BITS_IN_BYTE)
    found = np.full(at.size, NOTHING, dtype=np.int16)
    rows = np.flatnonzero(whole)
    if rows.size:
        index = (slots.first + at)[rows, None] + np.arange(layout.BITS_IN_BYTE)
        found[rows] = np.packbits(bits[index], axis=1, bitorder="little")[:, 0]
    return found


def _packed(bits: BoolArray) -> npt.NDArray[np.uint64]:
    """64 bits a row as a number, bit 0 the first."""
    return np.packbits(bits, axis=1, bitorder="little").view("<u8")[:, 0].astype(np.uint64)


def _codes(
    written: BoolArray, read: BoolArray, slots: Slots, command: npt.NDArray[np.int16]
) -> tuple[npt.NDArray[np.uint64], BoolArray]:
    """ROM codes that the host sent (match) or a device gave (read)."""
    rom = np.zeros(command.size, dtype=np.uint64)
    has = np.zeros(command.size, dtype=bool)
    whole = slots.count >= layout.BITS_IN_BYTE + ROM_BITS
    for meant, bits in ((IS_MATCH, written), (IS_READ, read)):
        rows = np.flatnonzero(whole & meant[command])
        if rows.size:
            index = slots.first[rows, None] + layout.BITS_IN_BYTE + np.arange(ROM_BITS)
            rom[rows], has[rows] = _packed(bits[index]), True
    return rom, has


def _walks(
    written: BoolArray, read: BoolArray, slots: Slots, rows: Int64Array
) -> tuple[
    npt.NDArray[np.uint64],
    npt.NDArray[np.int16],
    npt.NDArray[np.uint64],
    npt.NDArray[np.int16],
]:
    """The triplets of searches: bit, complement, direction.

    Returns:
        the code walked, triplets that came whole, forks, first bit without an answer.
    """
    there = slots.count[rows] - layout.BITS_IN_BYTE
    index = slots.first[rows, None] + layout.BITS_IN_BYTE + 3 * np.arange(ROM_BITS)
    step = np.arange(ROM_BITS)
    paired = 3 * step + 2 <= there[:, None]
    whole = 3 * step + 3 <= there[:, None]
    last = read.size - 1
    bit = read[np.minimum(index, last)] & paired
    complement = read[np.minimum(index + 1, last)] & paired
    taken = written[np.minimum(index + 2, last)] & whole
    nobody = bit & complement
    first = np.where(nobody.any(axis=1), nobody.argmax(axis=1), NOTHING)
    forks = paired & ~bit & ~complement
    steps = whole.sum(axis=1)
    return _packed(taken), steps.astype(np.int16), _packed(forks), first.astype(np.int16)


def _speakers(
    slots: Slots,
    command: npt.NDArray[np.int16],
    function: npt.NDArray[np.int16],
    function_at: Int64Array,
    rom: npt.NDArray[np.uint64],
    has_rom: BoolArray,
) -> ByteArray:
    """Who speaks in each slot, ``UNKNOWN`` where the commands do not say."""
    place = slots.place
    speaker = np.full(place.size, Speaker.HOST, dtype=np.uint8)
    counts = slots.count
    behind = place >= np.repeat(
        np.where(function_at >= 0, function_at + layout.BITS_IN_BYTE, layout.BITS_IN_BYTE), counts
    )
    family = (rom & np.uint64(0xFF)).astype(np.int64)
    plain = ~has_rom | THERMOMETER[family]
    payload = np.where((function >= 0) & plain, PAYLOAD[np.maximum(function, 0)], UNKNOWN).astype(
        np.uint8
    )
    np.copyto(speaker, np.repeat(payload, counts), where=behind)
    for one, between in BETWEEN.items():
        own = np.repeat(command == one, counts)
        if own.any():
            own &= (place >= COMMAND_SLOTS) & (place < COMMAND_SLOTS + between.size)
            speaker[own] = between[place[own] - COMMAND_SLOTS]
    return speaker


def _guessed(
    slots: Slots, command: npt.NDArray[np.int16], function_at: Int64Array, unknown: BoolArray
) -> ByteArray:
    """Speakers by the length of a byte's zeros: a host holds them longer than a device.

    A byte without zeros goes with the byte before it; the first such with the host.
    """
    index = np.flatnonzero(unknown)
    row = np.repeat(np.arange(slots.count.size), slots.count)[index]
    begin = np.where(function_at >= 0, function_at + layout.BITS_IN_BYTE, layout.BITS_IN_BYTE)
    byte = (index - slots.first[row] - begin[row]) // layout.BITS_IN_BYTE
    first = np.flatnonzero((np.diff(row, prepend=-1) != 0) | (np.diff(byte, prepend=-1) != 0))
    fast = slots.fast[index]
    low = slots.low_ns[index]
    zero = low > np.where(fast, layout.FAST_READ_SPLIT_NS, layout.READ_SPLIT_NS)
    long = low >= np.where(fast, layout.FAST_HOST_ZERO_NS, layout.HOST_ZERO_NS)
    zeros = np.add.reduceat(zero.astype(np.int64), first)
    longs = np.add.reduceat((zero & long).astype(np.int64), first)
    told = np.where(zeros == 0, NOTHING, np.where(2 * longs >= zeros, 0, 1))
    begins = np.diff(row[first], prepend=-1) != 0
    told = np.where(begins & (told == NOTHING), int(Speaker.HOST), told)
    source = np.maximum.accumulate(np.where(told != NOTHING, np.arange(told.size), 0))
    sizes = np.diff(np.append(first, index.size))
    return np.repeat(told[source], sizes).astype(np.uint8)
