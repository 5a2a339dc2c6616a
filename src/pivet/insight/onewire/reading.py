"""What a 1-Wire host with other constants would have made of transactions.

The devices' pulses stay as they were; when the host looks, and how late the line rises, change.
"""

import numpy as np
import numpy.typing as npt

from pivet.decode.checks import crc8_of
from pivet.decode.interface import ABSENT
from pivet.decode.onewire import OneWireExchanges, Speaker
from pivet.insight.outcomes import UNDECIDED, Outcome, Outcomes
from pivet.insight.pulses import BoolArray, Int64Array
from pivet.insight.readers import Reader

USUAL_SAMPLE_US = 14.0
"""The standard has the host look within 15 µs of the fall of a slot."""

CHECKED_BITS = (72, 64)
"""Bits of what devices send with a CRC8 at the end: a scratchpad, a code."""


def sample_of(reader: Reader) -> float:
    """How long after the fall of a slot a host looks, µs.

    Args:
        reader: the host.
    """
    return USUAL_SAMPLE_US if reader.threshold_us is None else reader.threshold_us


def owners_of(exchanges: OneWireExchanges) -> Int64Array:
    """The transaction of each slot, int64 (s,).

    Args:
        exchanges: decoded, columns of n transactions.
    """
    return np.repeat(np.arange(len(exchanges)), exchanges.slot_count)


def read(exchanges: OneWireExchanges, at: Int64Array, reader: Reader) -> Outcomes:
    """What a host makes of some transactions.

    Args:
        exchanges: decoded, columns of n transactions.
        at: indices of some of them, rising, int64 (m,).
        reader: the host.
    """
    rise_ns = reader.rise_us * 1000
    seen = (exchanges.low_ns + rise_ns <= sample_of(reader) * 1000).astype(np.uint8)
    by_device = exchanges.speaker == Speaker.DEVICE
    bits = np.where(by_device, seen, exchanges.bit)
    owner = owners_of(exchanges)
    misread = bits != exchanges.bit
    crowded = _crowded(exchanges, reader)
    size = len(exchanges)
    outcome = np.full(size, Outcome.RIGHT, dtype=np.uint8)
    decided = np.full(size, UNDECIDED, dtype=np.int32)
    bad = np.flatnonzero(misread | crowded)
    if bad.size:
        rows, first = np.unique(owner[bad], return_index=True)
        outcome[rows] = Outcome.REFUSED
        decided[rows] = bad[first] - exchanges.first_slot[rows]
        only = np.unique(owner[misread & ~np.isin(owner, owner[crowded])])
        outcome[only[_believed(exchanges, only, bits, by_device)]] = Outcome.WRONG
    outcome[~_sees_presence(exchanges, reader)] = Outcome.TIMEOUT
    decided[outcome == Outcome.TIMEOUT] = UNDECIDED
    return Outcomes(outcome[at], decided[at], np.zeros((0, at.size), dtype=np.uint8))


def _sees_presence(exchanges: OneWireExchanges, reader: Reader) -> BoolArray:
    there: BoolArray = exchanges.wait_ns != ABSENT
    if reader.presence_us is not None:
        look_ns = reader.presence_us * 1000
        ends = exchanges.wait_ns + exchanges.presence_ns + reader.rise_us * 1000
        there &= (exchanges.wait_ns <= look_ns) & (look_ns < ends)
    return there


def _crowded(exchanges: OneWireExchanges, reader: Reader) -> BoolArray:
    """Slots whose line is not up long enough before the next one."""
    given = (reader.slot_us, reader.recovery_us)
    if given == (None, None) and not reader.rise_us:
        return np.zeros(exchanges.low_ns.size, dtype=bool)
    pitch = np.full(exchanges.low_ns.size, np.inf)
    if reader.slot_us is not None:
        pitch[:] = reader.slot_us * 1000
    else:
        pitch[:-1] = np.diff(exchanges.fall_ns)
        pitch[np.cumsum(exchanges.slot_count)[exchanges.slot_count > 0] - 1] = np.inf
    up_ns = (reader.recovery_us or 0.0) * 1000
    found: BoolArray = exchanges.low_ns + reader.rise_us * 1000 + up_ns > pitch
    return found


def _believed(
    exchanges: OneWireExchanges,
    rows: Int64Array,
    bits: npt.NDArray[np.uint8],
    by_device: BoolArray,
) -> BoolArray:
    """Misread transactions whose check holds all the same, or that have none, bool (k,)."""
    found = np.zeros(rows.size, dtype=bool)
    first = exchanges.first_slot
    for place, row in enumerate(rows.tolist()):
        if exchanges.steps[row] >= 0:
            continue  # a search goes another way, and finds a code whose CRC is wrong
        slots = slice(int(first[row]), int(first[row] + exchanges.slot_count[row]))
        own = bits[slots][by_device[slots]]
        if own.size in CHECKED_BITS:
            found[place] = crc8_of(np.packbits(own, bitorder="little").tobytes()) == 0
        else:
            found[place] = True
    return found
