"""Maps over the turn of a loop that polls the line, and over stalls.

Without a stall the looks of a loop stand a whole number of turns after its first one, so where they
meet the edges is worked out at once.  A stall moves all looks after it by its length: up to it the
looks of one phase tell, after it those of another.  Its length is taken to the nearest part of a
turn, so few phases do for all stalls, and only the pulse in which it begins needs to be looked at.
"""

from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import layout
from pivet.insight.grid import SIDE
from pivet.insight.humidity.frames import BIT_HIGH, BIT_LOW, Frames
from pivet.insight.humidity.reading import WAITED, ns, number_of
from pivet.insight.readers import Reader

Floats = npt.NDArray[np.float32]
Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]
FloatArray = npt.NDArray[np.float64]

PARTS = 4
"""A stall's length is taken to this part of a turn."""

BLOCK = 1024
"""How many frames at once stay in the processor's cache."""

LEAST_US, MOST_US = 0.25, 16.0
FIRST, LAST = BIT_LOW.start, WAITED.stop
"""The edges at which the first bit begins and the last one ends."""

NEVER = np.float32(1e9)


def periods() -> FloatArray:
    """Turns of the map, (k,), µs."""
    return np.linspace(LEAST_US, MOST_US, SIDE)


def count_right(
    frames: Frames, reader: Reader, x: FloatArray, stalls: FloatArray, rng: np.random.Generator
) -> FloatArray:
    """How many frames each pair of constants reads right, (m, k); each frame has one stall.

    Args:
        frames: those that are drawn.
        reader: the loop; its period is that of the map.
        x: periods, (k,), µs.
        stalls: how long the processor is away, (m,), µs.
        rng: that draws where the loop and the stall stand.
    """
    where, phase = rng.random((2, len(frames)), dtype=np.float32)
    found = np.zeros((stalls.size, x.size))
    for first in range(0, len(frames), BLOCK):
        rows = slice(first, first + BLOCK)
        drawn = _drawn(frames.edges_ns[:, rows], frames.sent[:, rows], where[rows], phase[rows])
        for column, period_us in enumerate(x.tolist()):
            own = reader.with_(period_us=period_us)
            found[:, column] += _right(drawn, own, np.float32(ns(period_us)), stalls * 1000)
    return found


class Drawn(NamedTuple):
    """Some frames, each with one stall.

    Attributes:
        edges: from the release on, float32 (84, n), ns.
        ones: the bits that are 1, bool (40, n).
        phase: where in a turn the loop is at the first edge, (n,).
        start: of the stall, (n,), ns.
        pulse: in which it begins, (n,).
        before, after: pulses that end before it, or begin two edges after it, bool (83, n).
    """

    edges: Floats
    ones: Bools
    phase: Floats
    start: Floats
    pulse: Ints
    before: Bools
    after: Bools


