"""What only a 1-Wire transaction has: commands, bytes with their meaning, a search's walk."""

from collections.abc import Callable, Mapping
from functools import partial

import numpy as np

from pivet.decode.checks import crc8_of
from pivet.decode.interface import ABSENT
from pivet.decode.onewire import OneWireExchanges, Speaker
from pivet.frozen import FrozenObject, FrozenValue
from pivet.judge.later import Later
from pivet.judge.neighbours import Neighbours
from pivet.judge.onewire.judged import JudgedTransactions
from pivet.readings.thermometer import Scratchpad, byte_words, explain
from pivet.sheets.onewire import (
    MATCHES,
    POLLED,
    ROM_BITS,
    SEARCHES,
    Function,
    Rom,
    code_bytes,
    code_text,
    function_name,
    is_thermometer,
    kind_name,
    rom_name,
)

MOST_POLLED = 8
"""How many rows of polled bits are shown."""


class ByteRow(FrozenValue):
    """A byte (or some bits that are none) under its command.

    Attributes:
        part: 0 under the ROM command, 1 under the function command.
        label: what it is.
        value: in hex; empty for bits that are no byte.
        meaning: what it says; may be empty.
        first, count: its slots.
        speaker: who gave it.
        wrong: it does not check.
    """

    part: int
    label: str
    value: str
    meaning: str
    first: int
    count: int
    speaker: Speaker
    wrong: bool = False


class Step(FrozenValue):
    """One triplet of a search; ``direction`` is None where none was written."""

    bit: int
    complement: int
    direction: int | None

    @property
    def fork(self) -> bool:
        """Devices differ here."""
        return not self.bit and not self.complement

    @property
    def nobody(self) -> bool:
        """Nobody answered here."""
        return bool(self.bit and self.complement)


class Walk(FrozenValue):
    """A pass of a search.

    Attributes:
        steps: its triplets.
        found: codes found so far in this round, in search order, this pass included.
        code: the code walked; None unless the pass is whole and its CRC holds.
    """

    steps: tuple[Step, ...]
    found: tuple[int, ...]
    code: int | None


class Transaction(FrozenObject):
    """One 1-Wire transaction, explained.

    Attributes:
        presence: a device answered the reset.
        fast, turns_fast: at overdrive speed from its beginning, or from its ninth slot on.
        command, function: ROM and function command; None when none came.
        rom: code of the device that is meant, in kernel form; None when none is.
        role: the person's name for it; may be empty.
        found: codes that a search found so far, in kernel form.
        make_rows: gives its bytes; called when somebody looks at them.
        make_walk: gives its search, or None for other commands; likewise.
        make_pad: gives the scratchpad that was read or begun, or None; likewise.
    """

    presence: bool
    fast: bool
    turns_fast: bool
    command: int | None
    function: int | None
    rom: str | None
    role: str
    found: tuple[str, ...]
    make_rows: Callable[[], tuple[ByteRow, ...]]
    make_walk: Callable[[], Walk | None]
    make_pad: Callable[[], Scratchpad | None]

    @property
    def rows(self) -> tuple[ByteRow, ...]:
        """Its bytes."""
        return self.make_rows()

    @property
    def walk(self) -> Walk | None:
        """Its search; None for other commands."""
        return self.make_walk()

    @property
    def pad(self) -> Scratchpad | None:
        """The scratchpad that was read or begun; None when none was."""
        return self.make_pad()

    @property
    def searches(self) -> bool:
        """Whether it is a pass of a search."""
        return self.command in SEARCHES

    @property
    def speed(self) -> str:
        """Speed after the ROM command."""
        return "overdrive" if self.fast or self.turns_fast else "standard"


