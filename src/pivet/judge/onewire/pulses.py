"""The pulses of one 1-Wire transaction."""

from functools import cache

import numpy as np

from pivet.decode.interface import ABSENT
from pivet.decode.onewire import DecodeMark, OneWireExchanges, Speaker
from pivet.judge.onewire.judged import JudgedTransactions
from pivet.judge.pulses import Pulse, Unjudged, judged_pulses
from pivet.sheets.model import Window
from pivet.sheets.onewire import ROM_BITS, SEARCHES
from pivet.signal.uncertainty import at

RESET, WAIT, PRESENCE = -3, -2, -1
"""Columns of what stands before the slots; slot k has 2 k (low) and 2 k + 1 (high)."""

MOST_SHOWN = 640
"""Of more slots than this only the first and the last are listed: firmware that polls reads
thousands of bits alike.  Their windows count all of them."""


def low_column(slot: int) -> int:
    """Column of a slot's low.

    Args:
        slot: its number in the transaction, from 0.
    """
    return 2 * slot


def shown_slots(count: int) -> list[int]:
    """The slots of a transaction of which the pulses are listed.

    Args:
        count: how many.
    """
    if count <= MOST_SHOWN:
        return list(range(count))
    half = MOST_SHOWN // 2
    return [*range(half), *range(count - half, count)]


def pulses_of(
    exchanges: OneWireExchanges, judged: JudgedTransactions, index: int
) -> tuple[Pulse, ...]:
    """The pulses of transaction ``index``, in the order on the wire.

    Args:
        exchanges: decoded, columns of n exchanges.
        judged: what the judge says of them, as columns.
        index: of the exchange, from 0.
    """
    pulses = _head(exchanges, judged, index)
    pulses.extend(_slots(exchanges, judged, index))
    return judged_pulses(pulses, at(judged.resolution_ns, index))


def _head(exchanges: OneWireExchanges, judged: JudgedTransactions, index: int) -> list[Unjudged]:
    windows, fast = judged.sheet.windows, "fast_" if exchanges.fast[index] else ""
    start, reset = int(exchanges.start_ns[index]), int(exchanges.reset_ns[index])
    release = start + reset
    clipped = bool(exchanges.marks[index] & DecodeMark.RESET_CLIPPED)
    rows = [(RESET, "reset", start, reset, False)]
    if exchanges.presence_ns[index] != ABSENT:
        wait = int(exchanges.wait_ns[index])
        rows.append((WAIT, "presence_wait", release, wait, True))
        presence = int(exchanges.presence_ns[index])
        rows.append((PRESENCE, "presence", release + wait, presence, False))
    found: list[Unjudged] = []
    for column, key, at_ns, width, high in rows:
        window = windows[fast + key]
        bound = clipped and column == RESET
        found.append((column, window, high, window.label, at_ns, width, None, bound, 0))
    return found


def _slots(exchanges: OneWireExchanges, judged: JudgedTransactions, index: int) -> list[Unjudged]:
    part = exchanges.slots_of(index)
    count = part.stop - part.start
    falls, lows = exchanges.fall_ns[part].tolist(), exchanges.low_ns[part].tolist()
    bits, speakers = exchanges.bit[part].tolist(), exchanges.speaker[part].tolist()
    fast = np.full(count, bool(exchanges.fast[index]))
    if exchanges.turns_fast[index]:
        fast[8:] = True
    quick = fast.tolist()
    windows = judged.sheet.windows
    walks = int(exchanges.command[index]) in SEARCHES
    pulses: list[Unjudged] = []
    for slot in shown_slots(count):
        window = _window(windows, quick[slot], bits[slot], speakers[slot])
        place = place_of(slot, walks)
        fall, low = falls[slot], lows[slot]
        pulses.append((2 * slot, window, False, place, fall, low, slot, False, 0))
        if slot + 1 < count:
            recovery = windows["fast_recovery" if quick[slot] else "recovery"]
            rise = fall + low
            high = falls[slot + 1] - rise
            pulses.append((2 * slot + 1, recovery, True, place, rise, high, slot, False, 0))
    return pulses


def _window(windows: dict[str, Window], fast: bool, bit: int, speaker: int) -> Window:
    key = "one" if bit else "hold" if speaker == Speaker.DEVICE else "zero"
    return windows["fast_" + key if fast else key]


@cache
def place_of(slot: int, walks: bool) -> str:
    """Where a slot stands, for people; everything is counted from 1.

    Args:
        slot: the slot of the transaction, from 0.
        walks: it is a search.
    """
    if walks and 8 <= slot < 8 + 3 * ROM_BITS:
        step, part = divmod(slot - 8, 3)
        return f"search bit {step + 1}, {('bit', 'complement', 'direction')[part]}"
    if walks and slot >= 8:
        slot -= 3 * ROM_BITS
    return f"byte {slot // 8 + 1}, bit {slot % 8 + 1}"
