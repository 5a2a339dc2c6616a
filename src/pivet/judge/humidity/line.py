"""What is wrong with the line rather than with one pulse of it: causes of many symptoms."""

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import HumidityExchanges, layout
from pivet.decode.interface import ABSENT
from pivet.judge.humidity.classes import KEYS, PulseClasses
from pivet.judge.humidity.notices import Notice
from pivet.judge.notices import Flags, noted
from pivet.judge.verdict import Verdict
from pivet.sheets.model import Sheet
from pivet.signal.trace import BoolArray
from pivet.signal.uncertainty import Uncertainty

BOUNCES = 0.25
LEAST_BOUNCES = 8
"""Spikes at this share of an exchange's edges, and so many, are reflections."""

INTERRUPTED_NS = 120 * layout.US
"""An ask so soon after the last whole pulse of an answer that has not ended cuts into it."""

MERGED = 1.5
SCATTER_NS = 9 * layout.US
SHORT_LOW_NS, LONG_LOW_NS = 43 * layout.US, 57 * layout.US
"""Pulses of one kind that differ by more than this, and where pulses are too many or too few, bit
lows on either side of these: a sensor times its own to 2 or 3 µs."""

STEADY_BITS, STEADY_NS = 3, 8 * layout.US
"""Before two sensors' frames differ, so many bits are alike to so much."""

SHORTEST_LOW_NS = 30 * layout.US
FEW_MERGED, BITS_APART = 3, 12
"""Lows this much longer than a bit's, so many and so far from each other: another sensor's lie over
the highs from where they differ up to the end; a burst of noise is shorter."""


def line_notices(
    exchanges: HumidityExchanges,
    classes: PulseClasses,
    windows: npt.NDArray[np.uint8],
    sheet: Sheet,
    so_far: Flags,
    resolution_ns: Uncertainty,
) -> Flags:
    """Notices on the line, int64 (n,).

    Args:
        exchanges: decoded, columns of n exchanges.
        classes: the pulses by window.
        windows: the windows of the sheet, in the order of the classes.
        sheet: the timing sheet.
        so_far: notices that are known already, int64 (n,).
        resolution_ns: uncertainty of every width, ns.
    """
    bounced = _bounced(exchanges)
    wrong = np.int64(Notice.SUM_WRONG | Notice.CUT_SHORT | Notice.EXTRA_PULSES)
    odd = ((so_far & wrong) != 0) & ((so_far & np.int64(Notice.SLOW_RISE)) == 0) & ~bounced
    return noted(
        (bounced, Notice.REFLECTIONS),
        (_interrupted(exchanges), Notice.INTERRUPTED),
        (odd & _merged(exchanges, odd), Notice.TWO_ANSWER),
        (_scattered(exchanges, classes, so_far, resolution_ns), Notice.SCATTER),
        (_as_copies(classes, windows, sheet), Notice.COPY_HABITS),
    )


def _bounced(exchanges: HumidityExchanges) -> BoolArray:
    starts = exchanges.spike_start_ns
    if not starts.size:
        return np.zeros(len(exchanges), dtype=bool)
    first, last = np.searchsorted(starts, (exchanges.start_ns, exchanges.end_ns))
    found: BoolArray = last - first >= np.maximum(BOUNCES * exchanges.pulse_count, LEAST_BOUNCES)
    return found


def _interrupted(exchanges: HumidityExchanges) -> BoolArray:
    """Answers that have begun, are not whole, and after which an ask follows at once."""
    found = np.zeros(len(exchanges), dtype=bool)
    part = (exchanges.bit_count > 0) & (exchanges.pulse_count < layout.PULSES)
    soon = exchanges.start_ns[1:] - exchanges.end_ns[:-1] <= INTERRUPTED_NS
    found[:-1] = part[:-1] & soon
    return found


def _scattered(
    exchanges: HumidityExchanges,
    classes: PulseClasses,
    so_far: Flags,
    resolution_ns: Uncertainty,
) -> BoolArray:
    """Frames with all their pulses, of which lows and highs of one kind differ widely."""
    spread = classes.most_ns - classes.least_ns
    wide = [spread[KEYS.index(key)] > SCATTER_NS for key in ("bit_low", "zero_high", "one_high")]
    low = KEYS.index("bit_low")
    both = (classes.least_ns[low] < SHORT_LOW_NS) & (classes.most_ns[low] > LONG_LOW_NS)
    whole = exchanges.pulse_count == layout.PULSES
    many = exchanges.bit_count >= layout.BITS // 4
    found = wide[0] & (wide[1] | wide[2]) & (whole | (many & both))
    found &= np.asarray(4 * resolution_ns <= SCATTER_NS)
    return np.asarray(found & ((so_far & np.int64(Notice.SLOW_RISE)) == 0))


def _merged(exchanges: HumidityExchanges, odd: BoolArray) -> BoolArray:
    """Whether an answer begins as a sensor's does, and several of its lows run together."""
    found = np.zeros(len(exchanges), dtype=bool)
    rows = np.flatnonzero(odd)
    if not rows.size:
        return found
    some = exchanges.pick(rows)
    lows = np.where(some.lows_ns == ABSENT, 0, some.lows_ns)
    answered = (some.widths_ns[layout.ANSWER_LOW] >= layout.ANSWER_LOW_NS[0]) & (
        some.widths_ns[layout.ANSWER_LOW] <= layout.ANSWER_LOW_NS[1]
    )
    falling = -np.sort(-lows, axis=0)
    real = np.count_nonzero(lows > SHORTEST_LOW_NS, axis=0)
    usual = np.take_along_axis(falling, np.maximum(real - 1, 0)[None] // 2, axis=0)[0]
    long = (lows > MERGED * usual) & (lows < layout.ASK_FLOOR_NS)
    first, last = long.argmax(axis=0), layout.BITS - 1 - long[::-1].argmax(axis=0)
    far = last - first >= BITS_APART
    steady = first >= STEADY_BITS
    for part in (some.lows_ns, some.highs_ns):
        steady &= np.ptp(part[:STEADY_BITS], axis=0) <= STEADY_NS
    found[rows] = steady & answered & far & (long.sum(axis=0) >= FEW_MERGED)
    return found


def _as_copies(classes: PulseClasses, windows: npt.NDArray[np.uint8], sheet: Sheet) -> BoolArray:
    """Exchanges of which pulses leave the maker's windows, but none what is common in copies."""
    found = np.zeros(windows.shape[1], dtype=bool)
    for row, key in enumerate(KEYS):
        window = sheet.windows[key]
        near = windows[row] == Verdict.NEAR
        if window.common_us is None or window.max_us is None or not near.any():
            continue
        beyond = classes.most_ns[row] > window.max_us * 1000
        beyond |= (classes.least_ns[row] < window.min_us * 1000) & (classes.least_ns[row] != ABSENT)
        low, high = window.common_us
        common = (classes.least_ns[row] >= low * 1000) & (classes.most_ns[row] <= high * 1000)
        found |= beyond & common & near
    return np.asarray(found & ~(windows == Verdict.UNSOUND).any(axis=0))
