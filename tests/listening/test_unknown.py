"""A line of which nobody knows what it carries."""

from typing import Any
from unittest import mock

import numpy as np

from pivet.listening.unknown import LOOK_EDGES, LOOK_MOST, LOOK_QUIET_NS, Unknown
from pivet.signal.trace import Level
from pivet.sources.source import NO_EDGES, Gap, Piece
from tests.base import PivetTest
from tests.listening.test_stream import begin, between
from tests.night import demo_night

S = 10**9


class UnknownLine(PivetTest):
    """Recognising by what is heard."""

    def test_every_family(self) -> None:
        """Each wire of the night is recognised within its first minutes, and as what it is."""
        for wire in demo_night().wires:
            with self.subTest(wire.label):
                names = tuple(line.name for line in wire.lines)
                unknown = Unknown(names, wire.resolution_ns)
                unknown.hear([begin(line, wire.start_ns) for line in wire.lines])
                found, at = None, wire.start_ns
                while found is None and at < 600 * S:
                    pieces = [between(line, at, at + S // 10) for line in wire.lines]
                    found, at = unknown.hear(pieces), at + S // 10
                assert found is not None
                self.assertEqual(wire.family.key, found.family.key)
                exchanges: Any = found.exchanges
                self.assertFalse(exchanges.marks[0])

    def test_looks_at_rest(self) -> None:
        """Once the line is quiet: within an exchange there is nothing to be seen yet."""
        unknown = Unknown(("d",), 100)
        unknown.hear([Piece("d", NO_EDGES, 0, Gap(0, 0, Level.HIGH, 0))])
        last = 5 * S
        edges = last - 50_000 * np.arange(LOOK_EDGES)[::-1]
        with mock.patch.object(unknown, "look", return_value=None) as look:
            unknown.hear([Piece("d", edges[1:], last)])
            unknown.hear([Piece("d", NO_EDGES, last + LOOK_QUIET_NS)])
            look.assert_not_called()
            again = last + S
            unknown.hear([Piece("d", np.array([again]), again)])
            unknown.hear([Piece("d", NO_EDGES, again + LOOK_QUIET_NS - 1)])
            look.assert_not_called()
            unknown.hear([Piece("d", NO_EDGES, again + LOOK_QUIET_NS)])
            look.assert_called_once()
            unknown.hear([Piece("d", NO_EDGES, again + S)])
            look.assert_called_once()

    def test_endless_noise(self) -> None:
        """A line that says nothing to anybody takes bounded memory, and is still heard after."""
        wire = demo_night().wires[0]
        line = wire.lines[0]
        unknown = Unknown((line.name,), 100)
        unknown.hear([Piece(line.name, NO_EDGES, 0, Gap(0, 0, Level.HIGH, 0))])
        random = np.random.default_rng(5)
        at = 0
        for _ in range(30):
            steps = random.integers(20_000, 200_000, 4000)
            edges = at + np.cumsum(steps)
            at = int(edges[-1])
            self.assertIsNone(unknown.hear([Piece(line.name, edges, at)]))
            self.assertIsNone(unknown.hear([Piece(line.name, NO_EDGES, at + 1)]))
            held = sum(row.edges_ns.size for row in unknown.pieces)
            self.assertLess(held, 2 * LOOK_MOST)
        self.assertLess(len(unknown.pieces), 20)

    def test_begins_anew(self) -> None:
        """When so much showed nothing, a few edges more are no reason to look."""
        unknown = Unknown(("d",), 100)
        unknown.hear([Piece("d", NO_EDGES, 0, Gap(0, 0, Level.HIGH, 0))])
        noise = 5_000 * np.arange(1, LOOK_MOST + 2)
        last = int(noise[-1])
        with mock.patch.object(unknown, "look", return_value=None) as look:
            unknown.hear([Piece("d", noise[:-2], int(noise[-3]))])
            look.assert_not_called()
            unknown.hear([Piece("d", noise[-2:-1], last)])
            look.assert_called_once()
            (begins,) = unknown.pieces
            assert begins.gap is not None
            self.assertEqual((Level.HIGH, last), (begins.gap.level, begins.gap.end_ns))
            few = last + 50_000 * np.arange(1, LOOK_EDGES)
            unknown.hear([Piece("d", few, last + 10 * S)])
            look.assert_called_once()
            unknown.hear([Piece("d", np.array([last + 11 * S]), last + 20 * S)])
            self.assertEqual((2, 3), (look.call_count, len(unknown.pieces)))

    def test_first_edge(self) -> None:
        """What begins with the first edge that was heard has its beginning."""
        wire = demo_night().wires[0]
        (line,) = wire.lines
        unknown = Unknown((line.name,), 100)
        edges, first = line.edges_ns[:400], int(line.edges_ns[0])
        piece = Piece(line.name, edges, first, Gap(0, 0, line.level_at(first - 1), 0))
        unknown.hear([piece])
        found = unknown.hear([Piece(line.name, NO_EDGES, int(edges[-1]) + S)])
        assert found is not None
        exchanges: Any = found.exchanges
        self.assertEqual((first, 0), (exchanges.start_ns[0], exchanges.marks[0]))