def transaction_of(
    exchanges: OneWireExchanges, judged: JudgedTransactions, index: int, names: Mapping[str, str]
) -> Transaction:
    """Explains transaction ``index``.

    Args:
        exchanges: the exchanges of the wire.
        judged: likewise.
        index: number of the transaction.
        names: the person's names, by code in kernel form.
    """
    presence, fast, turns_fast, command, function = _heads.row(
        exchanges, index, partial(_head_rows, exchanges)
    )
    rom = rom_of(exchanges, judged, index)
    found = tuple(code_text(code) for code in judged.course.found.get(index, ()))
    return Transaction(
        presence=presence,
        fast=fast,
        turns_fast=turns_fast,
        command=command if command >= 0 else None,
        function=function if function >= 0 else None,
        rom=rom,
        role=names.get(rom or "", ""),
        found=found,
        make_rows=Later(_rows, exchanges, judged, index),
        make_walk=Later(_walk, exchanges, judged, index),
        make_pad=Later(_pad, exchanges, index),
    )


_Head = tuple[bool, bool, bool, int, int]
_heads: Neighbours[_Head] = Neighbours()


def _head_rows(exchanges: OneWireExchanges, first: int, last: int) -> list[_Head]:
    """Presence, fast, fast later, and the two commands, as numbers of Python."""
    part = slice(first, last)
    columns = (
        exchanges.presence_ns[part] != ABSENT,
        exchanges.fast[part],
        exchanges.turns_fast[part],
        exchanges.command[part],
        exchanges.function[part],
    )
    return list(zip(*(column.tolist() for column in columns), strict=True))


def rom_of(exchanges: OneWireExchanges, judged: JudgedTransactions, index: int) -> str | None:
    """Code of the device that a transaction means, in kernel form.

    Args:
        exchanges: decoded, columns of n exchanges.
        judged: what the judge says of them, as columns.
        index: of the exchange, from 0.
    """
    return _roms.row(judged, index, partial(_rom_rows, exchanges, judged))


_roms: Neighbours[str | None] = Neighbours()


def _rom_rows(
    exchanges: OneWireExchanges, judged: JudgedTransactions, first: int, last: int
) -> list[str | None]:
    part = slice(first, last)
    own, device = exchanges.has_rom[part], judged.course.device[part]
    named = (own & judged.rom_holds[part]).tolist()
    resumed = (~own & (exchanges.command[part] == Rom.RESUME) & (device >= 0)).tolist()
    codes, rows = exchanges.rom[part].tolist(), zip(named, resumed, device.tolist(), strict=True)
    return [
        code_text(codes[at]) if holds else code_text(judged.course.codes[device]) if again else None
        for at, (holds, again, device) in enumerate(rows)
    ]


def _bits(exchanges: OneWireExchanges, index: int) -> np.ndarray:
    return exchanges.bit[exchanges.slots_of(index)]


