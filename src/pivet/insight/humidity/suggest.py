"""Which constants a reader of humidity frames should have."""

from collections.abc import Sequence

import numpy as np

from pivet.decode.humidity import HumidityExchanges, layout
from pivet.frozen import replace
from pivet.insight.humidity.frames import (
    BIT_HIGH,
    BIT_LOW,
    Frames,
    frames_in,
    lengths_of,
)
from pivet.insight.humidity.reading import USUAL_PERIOD_US, WAITED, taken_bits
from pivet.insight.pulses import Int64Array
from pivet.insight.readers import Reader
from pivet.insight.suggestion import Constant, Found, Suggestion
from pivet.judge.notices import spiked
from pivet.progress import Progress, silent

ROOM = 1.25
"""A timeout lies so far beyond the longest that was seen."""

TRIED_PERIODS_US = np.r_[np.arange(0.25, 10, 0.25), np.arange(10, 40, 0.5)]
PHASES = 4
LOOKED_AT = 200

Chosen = Sequence[tuple[HumidityExchanges, Int64Array]]


def suggest(chosen: Chosen, reader: Reader, progress: Progress = silent) -> Suggestion:
    """The constants with which a kind of reader reads all of some exchanges, of several files.

    Args:
        chosen: exchanges and which of them, rising.
        reader: the kind, and constants that stay as they are.
        progress: called now and then.
    """
    parts, disturbed = [], 0
    for exchanges, at in chosen:
        whole = at[exchanges.bit_count[at] == layout.BITS]
        clean = whole[~spiked(exchanges)[whole]]
        parts.append((exchanges, clean))
        disturbed += whole.size - clean.size
    number = sum(at.size for _, at in parts)
    if not number:
        return Suggestion(0, (), why_not="no exchange has all its bits")
    found = _of_clean(parts, reader, number, progress)
    if not disturbed:
        return found
    have = "has" if disturbed == 1 else "have"
    says = f"{disturbed} more {have} spikes, which no constant helps against"
    return replace(found, beside=says)


def _of_clean(parts: Chosen, reader: Reader, number: int, progress: Progress) -> Suggestion:
    """The constants for frames without spikes."""
    sides = []
    for part in parts:
        for frames in frames_in(*part):
            progress(0.0)
            sides.append(_sides(frames))
    zero, one, longest, apart = (
        max(side[0] for side in sides),
        min(side[1] for side in sides),
        max(side[2] for side in sides),
        min(side[3] for side in sides),
    )
    found = Found(zero, min(one, apart) if reader.kind == "sample" else one)
    if reader.kind == "poll":
        return _poll(parts, reader, number, found, longest, progress)
    return _threshold(reader, number, found, longest, parts)


def _sides(frames: Frames) -> tuple[float, float, float, float]:
    """Longest 0, shortest 1, longest wait, and least from rise to rise, µs."""
    lengths = lengths_of(frames.edges_ns) / 1000
    highs = lengths[BIT_HIGH]
    ones = np.unpackbits(frames.sent, axis=0).astype(bool)
    zero = float(np.where(ones, -np.inf, highs).max())
    one = float(np.where(ones, highs, np.inf).min())
    apart = highs[:-1] + lengths[BIT_LOW.start + 2 : BIT_LOW.stop : 2]
    return zero, one, float(lengths[WAITED].max()), float(apart.min())


def _threshold(
    reader: Reader, number: int, found: Found, longest: float, parts: Chosen
) -> Suggestion:
    step = reader.resolution_us if reader.kind == "width" else 0.0
    if step:
        found = Found(
            float(np.ceil(found.low_us / step)) * step, float(np.floor(found.high_us / step)) * step
        )
    label = "threshold" if reader.kind == "width" else "look after the rise"
    gives_up = Constant(
        "timeout_us",
        "give up after",
        float(np.ceil(longest * ROOM / 5) * 5),
        f"the longest wait lasts {longest:.1f} µs",
    )
    if not found.holds:
        if not (np.isfinite(found.low_us) and np.isfinite(found.high_us)):
            missing = "0" if not np.isfinite(found.low_us) else "1"
            return Suggestion(number, (), why_not=f"no exchange holds a {missing}")
        best = _best(parts, reader)
        why = (
            f"no value reads all: a 0 lasts up to {found.low_us:.1f} µs, a 1 from "
            f"{found.high_us:.1f} µs on; this one reads most"
        )
        return Suggestion(number, (Constant("threshold_us", label, best, why), gives_up))
    middle = found.middle_us
    why = (
        f"a 0 lasts up to {found.low_us:.1f} µs, a 1 from {found.high_us:.1f} µs on: "
        f"{middle - found.low_us:.1f} µs of room on either side"
    )
    constants = (Constant("threshold_us", label, middle, why), gives_up)
    return Suggestion(number, constants, found.low_us, found.high_us)


