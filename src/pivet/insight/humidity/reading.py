"""What firmware makes of humidity frames: three kinds of readers, in arrays.

``width`` measures each high with a timer; ``sample`` looks once, some time after the rise; ``poll``
counts the turns of a loop.  A timer runs on while the processor is away, a delay and a loop do not.
"""

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import HumidityExchanges, layout
from pivet.insight.humidity.frames import (
    AT_ONCE,
    BIT_HIGH,
    BIT_LOW,
    EDGES,
    Frames,
    frames_in,
    lengths_of,
    of_rows,
    widths_in,
)
from pivet.insight.humidity.looks import looks_of, own_turns
from pivet.insight.humidity.ticks import drawn, edges_of, unit_of
from pivet.insight.outcomes import UNDECIDED, Outcome, Outcomes, joined
from pivet.insight.pulses import Int64Array
from pivet.insight.readers import Reader
from pivet.insight.stalls import draw, draw_numbers, own_time, seen_late, without_unseen
from pivet.judge.notices import spiked

IN_CACHE = 1 << 10
"""How many frames at once stay in the processor's cache."""

AWAY, REST = 1, 2
"""Beside the seed: what is drawn for all exchanges at once, and for those with stalls or spikes."""

Bits = npt.NDArray[np.bool_]
FloatArray = npt.NDArray[np.float64]
Floats = npt.NDArray[np.floating]

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
        at: indices of some of them, rising, int64 (m,).
        reader: the firmware.
    """
    found = Outcomes(
        np.full(at.size, Outcome.TIMEOUT, dtype=np.uint8),
        np.full(at.size, UNDECIDED, dtype=np.int32),
        np.zeros((layout.BYTES, at.size), dtype=np.uint8),
    )
    whole = exchanges.bit_count[at] == layout.BITS
    away = _stalls_in(exchanges, at, reader)
    calm = whole if reader.kind == "poll" else whole & ~spiked(exchanges)[at]
    rest = whole & (~calm | (away > 0))
    if 2 * np.count_nonzero(away) > away.size:
        # Else it is quicker to read all of them so, and those again, than to pick them out.
        calm &= ~rest
    for chosen, parts in (
        (calm, _calm_parts(exchanges, at[calm], reader)),
        (rest, _parts(exchanges, at[rest], reader, away[rest])),
    ):
        rows = list(parts)
        if rows:
            every = joined(rows)
            found.outcome[chosen], found.decided[chosen] = every.outcome, every.decided
            found.taken[:, chosen] = every.taken
    return found


def _stalls_in(exchanges: HumidityExchanges, at: Int64Array, reader: Reader) -> Int64Array:
    """How often the processor is away in each exchange: of most, nothing else must be drawn."""
    if reader.stall is None:
        return np.zeros(at.size, dtype=np.int64)
    spans = (exchanges.end_ns - exchanges.body_ns)[at].astype(np.float64)
    return draw_numbers(reader.stall, spans, np.random.default_rng([reader.seed, AWAY]))


def _calm_parts(exchanges: HumidityExchanges, at: Int64Array, reader: Reader) -> Iterator[Outcomes]:
    """Outcomes of exchanges without stalls, and for a timer or a delay without spikes."""
    if reader.kind == "poll":
        undisturbed = reader.with_(stall=None)
        return _parts(exchanges, at, undisturbed, np.zeros(at.size, dtype=np.int64))
    by_width = _ticked_parts if reader.resolution_us else _plain_parts
    return by_width(exchanges, at, reader)


def _ticked_parts(
    exchanges: HumidityExchanges, at: Int64Array, reader: Reader
) -> Iterator[Outcomes]:
    """Outcomes by the widths in ticks of a timer, which stands anywhere in a tick at first."""
    rng = np.random.default_rng(reader.seed)
    step_ns, threshold = ns(reader.resolution_us), ns(threshold_of(reader))
    unit = unit_of(step_ns)
    step = round(step_ns * unit)
    for first in range(0, at.size, IN_CACHE):
        rows = at[first : first + IN_CACHE]
        seen = edges_of(widths_in(exchanges, rows), unit, step_ns)
        seen += drawn(rng.random(rows.size), step, seen)
        seen //= step
        ticks = seen[1:] - seen[:-1]
        bits = ticks[BIT_HIGH] > int(threshold // step_ns)
        gave_up = np.zeros((WAITED.stop, rows.size), dtype=bool)
        if reader.timeout_us is not None:
            np.greater(ticks[WAITED], int(ns(reader.timeout_us) // step_ns), out=gave_up)
        merged = np.flatnonzero(ticks.min(axis=0) == 0)
        if merged.size:
            edges = without_unseen(seen[:, merged].astype(np.float64) * step_ns)
            bits[:, merged], gave_up[:, merged] = _timed(edges, reader)
        yield _outcomes(of_rows(exchanges.packed, rows), bits, gave_up)


def _plain_parts(
    exchanges: HumidityExchanges, at: Int64Array, reader: Reader
) -> Iterator[Outcomes]:
    """Outcomes by the widths alone."""
    threshold = ns(threshold_of(reader))
    for first in range(0, at.size, AT_ONCE):
        rows = at[first : first + AT_ONCE]
        lengths = of_rows(exchanges.widths_ns, rows)
        bits = lengths[BIT_HIGH] > threshold
        gave_up = np.zeros((WAITED.stop, rows.size), dtype=bool)
        if reader.timeout_us is not None:
            waited = WAITED if reader.kind == "width" else slice(0, WAITED.stop - 1)
            gave_up[waited] = lengths[waited] > ns(reader.timeout_us)
        if reader.kind == "sample":
            _look_late(exchanges, rows, lengths, threshold, bits, gave_up)
        yield _outcomes(of_rows(exchanges.packed, rows), bits, gave_up)


def _look_late(
    exchanges: HumidityExchanges,
    rows: Int64Array,
    lengths: npt.NDArray[np.int32],
    threshold: float,
    bits: Bits,
    gave_up: Bits,
) -> None:
    """Bits of frames in which the firmware looks only after the next rise."""
    apart = lengths[BIT_HIGH] + lengths[BIT_LOW.start + 2 : BIT_LOW.stop + 2 : 2]
    late = np.flatnonzero((apart <= threshold).any(axis=0))
    if late.size:
        (frames,) = frames_in(exchanges, rows[late])
        bits[:, late], gave_up[:, late] = _looked(frames.edges_ns, threshold)


def _parts(
    exchanges: HumidityExchanges, at: Int64Array, reader: Reader, away: Int64Array
) -> Iterator[Outcomes]:
    rng, done = np.random.default_rng([reader.seed, REST]), 0
    for frames in frames_in(exchanges, at):
        own = away[done : done + len(frames)]
        yield _outcomes(frames.sent, *taken_bits(frames, reader, rng, own))
        done += len(frames)


def taken_bits(
    frames: Frames, reader: Reader, rng: np.random.Generator, away: Int64Array | None = None
) -> tuple[Bits, Bits]:
    """The bits as a firmware takes them.

    Args:
        frames: whole ones.
        reader: the firmware.
        rng: that draws stalls, and where its clock stands.
        away: how often the processor is away in each; None draws that, too.

    Returns:
        bits (40, m), and at which pulses it gives up, bool (83, m).
    """
    edges = frames.edges_ns
    if reader.stall is not None:
        starts = draw(reader.stall, edges[0], edges[-1], rng, away)
        move = seen_late if reader.kind == "width" else own_time
        edges = move(edges, starts, reader.stall.length_ns)
    if reader.kind == "poll":
        return _polled(without_unseen(edges), reader, rng)
    if reader.kind == "width" and reader.resolution_us:
        step = ns(reader.resolution_us)
        edges = np.floor((edges + rng.random(len(frames)) * step) / step) * step
    return _timed(without_unseen(edges), reader)


def _timed(seen: FloatArray, reader: Reader) -> tuple[Bits, Bits]:
    """Bits of a firmware that measures or looks once, by the edges that it tells apart."""
    lengths = lengths_of(seen)
    highs = lengths[BIT_HIGH]
    gave_up = ~np.isfinite(lengths[WAITED])
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
    return bits, gave_up


def _polled(edges: FloatArray, reader: Reader, rng: np.random.Generator) -> tuple[Bits, Bits]:
    """Bits of a firmware that counts the turns of its loop."""
    period = ns(USUAL_PERIOD_US if reader.period_us is None else reader.period_us)
    phase, noise = rng.random((edges.shape[1],)), None
    if reader.jitter_us:
        noise = rng.normal(0, 1, (WAITED.stop, edges.shape[1])) * ns(reader.jitter_us)
    turns, gave_up = turns_of(edges[: WAITED.stop + 1], period, ns(reader.work_us), phase, noise)
    lows, highs = turns[BIT_LOW], turns[BIT_HIGH]
    if reader.limit is not None:
        gave_up |= turns >= reader.limit
    if reader.timeout_us is not None:
        gave_up |= turns * period > ns(reader.timeout_us)
    number = number_of(reader)
    return highs > (lows if number is None else number), gave_up


def number_of(reader: Reader) -> float | None:
    """How many turns of a loop a high must outlast to be a 1; None for those of the low before.

    Args:
        reader: a loop.
    """
    if reader.number is not None or reader.threshold_us is None:
        return reader.number
    period = USUAL_PERIOD_US if reader.period_us is None else reader.period_us
    return reader.threshold_us / period


def turns_of(
    edges: FloatArray, period: float, work: float, phase: FloatArray, noise: FloatArray | None
) -> tuple[FloatArray, Bits]:
    """How many turns of a loop each pulse takes, and which pulses the loop cannot tell.

    After each bit the firmware puts it away before it looks again.

    Args:
        edges: (e, m), ns; infinite for those that never come.
        period: the period of the loop, ns.
        work: how long a bit is put away, ns.
        phase: where in a turn the loop is at the first edge, (m,), 0 to 1.
        noise: by how much a turn is longer, (e - 1, m), ns; None for not at all.

    Returns:
        turns and bool, both (e - 1, m).
    """
    if noise is not None:
        return _one_by_one(edges, period, work, phase, noise)
    at, until = looks_of(own_turns(edges, period, work) - phase, work / period)
    with np.errstate(invalid="ignore"):  # what never comes
        turns = at[1:] - at[:-1]
    lost = np.zeros(turns.shape, dtype=bool)
    np.greater_equal(at[1:-1], until[2:], out=lost[:-1])
    never = ~np.isfinite(edges[-1])
    if never.any():
        gone = ~np.isfinite(edges[1:])
        turns[gone], lost[gone] = np.inf, True
    return turns, lost


def _one_by_one(
    edges: FloatArray, period: float, work: float, phase: FloatArray, noise: FloatArray
) -> tuple[FloatArray, Bits]:
    """The same pulse by pulse: what each turn took moves all looks after it."""
    look = edges[0] + phase * period
    turns = np.empty((edges.shape[0] - 1, look.size))
    lost = np.zeros(turns.shape, dtype=bool)
    for column, number in enumerate(turns):
        np.subtract(edges[column + 1], look, out=number)
        number /= period
        np.maximum(np.ceil(number, out=number), 0, out=number)
        never = ~np.isfinite(number)
        number[never] = 0
        look = look + number * period + noise[column] * np.sqrt(number)
        if column + 2 < edges.shape[0]:
            np.greater_equal(look, edges[column + 2], out=lost[column])
        number[never] = np.inf
        lost[column] |= never
        if work and column >= layout.FIRST_HIGH and column % 2 == 0:
            look += work
    return turns, lost


def _looked(edges: FloatArray, threshold: float) -> tuple[Bits, Bits]:
    """Bits of a firmware that looks so late that it passes rises over, or that missed some.

    After a frame the line stays high: that is one rise more.
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


def _outcomes(sent: npt.NDArray[np.uint8], bits: Bits, gave_up: Bits) -> Outcomes:
    taken = np.packbits(bits, axis=0)
    other = (taken != sent).any(axis=0)
    holds = taken[:4].sum(axis=0, dtype=np.uint8) == taken[4]
    outcome = np.where(other, np.where(holds, Outcome.WRONG, Outcome.REFUSED), Outcome.RIGHT)
    ended = gave_up.any(axis=0)
    outcome[ended] = Outcome.TIMEOUT
    decided = np.full(other.size, UNDECIDED, dtype=np.int32)
    rows = np.flatnonzero(other & ~ended)
    if rows.size:
        meant = np.unpackbits(sent[:, rows], axis=0).astype(bool)
        decided[rows] = layout.FIRST_HIGH + 2 * (bits[:, rows] != meant).argmax(axis=0)
    rows = np.flatnonzero(ended)
    if rows.size:
        decided[rows] = gave_up[:, rows].argmax(axis=0)
    return Outcomes(outcome.astype(np.uint8), decided, taken)