def _pad(exchanges: OneWireExchanges, index: int) -> Scratchpad | None:
    """The scratchpad that a transaction read, if it is a thermometer's."""
    if exchanges.function[index] != Function.READ_SCRATCHPAD:
        return None
    family = int(exchanges.rom[index]) & 0xFF if exchanges.has_rom[index] else None
    if family is not None and not is_thermometer(family):
        return None
    begin = int(exchanges.function_at[index]) + 8
    bits = _bits(exchanges, index)[begin : begin + 72]
    return explain(np.packbits(bits[: bits.size // 8 * 8], bitorder="little").tobytes(), family)


def _walk(exchanges: OneWireExchanges, judged: JudgedTransactions, index: int) -> Walk | None:
    if int(exchanges.command[index]) not in SEARCHES:
        return None
    bits = _bits(exchanges, index)[8 : 8 + 3 * ROM_BITS].tolist()
    steps = tuple(
        Step(bits[at], bits[at + 1], bits[at + 2] if at + 2 < len(bits) else None)
        for at in range(0, len(bits) - 1, 3)
    )
    whole = bool(judged.rom_holds[index])
    found = judged.course.found.get(index, ())
    return Walk(steps, found, int(exchanges.rom[index]) if whole else None)


class _Reader:
    """Takes bytes from a transaction, one after the other."""

    def __init__(self, exchanges: OneWireExchanges, index: int) -> None:
        self._bits = _bits(exchanges, index)
        self._speaker = exchanges.speaker[exchanges.slots_of(index)]
        self.at = 0
        self.rows: list[ByteRow] = []

    @property
    def left(self) -> int:
        """Slots not taken yet."""
        return int(self._bits.size) - self.at

    def speaker(self) -> Speaker:
        """Who gives the next slot."""
        return Speaker(int(self._speaker[self.at]))

    def byte(self, part: int, label: str, meaning: str = "", wrong: bool = False) -> int | None:
        """Takes a byte; of fewer bits what is there, which is no byte."""
        count = min(8, self.left)
        if not count:
            return None
        bits = self._bits[self.at : self.at + count]
        value = int(np.packbits(bits, bitorder="little")[0])
        text = f"{value:02x}" if count == 8 else ""
        told = meaning if count == 8 else f"{count} of 8 bits"
        row = ByteRow(part, label, text, told, self.at, count, self.speaker(), wrong)
        self.rows.append(row)
        self.at += count
        return value if count == 8 else None

    def polled(self, function: int) -> None:
        """Takes all that is left as single bits; of many alike the first and the last."""
        if not self.left:
            return
        end = self.at + self.left
        bits = self._bits[self.at :].tolist()
        label, meaning = "polled", _polling(bits)
        if function == Function.POWER:
            label, meaning = "supply", "of its own" if bits[0] else "the line's power"
        starts = list(range(self.at, end, 8))
        if len(starts) > MOST_POLLED:
            starts = [*starts[: MOST_POLLED - 1], starts[-1]]
        for first in starts:
            count = min(8, end - first)
            self.at = first
            self.rows.append(ByteRow(1, label, "", meaning, first, count, self.speaker()))
            label = meaning = ""
        self.at = end


def _polling(bits: list[int]) -> str:
    busy = bits.index(1) if 1 in bits else len(bits)
    if not busy:
        return "done"
    return f"busy × {busy}, then done" if 1 in bits else f"busy × {busy}"


def _rows(
    exchanges: OneWireExchanges, judged: JudgedTransactions, index: int
) -> tuple[ByteRow, ...]:
    command = int(exchanges.command[index])
    reader = _Reader(exchanges, index)
    reader.byte(0, "ROM", rom_name(command) if command >= 0 else "")
    if command in (*MATCHES, Rom.READ):
        _rom_bytes(reader, exchanges, judged, index)
    elif command in SEARCHES:
        reader.at = min(8 + 3 * ROM_BITS, reader.at + reader.left)
    function = int(exchanges.function[index])
    if function < 0:
        _plain(reader, 0)
        return tuple(reader.rows)
    family = int(exchanges.rom[index]) & 0xFF if exchanges.has_rom[index] else None
    thermometer = family is None or is_thermometer(family)
    name = function_name(function) if thermometer else "function of this family"
    reader.byte(1, "function", name)
    pad = _pad(exchanges, index)
    if thermometer and function == Function.READ_SCRATCHPAD and pad is not None:
        wrong = len(pad.data) == 9 and crc8_of(pad.data) != 0
        for name, meaning in byte_words(pad):
            reader.byte(1, name, meaning, wrong and name == "CRC")
    elif thermometer and function == Function.WRITE_SCRATCHPAD:
        _written_rows(reader)
    elif thermometer and function in POLLED:
        reader.polled(function)
    _plain(reader, 1)
    return tuple(reader.rows)


def _rom_bytes(
    reader: _Reader, exchanges: OneWireExchanges, judged: JudgedTransactions, index: int
) -> None:
    whole = bool(exchanges.has_rom[index])
    family = code_bytes(int(exchanges.rom[index]))[0] if whole else None
    reader.byte(0, "family", kind_name(family) if family is not None else "")
    for number in range(6):
        reader.byte(0, f"serial {number + 1}")
    reader.byte(0, "CRC", "", whole and not judged.rom_holds[index])


def _written_rows(reader: _Reader) -> None:
    for name in ("TH", "TL"):
        reader.byte(1, name)
    if reader.left >= 8:
        first = reader.at
        config = reader.byte(1, "config")
        if config is not None:
            row = reader.rows[-1]
            reader.rows[-1] = ByteRow(
                1, "config", row.value, f"{9 + (config >> 5 & 3)} bit", first, 8, row.speaker
            )


def _plain(reader: _Reader, part: int) -> None:
    """Whatever is left, as bytes."""
    number = 1
    while reader.left and len(reader.rows) < 4 * ROM_BITS:
        reader.byte(part, f"byte {number}")
        number += 1
