"""What firmware makes of humidity frames: three kinds of readers, in arrays.

``width`` measures each high with a timer; ``sample`` looks once, some time after the rise; ``poll``
counts the turns of a loop.  A timer runs on while the processor is away, a delay and a loop do not.
"""

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import HumidityExchanges, layout
from pivet.insight.humidity.frames import (
    BIT_HIGH,
    BIT_LOW,
    EDGES,
    Frames,
    frames_in,
    lengths_of,
    whole_frames,
)
from pivet.insight.outcomes import UNDECIDED, Outcome, Outcomes, joined
from pivet.insight.pulses import Int64Array
from pivet.insight.readers import Reader
from pivet.insight.stalls import draw, own_time, seen_late, without_unseen

Bits = npt.NDArray[np.bool_]
FloatArray = npt.NDArray[np.float64]

WAITED = slice(0, layout.END_LOW)
"""Pulses that a reader waits for; the low at the end is none of them."""


def ns(us: float) -> float:
    """A constant in ns, without the dust of binary fractions.

    Args:
        us: µs.
    """
    return round(us * 1000, 6)


def read(exchanges: HumidityExchanges, at: Int64Array, reader: Reader) -> Outcomes:
    """What a firmware makes of some exchanges.

    One that has not all its bits ends in a timeout: the firmware waits for the rest.

    Args:
        exchanges: decoded, columns of n exchanges.
        at: which of them, rising, int64 (m,).
        reader: the firmware.
    """
    whole = np.isin(at, whole_frames(exchanges))
    found = Outcomes(
        np.full(at.size, Outcome.TIMEOUT, dtype=np.uint8),
        np.full(at.size, UNDECIDED, dtype=np.int32),
        np.zeros((layout.BYTES, at.size), dtype=np.uint8),
    )
    parts = list(_parts(exchanges, at[whole], reader))
    if parts:
        every = joined(parts)
        found.outcome[whole], found.decided[whole] = every.outcome, every.decided
        found.taken[:, whole] = every.taken
    return found


def _parts(exchanges: HumidityExchanges, at: Int64Array, reader: Reader) -> Iterator[Outcomes]:
    rng = np.random.default_rng(reader.seed)
    for frames in frames_in(exchanges, at):
        bits, lengths, gave_up = taken_bits(frames, reader, rng)
        yield _outcomes(frames, bits, lengths, gave_up)


def taken_bits(
    frames: Frames, reader: Reader, rng: np.random.Generator
) -> tuple[Bits, FloatArray, Bits]:
    """The bits as a firmware takes them.

    Args:
        frames: whole ones.
        reader: the firmware.
        rng: that draws stalls, and where its clock stands.

    Returns:
        bits (40, m), lengths of the pulses as it meets them (84, m), ns, and for which of these it
        gives up, bool (83, m).
    """
    edges = frames.edges_ns
    if reader.stall is not None:
        starts = draw(reader.stall, edges[0], edges[-1], rng)
        move = seen_late if reader.kind == "width" else own_time
        edges = move(edges, starts, reader.stall.length_ns)
    if reader.kind == "poll":
        edges = _turns(edges, reader, rng)
    elif reader.kind == "width" and reader.resolution_us:
        step = ns(reader.resolution_us)
        edges = np.floor((edges + rng.random(len(frames)) * step) / step) * step
    seen = without_unseen(edges)
    lengths = lengths_of(seen)
    lows, highs = lengths[BIT_LOW], lengths[BIT_HIGH]
    gave_up = ~np.isfinite(lengths[WAITED])
    if reader.kind == "poll":
        bits = highs > (lows if reader.number is None else reader.number)
        if reader.limit is not None:
            gave_up |= lengths[WAITED] >= reader.limit
        return bits, lengths, gave_up
    threshold = ns(threshold_of(reader))
    bits = highs > threshold
    if reader.timeout_us is not None:
        gave_up |= lengths[WAITED] > ns(reader.timeout_us)
    if reader.kind == "sample":
        gave_up[-1] = False  # nobody waits for the end of the last bit
        late = highs[:-1] + lengths[BIT_LOW.start + 2 : BIT_LOW.stop : 2] <= threshold
        rows = np.flatnonzero(late.any(axis=0) | ~np.isfinite(lengths).all(axis=0))
        rows = np.union1d(rows, np.flatnonzero(highs[-1] + lengths[-1] <= threshold))
        if rows.size:
            bits[:, rows], gave_up[:, rows] = _looked(seen[:, rows], threshold)
    return bits, lengths, gave_up


def _looked(edges: FloatArray, threshold: float) -> tuple[Bits, Bits]:
    """Bits of a firmware that looks so late that it passes rises over, or that missed some.

    Behind a frame the line stays high: that is one rise more.
    """
    size = edges.shape[1]
    every, gave_up = np.arange(size), np.zeros((WAITED.stop, size), dtype=bool)
    bits = np.zeros((layout.BITS, size), dtype=bool)
    padded = np.vstack([edges, np.full((2, size), np.inf)])
    rise = np.full(size, BIT_HIGH.start)
    for bit in range(layout.BITS):
        gave_up[layout.low_column(bit)] = ~np.isfinite(padded[rise, every])
        passed = (edges <= padded[rise, every] + threshold).sum(axis=0)
        bits[bit] = passed % 2 == 1
        rise = np.minimum(passed + bits[bit], EDGES)
    return bits, gave_up


USUAL_THRESHOLD_US = 50.0
USUAL_PERIOD_US = 1.0


def threshold_of(reader: Reader) -> float:
    """Its threshold, or the usual one, µs.

    Args:
        reader: that measures or looks once.
    """
    return USUAL_THRESHOLD_US if reader.threshold_us is None else reader.threshold_us


def _turns(edges: FloatArray, reader: Reader, rng: np.random.Generator) -> FloatArray:
    """In which turn of its loop a firmware sees each edge, (85, m)."""
    period = ns(USUAL_PERIOD_US if reader.period_us is None else reader.period_us)
    if reader.jitter_us:
        lengths = np.maximum(np.diff(edges, axis=0), 0.0)
        noise = rng.normal(0.0, 1.0, lengths.shape) * ns(reader.jitter_us)
        noise *= np.sqrt(lengths / period)
        edges = np.vstack([edges[:1], edges[1:] + np.cumsum(noise, axis=0)])
        edges = np.maximum.accumulate(edges, axis=0)
    found: FloatArray = np.ceil((edges - rng.random(edges.shape[1]) * period) / period)
    return found


def _outcomes(frames: Frames, bits: Bits, lengths: FloatArray, gave_up: Bits) -> Outcomes:
    taken = np.packbits(bits, axis=0)
    other = (taken != frames.sent).any(axis=0)
    holds = taken[:4].sum(axis=0, dtype=np.uint8) == taken[4]
    outcome = np.where(other, np.where(holds, Outcome.WRONG, Outcome.REFUSED), Outcome.RIGHT)
    ended = gave_up.any(axis=0)
    outcome[ended] = Outcome.TIMEOUT
    decided = np.full(len(frames), UNDECIDED, dtype=np.int32)
    rows = np.flatnonzero(other & ~ended)
    if rows.size:
        sent = np.unpackbits(frames.sent[:, rows], axis=0).astype(bool)
        decided[rows] = layout.FIRST_HIGH + 2 * (bits[:, rows] != sent).argmax(axis=0)
    rows = np.flatnonzero(ended)
    if rows.size:
        decided[rows] = gave_up[:, rows].argmax(axis=0)
    return Outcomes(outcome.astype(np.uint8), decided, taken)
