"""Scratchpads read in transactions, all at once."""

import numpy as np
import numpy.typing as npt

from pivet.decode.checks import crc8
from pivet.decode.onewire import OneWireExchanges
from pivet.frozen import FrozenObject
from pivet.readings.thermometer import (
    HALF_DEGREES_FAMILY,
    Temperatures,
    looks_half_degrees,
    temperatures,
)
from pivet.sheets.onewire import SCRATCHPAD_BYTES, Function, is_thermometer
from pivet.signal.trace import Int64Array

ByteArray = npt.NDArray[np.uint8]
BITS = 8 * SCRATCHPAD_BYTES
THERMOMETERS = [family for family in range(256) if is_thermometer(family)]


class Scratchpads(FrozenObject):
    """Whole scratchpads of m transactions.

    Attributes:
        at: their transactions, int64 (m,).
        data: uint8 (9, m).
        holds: the CRC holds, bool (m,).
        zeros, ones: all bits are 0, are 1, bool (m,).
        temperatures: what they say.
        short_at: transactions whose scratchpad was read only in part, int64 (k,).
    """

    at: Int64Array
    data: ByteArray
    holds: npt.NDArray[np.bool_]
    zeros: npt.NDArray[np.bool_]
    ones: npt.NDArray[np.bool_]
    temperatures: Temperatures
    short_at: Int64Array


def payload_bytes(
    exchanges: OneWireExchanges, rows: Int64Array, first: Int64Array, count: int
) -> ByteArray:
    """How many bytes from slot ``first`` of some transactions on, uint8 (count, m).

    Args:
        exchanges: decoded, columns of n exchanges.
        rows: which transactions, int64 (m,).
        first: the slot at which the first byte begins, of each, int64 (m,).
        count: how many bytes.
    """
    index = (exchanges.first_slot[rows] + first)[:, None] + np.arange(8 * count)
    packed: ByteArray = np.packbits(exchanges.bit[index], axis=1, bitorder="little").T
    return packed


def read_pads(exchanges: OneWireExchanges) -> Scratchpads:
    """All scratchpads that thermometers were asked for.

    Args:
        exchanges: decoded, columns of n exchanges.
    """
    family = (exchanges.rom & np.uint64(0xFF)).astype(np.int64)
    asked = exchanges.function == Function.READ_SCRATCHPAD
    asked &= ~exchanges.has_rom | np.isin(family, THERMOMETERS)
    begin = exchanges.function_at + 8
    there = exchanges.slot_count - begin
    rows = np.flatnonzero(asked & (there >= BITS))
    data = payload_bytes(exchanges, rows, begin[rows], SCRATCHPAD_BYTES)
    half = np.where(
        exchanges.has_rom[rows], family[rows] == HALF_DEGREES_FAMILY, looks_half_degrees(data)
    )
    return Scratchpads(
        at=rows,
        data=data,
        holds=crc8(data) == 0,
        zeros=np.logical_not(data.any(axis=0)),
        ones=np.asarray((data == 0xFF).all(axis=0)),
        temperatures=temperatures(data, half, np.where(exchanges.has_rom[rows], family[rows], 0)),
        short_at=np.flatnonzero(asked & (there < BITS)),
    )


def rom_holds(exchanges: OneWireExchanges) -> npt.NDArray[np.bool_]:
    """Whether the CRC of each transaction's ROM code holds, bool (n,); False without one.

    Args:
        exchanges: decoded, columns of n exchanges.
    """
    data = exchanges.rom.astype("<u8").view(np.uint8).reshape(-1, 8).T
    holds: npt.NDArray[np.bool_] = (crc8(data) == 0) & exchanges.has_rom & (exchanges.rom != 0)
    return holds