def _drawn(
    edges_ns: FloatArray, sent: npt.NDArray[np.uint8], where: Floats, phase: Floats
) -> Drawn:
    edges = (edges_ns[: LAST + 1] - edges_ns[0]).astype(np.float32)
    start = where * edges[-1]
    pulse = (edges[1:-1] <= start).sum(axis=0)
    number = np.arange(LAST)[:, None]
    ones = np.unpackbits(sent, axis=0).astype(bool)
    return Drawn(edges, ones, phase, start, pulse, number < pulse, number > pulse + 1)


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
        shorter_ns, longer_ns: the stall is shorter than this, and as long as that.
    """

    least: Floats
    most: Floats
    shorter_ns: Floats
    longer_ns: Floats

    def holds(self, turns: np.float32, length_ns: np.float32) -> Bools:
        """Whether each frame is read right, bool (n,).

        Args:
            turns: whole ones in the stall.
            length_ns: of the stall.
        """
        found: Bools = (self.least <= turns) & (turns <= self.most)
        found &= (self.longer_ns <= length_ns) & (length_ns < self.shorter_ns)
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
    # Its own time: what goes by while bits are put away is left out.
    away = np.float32(loop.work) * _put_away(np.arange(LAST + 1, dtype=np.int64))[:, None]
    own = (drawn.edges - away.astype(np.float32)) / period - drawn.phase
    first = _looks(own, drawn, loop)
    parts = np.rint(stalls_ns / float(period) * PARTS).astype(np.int64)
    found = np.zeros(stalls_ns.size)
    for part in np.unique(parts % PARTS).tolist():
        later = first if part == 0 else _looks(own - np.float32(part / PARTS), drawn, loop)
        bounds = _whole_pulse(drawn, loop, first, later), _cut_pulse(drawn, loop, first, later)
        for row in np.flatnonzero(parts % PARTS == part).tolist():
            length_ns = np.float32(parts[row] / PARTS) * period
            right = [one.holds(np.float32(parts[row] // PARTS), length_ns) for one in bounds]
            found[row] = np.count_nonzero(right[0] | right[1])
    return found


def _put_away(edge: Ints) -> Ints:
    """How many bits are put away before an edge is looked for."""
    return np.clip((edge - layout.FIRST_HIGH) // 2, 0, None)


def _looks(own: Floats, drawn: Drawn, loop: Loop) -> Looks:
    at = np.ceil(own)
    until = at
    if loop.work:
        late = (_put_away(np.arange(LAST + 1)) - _put_away(np.arange(LAST + 1) - 1))[:, None]
        until = np.ceil(own + late * np.float32(loop.work / loop.period))
        np.maximum.accumulate(at, axis=0, out=at)
    turns = np.diff(at, axis=0)
    beside = turns[BIT_LOW.start : LAST : 2] if loop.number is None else np.float32(loop.number)
    wrong = (turns[BIT_HIGH.start : LAST : 2] > beside) != drawn.ones
    bad = at[:-1] >= until[1:]
    bad[0] = False
    if loop.most < NEVER:
        bad |= turns >= loop.most
    return Looks(at, until, turns, wrong, bad)


def _at(rows: npt.NDArray[np.generic], pulse: Ints) -> Any:
    """One row of each column; the nearest one where there is none."""
    return rows[np.clip(pulse, 0, len(rows) - 1), np.arange(pulse.size)]


def _bit(rows: npt.NDArray[np.generic], pulse: Ints) -> Any:
    """Of the bit to which a pulse belongs."""
    return _at(rows, (pulse - FIRST) // 2)


def _whole_pulse(drawn: Drawn, loop: Loop, first: Looks, later: Looks) -> Bounds:
    """The stall begins and ends within one pulse, which seems shorter by it."""
    pulse = drawn.pulse
    begin, end = _at(first.at, pulse), _at(later.at, pulse + 1)
    fine = _fine_beside(drawn, first, later)
    last = pulse + 1 == LAST
    fine &= last | ~_at(later.bad, pulse + 1)
    next_low = (pulse >= FIRST - 1) & (pulse % 2 == 0) & ~last
    fine &= ~(next_low & _bit(later.wrong, pulse + 1))
    least, most = _told(drawn, loop, pulse, begin, end, _at(later.until, pulse + 1), first, later)
    gap = _at(drawn.edges, pulse + 1) - drawn.start
    return Bounds(np.where(fine, least, NEVER), most, gap, np.float32(-1) + 0 * gap)


def _cut_pulse(drawn: Drawn, loop: Loop, first: Looks, later: Looks) -> Bounds:
    """An edge comes within the stall: to the loop it comes when the stall begins."""
    pulse, following = drawn.pulse, drawn.pulse + 1
    begin = _at(first.at, pulse)
    soon = drawn.start / loop.period - drawn.phase
    seen = np.ceil(soon - _put_away(pulse) * np.float32(loop.work / loop.period))
    at = np.maximum(
        np.ceil(soon - _put_away(following) * np.float32(loop.work / loop.period)), begin
    )
    fine = _fine_beside(drawn, first, later)
    fine &= (pulse == 0) | (begin < seen)
    fine &= at - begin < loop.most
    high = (pulse > FIRST) & (pulse % 2 == 0)
    beside = _at(first.turns, pulse - 1) if loop.number is None else np.float32(loop.number)
    fine &= ~high | ((at - begin > beside) == _bit(drawn.ones, pulse))
    last = following == LAST
    end = _at(later.at, following + 1)
    low_turns = at - begin
    until = _at(later.until, following + 1)
    least, most = _told(drawn, loop, following, at, end, until, first, later, low_turns)
    least, most = np.where(last, -NEVER, least), np.where(last, NEVER, most)
    edges = drawn.edges
    shorter = np.where(last, NEVER, _at(edges, following + 1) - drawn.start)
    longer = _at(edges, following) - drawn.start
    return Bounds(np.where(fine, least, NEVER), most, shorter, longer)


def _fine_beside(drawn: Drawn, first: Looks, later: Looks) -> Bools:
    """Whatever does not touch the stall is read right."""
    found: Bools = ~(first.bad & drawn.before).any(axis=0)
    found &= ~(later.bad & drawn.after).any(axis=0)
    found &= ~(first.wrong & drawn.before[BIT_HIGH.start : LAST : 2]).any(axis=0)
    found &= ~(later.wrong & drawn.after[BIT_LOW.start : LAST : 2]).any(axis=0)
    return found


def _told(
    drawn: Drawn,
    loop: Loop,
    pulse: Ints,
    begin: Floats,
    end: Floats,
    until: Floats,
    first: Looks,
    later: Looks,
    low: Floats | None = None,
) -> tuple[Floats, Floats]:
    """Whole turns of a stall with which a pulse, in which it ends, is told right: least and most.

    Args:
        drawn: the frames.
        loop: the loop.
        pulse: in which the stall ends, (n,).
        begin, end: looks at its edges, (n,), the latter as if there had been no stall.
        until: the look from which on it is missed, likewise.
        first, later: what the loop sees before and after.
        low: turns of the low before, where that was touched, too.
    """
    turns = end - begin
    least = turns - loop.most + 1
    most = np.where(pulse == 0, NEVER, until - begin - 1)
    one, in_bits = _bit(drawn.ones, pulse), pulse >= FIRST
    is_low, is_high = in_bits & (pulse % 2 == 1), in_bits & (pulse % 2 == 0)
    if loop.number is None:
        beside = _at(later.turns, pulse + 1)
        least = np.where(is_low & one, np.maximum(least, turns - beside + 1), least)
        most = np.where(is_low & ~one, np.minimum(most, turns - beside), most)
        limit = _at(first.turns, pulse - 1) if low is None else low
    else:
        most = np.where(is_low & _bit(later.wrong, pulse), -NEVER, most)
        limit = np.float32(loop.number)
    enough = np.ceil(turns - limit)
    most = np.where(is_high & one, np.minimum(most, enough - 1), most)
    least = np.where(is_high & ~one, np.maximum(least, enough), least)
    return least, most
