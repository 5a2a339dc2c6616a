"""Maps over the turn of a loop that polls the line, and over stalls.

Without a stall the looks of a loop stand a whole number of turns after its first one, so where they
meet the edges is worked out at once.  A stall moves all looks after it by its length: up to it the
looks of one phase tell, after it those of another.  Its length is taken to the nearest part of a
turn, so few phases do for all stalls, and only the pulse in which it begins needs to be looked at.
"""

from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import layout
from pivet.insight.grid import SIDE
from pivet.insight.humidity.frames import BIT_HIGH, BIT_LOW, Frames
from pivet.insight.humidity.looks import looks_of, own_turns, put_away
from pivet.insight.humidity.reading import WAITED, ns, number_of
from pivet.insight.readers import Reader
from pivet.progress import Progress, silent

Floats = npt.NDArray[np.float32]
Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]
FloatArray = npt.NDArray[np.float64]

PARTS = 2
"""A stall's length is taken to this part of a turn."""

BLOCK = 5000
"""How many frames are worked at together: few stay in the cache, many make fewer calls."""

THREADS = 2
"""So many blocks are worked at side by side: nearly all of it is done in NumPy's own loops."""

LEAST_US, MOST_US = 0.25, 16.0
FIRST, LAST = BIT_LOW.start, WAITED.stop
"""The edges at which the first bit begins and the last one ends."""

NEVER = np.float32(1e9)


def periods() -> FloatArray:
    """Turns of the map, (k,), µs."""
    return np.linspace(LEAST_US, MOST_US, SIDE)


def count_right(
    frames: Frames,
    reader: Reader,
    x: FloatArray,
    stalls: FloatArray,
    rng: np.random.Generator,
    progress: Progress = silent,
) -> FloatArray:
    """How many frames each pair of constants reads right, (m, k); each frame has one stall.

    Args:
        frames: those that are drawn.
        reader: the loop; its period is that of the map.
        x: periods, (k,), µs.
        stalls: how long the processor is away, (m,), µs.
        rng: that draws where the loop and the stall stand.
        progress: called now and then, by several threads.
    """
    where, phase = rng.random((2, len(frames)), dtype=np.float32)

    def of_block(first: int) -> FloatArray:
        rows = slice(first, first + BLOCK)
        edges = (frames.edges_ns[: LAST + 1, rows] - frames.edges_ns[0, rows]).astype(np.float32)
        ones = np.unpackbits(frames.sent[:, rows], axis=0).astype(bool)
        drawn = _drawn(edges, ones, phase[rows], where[rows] * edges[-1])
        found = np.zeros((stalls.size, x.size))
        for column, period_us in enumerate(x.tolist()):
            progress(first / len(frames))
            own = reader.with_(period_us=period_us)
            found[:, column] = _right(drawn, own, np.float32(ns(period_us)), stalls * 1000)
        return found

    with ThreadPoolExecutor(THREADS) as pool:  # what takes long are NumPy's own loops
        counts = list(pool.map(of_block, range(0, len(frames), BLOCK)))
    return np.sum(counts, axis=0) if counts else np.zeros((stalls.size, x.size))


class Places(NamedTuple):
    """Where the pulse in which a stall begins stands, and those beside it, each (n,).

    They count the rows of columns with a pulse a row, one after the other; the bits to which they
    belong count those with a bit a row.
    """

    before: Ints
    own: Ints
    next: Ints
    after_next: Ints
    bit: Ints
    next_bit: Ints


class Drawn(NamedTuple):
    """Some frames, each with one stall.

    Attributes:
        edges: from the release on, float32 (84, n), ns.
        ones: the bits that are 1, bool (40, n).
        phase: where in a turn the loop is at the first edge, (n,).
        start: of the stall, (n,), ns.
        pulse: in which it begins, (n,).
        at: where that pulse stands.
        before, after: pulses that end before it, or begin two edges after it, bool (83, n).
    """

    edges: Floats
    ones: Bools
    phase: Floats
    start: Floats
    pulse: Ints
    at: Places
    before: Bools
    after: Bools

    def only(self, rows: Bools) -> "Drawn":
        """Some of them.

        Args:
            rows: which, bool (n,).
        """
        return _drawn(self.edges[:, rows], self.ones[:, rows], self.phase[rows], self.start[rows])


