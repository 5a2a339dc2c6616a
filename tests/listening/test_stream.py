"""A live wire gives what the same capture gives when it is opened whole."""

from itertools import pairwise
from unittest import mock

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.captures.decoding import decode_lines
from pivet.captures.wire import Wire
from pivet.decode.batches import beside_between
from pivet.frozen import replace
from pivet.listening.intake import NONE
from pivet.listening.stream import EVER, LiveWire
from pivet.signal.trace import Level, Line, Trace
from pivet.sources.source import Gap, Piece
from tests.base import PivetTest
from tests.listening import mutants
from tests.night import demo_night

MANY, MS = 10**9, 10**6


def live_wire(wire: Wire, settled_ns: int = 60_000_000) -> LiveWire:
    """A live wire for the lines of a wire, judged against the same sheet."""
    names = tuple(line.name for line in wire.lines)
    choices = replace(wire.choices, sheet=wire.sheet)
    return LiveWire(wire.family, names, wire.resolution_ns, choices, settled_ns)


def begin(line: Line, at_ns: int) -> Piece:
    """The first piece of a line."""
    return Piece(line.name, line.edges_ns[:0], at_ns, Gap(at_ns, at_ns, line.level_at(at_ns), 0))


def between(line: Line, first_ns: int, last_ns: int) -> Piece:
    """What a line brings behind a moment and up to another."""
    first, last = np.searchsorted(line.edges_ns, (first_ns, last_ns), side="right")
    return Piece(line.name, line.edges_ns[first:last], last_ns)


def beginning(trace: Trace) -> list[Piece]:
    """The first pieces of the lines of a capture."""
    start = trace.start_ns
    return [
        Piece(line.name, NONE, start, Gap(start, start, line.initial, 0)) for line in trace.lines
    ]