def _best(parts: Chosen, reader: Reader) -> float:
    """The threshold that reads most, where none reads all, µs."""
    lows, highs = [], []
    for part in parts:
        for frames in frames_in(*part):
            length = lengths_of(frames.edges_ns)[BIT_HIGH] / 1000
            ones = np.unpackbits(frames.sent, axis=0).astype(bool)
            lows.append(np.where(ones, 0.0, length).max(axis=0))
            highs.append(np.where(ones, length, np.inf).min(axis=0))
    low, high = np.concatenate(lows), np.concatenate(highs)
    good = low < high
    low, high = np.sort(low[good]), np.sort(high[good])
    edges = np.unique(np.concatenate((low, high[np.isfinite(high)])))
    right = np.searchsorted(low, edges, side="right") - np.searchsorted(high, edges, side="right")
    at = np.flatnonzero(right == right.max())
    widths = [edges[min(one + 1, edges.size - 1)] - edges[one] for one in at.tolist()]
    widest = int(at[int(np.argmax(widths))])
    return float(edges[widest] + edges[min(widest + 1, edges.size - 1)]) / 2


def _poll(
    parts: Chosen, reader: Reader, number: int, found: Found, longest: float, progress: Progress
) -> Suggestion:
    period = USUAL_PERIOD_US if reader.period_us is None else reader.period_us
    limit = Constant(
        "limit",
        "give up after turns",
        float(np.ceil(longest * ROOM / period)),
        f"the longest wait lasts {longest:.1f} µs, {longest / period:.0f} turns",
    )
    if reader.number is not None or reader.threshold_us is not None:
        if not found.holds:
            return Suggestion(number, (), why_not="no number of turns tells 0 from 1 in all")
        turns_0, turns_1 = found.low_us / period, found.high_us / period
        why = f"a 0 takes up to {turns_0:.1f} turns, a 1 from {turns_1:.1f} on"
        turns = float(np.floor(found.middle_us / period))
        constants = (Constant("number", "turns that make a 1", turns, why), limit)
        return Suggestion(number, constants, found.low_us, found.high_us)
    most = _longest_period(parts, reader, progress)
    if most <= 0:
        return Suggestion(number, (), why_not="a high is on the wrong side of the low before it")
    why = f"with turns of up to {most:g} µs every exchange is read right"
    return Suggestion(
        number, (Constant("period_us", "turn of the loop", most / 2, why), limit), 0.0, most
    )


def _longest_period(parts: Chosen, reader: Reader, progress: Progress) -> float:
    """Up to which period every exchange is read right, from wherever the loop begins, µs.

    Looked for in some of the exchanges, the tightest among them, then held against all.
    """
    few = [(exchanges, _some(exchanges, at, progress)) for exchanges, at in parts]
    good = 0
    while good < TRIED_PERIODS_US.size and _reads_all(few, reader, good, progress):
        good += 1
    while good and not _reads_all(parts, reader, good - 1, progress):
        good -= 1
    return float(TRIED_PERIODS_US[good - 1]) if good else 0.0


def _some(exchanges: HumidityExchanges, at: Int64Array, progress: Progress) -> Int64Array:
    """Some exchanges from all over, and those in which a high is nearest to the low before it.

    What a period that is a little too long misreads is among these.
    """
    if at.size <= LOOKED_AT:
        return at
    room = []
    for frames in frames_in(exchanges, at):
        progress(0.0)
        lengths = lengths_of(frames.edges_ns)
        room.append(np.abs(lengths[BIT_HIGH] - lengths[BIT_LOW]).min(axis=0))
    tightest = np.argsort(np.concatenate(room), kind="stable")[: LOOKED_AT // 4]
    return np.union1d(at[:: at.size // LOOKED_AT], at[tightest])


def _reads_all(parts: Chosen, reader: Reader, at: int, progress: Progress) -> bool:
    period_us = float(TRIED_PERIODS_US[at])
    tried = reader.with_(period_us=period_us, limit=None, timeout_us=None, stall=None)
    for phase in range(PHASES):
        rng = np.random.default_rng(phase)
        for part in parts:
            for frames in frames_in(*part):
                progress(at / TRIED_PERIODS_US.size)
                bits, gave_up = taken_bits(frames, tried, rng)
                if gave_up.any() or (np.packbits(bits, axis=0) != frames.sent).any():
                    return False
    return True