def _drawn(edges: Floats, ones: Bools, phase: Floats, start: Floats) -> Drawn:
    pulse = (edges[1:-1] <= start).sum(axis=0)
    size, number = pulse.size, np.arange(LAST)[:, None]
    rows = [np.clip(pulse + more, 0, LAST) for more in (-1, 0, 1, 2)]
    rows += [np.clip((pulse + more - FIRST) // 2, 0, layout.BITS - 1) for more in (0, 1)]
    at = Places(*(row * size + np.arange(size) for row in rows))
    return Drawn(edges, ones, phase, start, pulse, at, number < pulse, number > pulse + 1)


class Looks(NamedTuple):
    """What a loop sees in one phase.

    Attributes:
        at: number of the look that sees each edge, (84, n).
        until: the look from which on the edge came too soon after the one before, (84, n).
        turns: of each pulse, (83, n).
        wrong: bits that are taken wrong, bool (40, n).
        bad: pulses that are missed, or last too long, bool (83, n).
    """

    at: Floats
    until: Floats
    turns: Floats
    wrong: Bools
    bad: Bools


class Bounds(NamedTuple):
    """For which stalls frames are read right, each column (n,).

    Attributes:
        least, most: whole turns that the processor may be away.
        longer_ns, shorter_ns: the stall is as long as this, and shorter than that.
    """

    least: Floats
    most: Floats
    longer_ns: Floats
    shorter_ns: Floats

    def holds(self, turns: Floats, length_ns: Floats) -> Bools:
        """Whether each frame is read right, bool (k, n).

        Args:
            turns: whole ones in each stall, (k, 1).
            length_ns: of each stall, (k, 1).
        """
        found: Bools = self.least <= turns
        found &= turns <= self.most
        found &= self.longer_ns <= length_ns
        found &= length_ns < self.shorter_ns
        return found


class Loop(NamedTuple):
    """A loop's constants, in ns and turns.

    Attributes:
        period: of a turn, ns.
        work: how long a bit is put away, ns.
        number: a high of more turns is a 1; None compares with the low before it.
        most: turns of a pulse at which it gives up.
    """

    period: np.float32
    work: float
    number: float | None
    most: np.float32


def _loop(reader: Reader, period: np.float32) -> Loop:
    most = NEVER if reader.limit is None else np.float32(reader.limit)
    if reader.timeout_us is not None:
        most = min(most, np.floor(np.float32(ns(reader.timeout_us)) / period) + np.float32(1))
    return Loop(period, ns(reader.work_us), number_of(reader), most)


def _right(drawn: Drawn, reader: Reader, period: np.float32, stalls_ns: FloatArray) -> FloatArray:
    """How many frames are read right, by length of the stall, (m,)."""
    loop = _loop(reader, period)
    own = own_turns(drawn.edges, float(period), loop.work) - drawn.phase
    first = _looks(own, drawn, loop)
    good = ~_wrong_among(first, drawn.before, BIT_HIGH)
    if 2 * np.count_nonzero(good) < good.size:
        drawn, own = drawn.only(good), own[:, good]
        first, good = _looks(own, drawn, loop), good[good]
    parts = np.rint(stalls_ns / float(period) * PARTS)
    found = np.zeros(stalls_ns.size)
    for part in np.unique(parts % PARTS).tolist():
        later = first if part == 0 else _looks(own - np.float32(part / PARTS), drawn, loop)
        rows = np.flatnonzero(parts % PARTS == part)
        turns = (parts[rows, None] // PARTS).astype(np.float32)
        length_ns = (parts[rows, None] / PARTS * period).astype(np.float32)
        fine = good & ~_wrong_among(later, drawn.after, BIT_LOW)
        right = _whole_pulse(drawn, loop, first, later, fine).holds(turns, length_ns)
        right |= _cut_pulse(drawn, loop, first, later, fine).holds(turns, length_ns)
        found[rows] = np.count_nonzero(right, axis=1)
    return found


def _looks(own: Floats, drawn: Drawn, loop: Loop) -> Looks:
    at, until = looks_of(own, loop.work / float(loop.period))
    turns = at[1:] - at[:-1]
    beside = turns[BIT_LOW.start : LAST : 2] if loop.number is None else np.float32(loop.number)
    wrong = (turns[BIT_HIGH.start : LAST : 2] > beside) != drawn.ones
    bad = at[:-1] >= until[1:]
    bad[0] = False
    if loop.most < NEVER:
        bad |= turns >= loop.most
    return Looks(at, until, turns, wrong, bad)


def _whole_pulse(drawn: Drawn, loop: Loop, first: Looks, later: Looks, fine: Bools) -> Bounds:
    """The stall begins and ends within one pulse, which seems shorter by it."""
    at, pulse = drawn.at, drawn.pulse
    last = pulse + 1 == LAST
    next_low = (pulse >= FIRST - 1) & (pulse % 2 == 0) & ~last
    fine = fine & (last | ~later.bad.take(at.next, mode="clip"))
    fine &= ~(next_low & later.wrong.take(at.next_bit))
    ends = _End(
        pulse,
        first.at.take(at.own),
        later.at.take(at.next),
        later.until.take(at.next),
        drawn.ones.take(at.bit),
        later.wrong.take(at.bit),
        first.turns.take(at.before),
        later.turns.take(at.next, mode="clip"),
    )
    least, most = ends.told(loop)
    gap = drawn.edges.take(at.next) - drawn.start
    return Bounds(np.where(fine, least, NEVER), most, np.full_like(gap, -1), gap)


def _cut_pulse(drawn: Drawn, loop: Loop, first: Looks, later: Looks, fine: Bools) -> Bounds:
    """An edge comes within the stall: to the loop it comes when the stall begins."""
    at, pulse = drawn.at, drawn.pulse
    begin, work = first.at.take(at.own), np.float32(loop.work / loop.period)
    soon = drawn.start / loop.period - drawn.phase
    looked = np.maximum(np.ceil(soon - put_away(pulse + 1) * work), begin)
    turns, high = looked - begin, (pulse > FIRST) & (pulse % 2 == 0)
    beside = first.turns.take(at.before) if loop.number is None else loop.number
    taken = np.greater(turns, beside) == drawn.ones.take(at.bit)
    fine = fine & (turns < loop.most) & (taken | ~high)
    fine &= (pulse == 0) | (begin < np.ceil(soon - put_away(pulse) * work))
    ends = _End(
        pulse + 1,
        looked,
        later.at.take(at.after_next),
        later.until.take(at.after_next),
        drawn.ones.take(at.next_bit),
        later.wrong.take(at.next_bit),
        turns,
        later.turns.take(at.after_next, mode="clip"),
    )
    least, most = ends.told(loop)
    last = pulse + 1 == LAST
    least[last], most[last] = -NEVER, NEVER
    shorter = np.where(last, NEVER, drawn.edges.take(at.after_next) - drawn.start)
    longer = drawn.edges.take(at.next) - drawn.start
    return Bounds(np.where(fine, least, NEVER), most, longer, shorter)


def _wrong_among(looks: Looks, pulses: Bools, of_bits: slice) -> Bools:
    """Frames of which some pulses are told wrong; a bit counts by its low or by its high."""
    wrong: Bools = np.logical_or.reduce(looks.bad & pulses, axis=0)
    wrong |= np.logical_or.reduce(looks.wrong & pulses[of_bits.start : LAST : 2], axis=0)
    return wrong


class _End(NamedTuple):
    """The pulse in which a stall ends, each column (n,).

    Attributes:
        pulse: its number.
        begin, end: looks at its edges, the latter as if there had been no stall.
        until: the look from which on it is missed, likewise.
        one: its bit is a 1.
        wrong: its bit is taken wrong without a stall.
        low: turns of the low before.
        high: turns of the high after.
    """

    pulse: Ints
    begin: Floats
    end: Floats
    until: Floats
    one: Bools
    wrong: Bools
    low: Floats
    high: Floats

    def told(self, loop: Loop) -> tuple[Floats, Floats]:
        """Whole turns of a stall with which it is told right: least and most, (n,)."""
        turns = self.end - self.begin
        least = turns - loop.most + 1
        most = np.where(self.pulse == 0, NEVER, self.until - self.begin - 1)
        in_bits, odd = self.pulse >= FIRST, self.pulse % 2 == 1
        is_low, is_high = in_bits & odd, in_bits & ~odd
        if loop.number is None:
            short = turns - self.high
            least = np.where(is_low & self.one, np.maximum(least, short + 1), least)
            most = np.where(is_low & ~self.one, np.minimum(most, short), most)
        else:
            most = np.where(is_low & self.wrong, -NEVER, most)
        enough = np.ceil(turns - (self.low if loop.number is None else np.float32(loop.number)))
        most = np.where(is_high & self.one, np.minimum(most, enough - 1), most)
        least = np.where(is_high & ~self.one, np.maximum(least, enough), least)
        return least, most