class Stream(PivetTest):
    """Pieces in, judged exchanges out."""

    wires: tuple[Wire, ...]

    @classmethod
    def setUpClass(cls) -> None:
        cls.wires = demo_night().wires

    def test_in_chapters(self) -> None:
        """Whatever their length, and whenever somebody looks: all that is there, once."""
        for seed in range(30):
            wire = self.wires[seed % len(self.wires)]
            trace = mutants.damaged(mutants.part_of(wire, seed % 9, 12), seed)
            names, chapter = tuple(line.name for line in trace.lines), 1 + seed % 4
            choices = replace(wire.choices, sheet=wire.sheet)
            live = LiveWire(wire.family, names, 100, choices, chapter=chapter)
            self.assertEqual((0, 0), (len(live.wire()), live.known_until_ns))
            start, shown = trace.start_ns, list[Wire]()
            live.hear(beginning(trace))
            stops = np.random.default_rng(seed).integers(start, trace.end_ns, 20)
            for before, stop in pairwise([start - 1, *np.sort(stops).tolist(), trace.end_ns]):
                live.hear([between(line, before, stop) for line in trace.lines])
                shown += live.windows()
            live.end()
            shown += live.windows()
            parts = [
                beside_between(
                    wire.family.rows(one.exchanges, 0, other.first - one.first),
                    -EVER,
                    int(other.exchanges.start_ns[0]),
                )
                for one, other in pairwise(shown)
                if other.first > one.first
            ]
            told = wire.family.join([*parts, shown[-1].exchanges])
            self.assert_same_exchanges(decode_lines(wire.family, trace.lines, trace), told)
            self.assertEqual(len(told), live.certain)
            in_sight = live.wire()
            for line in in_sight.lines:
                self.assertGreaterEqual(min(line.edges_ns, default=start), in_sight.start_ns)
            closed = max(len(told) - 1, 0) // chapter
            self.assertEqual(max(closed - 1, 0) * chapter, live.first)

    def test_in_time(self) -> None:
        """Many edges do not wait until somebody looks: what is decoded at once is bounded."""
        wire = self.wires[0]
        (line,) = wire.lines
        live, waited = live_wire(wire), []
        live.hear([begin(line, wire.start_ns)])
        with mock.patch("pivet.listening.stream.AT_ONCE", 500):
            for edges in np.split(line.edges_ns[:6000], 60):
                live.hear([Piece(line.name, edges, int(edges[-1]))])
                waited.append(live._intake.waiting)
        self.assertEqual([*range(100, 500, 100), 0] * 12, waited)
        self.assertGreater(live.certain, 50)

    def test_quiet_for_long(self) -> None:
        """Wherever a line fell silent: who looked meanwhile sees the same in the end."""
        for seed in range(60):
            wire = self.wires[seed % len(self.wires)]
            trace = mutants.damaged(mutants.part_of(wire, seed % 9, 3), seed)
            names = tuple(line.name for line in trace.lines)
            last = int(np.random.default_rng(seed).integers(trace.start_ns, trace.end_ns))
            one, other = (live_wire(wire, 2 * MS) for _ in range(2))
            for live in (one, other):
                live.hear(beginning(trace))
                live.hear([between(line, trace.start_ns - 1, last) for line in trace.lines])
            for now in range(last, last + 600 * MS, 20 * MS):
                one.hear([Piece(name, NONE, now) for name in names])
                one.wire()
            other.hear([Piece(name, NONE, now) for name in names])
            starts = [live.wire().exchanges.start_ns.tolist() for live in (one, other)]
            self.assertEqual(starts[1], starts[0], seed)
            for live in (one, other):
                live.end()
            self.assert_same_exchanges(other.wire().exchanges, one.wire().exchanges)

    def test_noise_stays_small(self) -> None:
        """Spikes that no exchange follows are forgotten, the oldest first; exchanges stay."""
        wire = next(row for row in self.wires if row.family.key == "humidity-frame")
        (line,) = wire.lines
        live = live_wire(wire)
        live.hear([begin(line, wire.start_ns)])
        end = int(wire.exchanges.end_ns[4]) + MANY
        live.hear([between(line, wire.start_ns, end)])
        shown = live.wire()
        noise = np.arange(1000, dtype=np.int64) * 20_000
        with (
            mock.patch("pivet.listening.stream.MOST_BESIDE", 3000),
            mock.patch("pivet.listening.stream.MOST_SEEN", 9000),
        ):
            for _ in range(200):
                pulses = np.stack((noise, noise + 400)).T.ravel() + end + 50_000
                end += 30_000_000
                live.hear([Piece(line.name, pulses, end)])
                live._catch_up()
            after = live.wire()
        self.assertEqual(len(shown), len(after))
        kept = after.lines[0]
        self.assertLess(kept.edges_ns.size, shown.lines[0].edges_ns.size + 3 * 9000)
        same = kept.edges_ns[: shown.lines[0].edges_ns.size]
        np.testing.assert_array_equal(shown.lines[0].edges_ns, same)
        self.assertIs(line.level_at(wire.start_ns), kept.initial)
        self.assertIs(Level.HIGH, kept.level_after(-1 + kept.edges_ns.size))
        self.assertLess(after.exchanges.spike_start_ns.size, 3000 + 1000 * 66)
        self.assertGreater(after.exchanges.spike_start_ns.size, 2999)
        self.assertGreater(int(after.exchanges.spike_start_ns[-1]), end - 31_000_000)

    @given(st.integers(0, 5), st.integers(600, 1800), st.integers(1, 900), st.booleans())
    def test_gaps(self, number: int, at_s: int, length_s: int, flips: bool) -> None:
        """A stretch that is not known: what is told before and behind is as in the capture."""
        wire = self.wires[number]
        start, stop = at_s * MANY, (at_s + length_s) * MANY
        live = live_wire(wire)
        live.hear([begin(line, wire.start_ns) for line in wire.lines])
        live.hear([between(line, wire.start_ns, start) for line in wire.lines])
        if flips:
            live.wire()
        for line in wire.lines:
            gap = Gap(start, stop, line.level_at(stop), None, "a stretch is missing")
            live.hear([Piece(line.name, line.edges_ns[:0], stop, gap)])
        live.hear([between(line, stop, wire.end_ns + MANY) for line in wire.lines])
        found = set(live.wire().exchanges.start_ns.tolist())
        first = int(live.wire().exchanges.start_ns[0]) if live.first else 0
        starts, ends = wire.exchanges.start_ns, wire.exchanges.end_ns
        clear = (ends < start - MANY) | (starts > stop + MANY)
        wanted = set(starts[clear & (starts >= first)].tolist())
        self.assertEqual(set(), wanted - found)
        inside = [row for row in found if start < row < stop]
        self.assertEqual([], inside)

    def test_level_behind_a_gap(self) -> None:
        """Whatever it was before, the line stands as it was found."""
        wire = self.wires[0]
        for level in Level:
            live = live_wire(wire)
            live.hear([begin(line, wire.start_ns) for line in wire.lines])
            gap = Gap(5 * MS, 9 * MS, level, None, "a stretch is missing")
            live.hear([Piece(wire.lines[0].name, NONE, 10 * MS, gap, 250)])
            shown = live.wire()
            self.assertIs(level, shown.lines[0].level_at(10 * MS))
            self.assertEqual(250, shown.resolution_ns)
            live.hear([Piece("another", np.arange(9), 20 * MS)])
            self.assertEqual(0, live.edges)

    def test_standing_exchange_is_shown(self) -> None:
        """A transaction that only the next reset would end is shown when the line is at rest."""
        wire = next(row for row in self.wires if row.family.key == "one-wire")
        rests = wire.exchanges.start_ns[1:] - wire.exchanges.end_ns[:-1]
        index = int(np.flatnonzero(rests > MANY)[5])
        end = int(wire.exchanges.end_ns[index])
        live = live_wire(wire, settled_ns=2_000_000)
        live.hear([begin(line, wire.start_ns) for line in wire.lines])
        last = int(between(wire.lines[0], wire.start_ns, end + 1_000_000).edges_ns[-1])
        for before, now in ((wire.start_ns, last), (last, last + 2_000_000 - 1)):
            live.hear([between(line, before, now) for line in wire.lines])
            self.assertEqual(index, len(live.wire()))
        live.hear([Piece(line.name, NONE, last + 2_000_000) for line in wire.lines])
        shown = live.wire()
        self.assertEqual(index + 1, len(shown))
        self.assertEqual(index, live.certain)
        self.assertEqual(wire.report(index).data, shown.report(index).data)
