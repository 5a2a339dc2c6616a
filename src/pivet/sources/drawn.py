"""Bytes that somebody else read, drawn as the edges that carry them.

The kernel's drivers give bytes, not edges.  Drawn with the sheets' typical pulses they go the way
of everything else (decoded, judged by their bytes, kept, shown); their pulses tell nothing, and
whoever draws says so.
"""

from functools import cache

import numpy as np

from pivet.decode.checks import crc8_of
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Int64Array

MATCH_ROM, READ_SCRATCHPAD = 0x55, 0xBE
ONEWIRE = "onewire"


@cache
def _typical(sheet: str) -> dict[str, float]:
    """Typical lengths of a sheet's windows, µs."""
    return {key: window.typ_us for key, window in find_sheet(sheet).windows.items()}


def _edges(lows: list[tuple[float, float]]) -> Int64Array:
    """Edges of lows and the highs after them, from 0, ns, int64 (2 n,)."""
    widths = np.array(lows).ravel() * 1000
    return np.concatenate(([0], np.cumsum(np.rint(widths).astype(np.int64))))[:-1]


def thermometer_edges(code: bytes, scratchpad: bytes) -> Int64Array:
    """A transaction that reads a scratchpad: reset, presence, *match ROM*, *read scratchpad*.

    Args:
        code: family and serial number, least significant byte first, without the CRC, 7 bytes.
        scratchpad: as it was read.
    """
    typical = _typical(ONEWIRE)
    one, zero, hold, slot = (typical[key] for key in ("one", "zero", "hold", "slot"))
    presence, wait = typical["presence"], typical["presence_wait"]
    lows = [(typical["reset"], wait), (presence, typical["phase"] - wait - presence)]
    written = bytes((MATCH_ROM, *code, crc8_of(code), READ_SCRATCHPAD))
    for data, low_of_zero in ((written, zero), (scratchpad, hold)):
        bits = [byte >> place & 1 for byte in data for place in range(8)]
        widths = [one if bit else low_of_zero for bit in bits]
        lows += [(width, max(slot - width, typical["recovery"])) for width in widths]
    return _edges(lows)


def humidity_edges(sheet: str, data: bytes) -> Int64Array:
    """A frame: ask, answer, bits, end; without bytes only an ask that nobody answered.

    Args:
        sheet: the sheet of the sensor.
        data: the data of the frame, with its sum.
    """
    typical = _typical(sheet)
    lows = [(typical["ask"], typical["release"])]
    if data:
        lows.append((typical["answer_low"], typical["answer_high"]))
        bits = [byte >> place & 1 for byte in data for place in range(7, -1, -1)]
        highs = (typical["zero_high"], typical["one_high"])
        lows += [(typical["bit_low"], highs[bit]) for bit in bits]
        lows.append((typical["end_low"], 1.0))
    return _edges(lows)
