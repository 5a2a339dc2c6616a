"""A conversation, moved on by hand: what is an answer's, when it is whole, when it is given up."""

import unittest
from collections.abc import Sequence
from unittest import mock

import numpy as np

from pivet.listening.asking.conversation import (
    LEAD_NS,
    NONE,
    PATIENCE_S,
    Answer,
    Conversation,
    Levels,
    Rest,
    Say,
    Talk,
    in_pieces,
)
from pivet.listening.asking.floor import Floor
from pivet.signal.trace import Level
from pivet.sources.ask import Ask
from pivet.sources.source import AskDone, Gap, Piece

MS = 1_000_000
BEGIN = 100 * MS


class Moved(unittest.TestCase):
    """One ask of a millisecond, at a hundred."""

    def setUp(self) -> None:
        self.source = mock.Mock(**{"now_ns.return_value": BEGIN, "ask.side_effect": [7, 8]})
        self.source.fits.return_value = True
        self.answers: list[Answer] = []
        self.levels = Levels()

    def talk(self, *wishes: Say | Rest) -> Conversation[str]:
        """A talk of these; all answers are kept."""

        def run() -> Talk[str]:
            for wish in wishes:
                self.answers.append((yield wish))
            return "over"

        made = Conversation(run(), self.source, self.levels, Floor())
        made.start()
        return made

    def say(self, **how: float) -> Say:
        """An ask of the line."""
        return Say(Ask("q", (1000,)), ("q",), **how)  # type: ignore[arg-type]

    def done(self, refused: str = "", ident: int = 7) -> AskDone:
        """It was carried out."""
        return AskDone(ident, BEGIN, BEGIN + MS, refused=refused)

    def piece(self, edges: Sequence[int], until: int, gap: Gap | None = None) -> Piece:
        """What is heard."""
        return Piece("q", np.array(edges, dtype=np.int64), until, gap)

    def test_what_is_its_own(self) -> None:
        """Edges long before the ask are not; they turn the level, each of them once."""
        for before in range(4):
            self.setUp()
            talk = self.talk(self.say(listen_s=0.01))
            early = [BEGIN - LEAD_NS - 10 + at for at in range(before)]
            own = [BEGIN - LEAD_NS, BEGIN + MS, BEGIN + 2 * MS]
            talk.hear([self.piece([*early, *own], BEGIN + 11 * MS)], [self.done()])
            (answer,) = self.answers
            self.assertEqual(own, answer.edges["q"].tolist())
            self.assertEqual(Level.HIGH if before % 2 == 0 else Level.LOW, answer.levels["q"])
            self.assertEqual([(BEGIN, 1)], talk.begins)
            self.assertEqual((True, "over"), (talk.over, talk.result))

    def test_when_it_is_whole(self) -> None:
        """After its time, or once the line is at rest and quiet; not while it is low."""
        end = BEGIN + MS
        for edges, until, whole in (
            ([], end + 10 * MS, True),
            ([], end + 10 * MS - 1, False),
            ([end + 1, end + 2], end + 2 + 2 * MS, True),
            ([end + 1, end + 2], end + 1 + 2 * MS, False),
            ([end + 1], end + 9 * MS, False),
            ([end - 1, end], end + 9 * MS, False),
        ):
            self.setUp()
            talk = self.talk(self.say(listen_s=0.01, quiet_s=0.002))
            talk.hear([self.piece(edges, until)], [self.done(ident=6)])
            self.assertFalse(talk.over)
            talk.hear([], [self.done()])
            self.assertEqual(whole, talk.over, (edges, until))

    def test_gaps(self) -> None:
        """What was heard before one is forgotten; a loss breaks the answer, no beginning does."""
        for why, broken in (("bytes were lost", True), ("", False)):
            self.setUp()
            talk = self.talk(*[self.say(listen_s=0.01)] * 2)
            gap = Gap(BEGIN + 5, BEGIN + 6, Level.LOW, 3, why)
            pieces = [self.piece([BEGIN + 2], BEGIN + 5), self.piece([], BEGIN + 11 * MS, gap)]
            talk.hear(pieces, [self.done()])
            talk.hear([self.piece([], BEGIN + 12 * MS)], [self.done(ident=8)])
            answer, later = self.answers
            self.assertEqual(([], Level.LOW), (answer.edges["q"].tolist(), answer.levels["q"]))
            self.assertEqual((broken, False), (answer.broken, later.broken))

    def test_given_up(self) -> None:
        """After the length of the ask and two seconds more; refused ones at once."""
        talk = self.talk(self.say())
        patience = round(PATIENCE_S * 1e9) + MS
        for late, over in ((patience, False), (patience + 1, True)):
            self.source.now_ns.return_value = BEGIN + late
            talk.tick()
            self.assertEqual(over, talk.over)
        self.assertIn("does not carry it out", self.answers[0].refused)
        talk.tick()
        self.assertEqual(("over", 1), (talk.result, len(self.answers)))
        self.setUp()
        talk = self.talk(self.say())
        talk.hear([Piece("q", NONE, BEGIN, None)], [self.done("busy")])
        self.assertEqual(("busy", []), (self.answers[0].refused, talk.begins))

    def test_in_pieces(self) -> None:
        """As few as the source needs; two steps are never parted."""
        for most, count, parts in ((1, 2, [2]), (2, 4, [2, 2]), (4, 10, [4, 2, 4])):
            self.source.fits = lambda ask, most=most: len(ask.steps_us) <= most
            found = in_pieces(Ask("q", tuple(range(1, count + 1))), self.source)
            self.assertEqual(parts, [len(row.steps_us) for row in found])
            self.assertEqual([*range(1, count + 1)], [s for row in found for s in row.steps_us])

    def test_rests(self) -> None:
        """From now on, once; then the next is asked."""
        talk = self.talk(Rest(0.5), self.say())
        for later, asked in ((BEGIN // 5, 0), (500 * MS - 1, 0), (500 * MS, 1), (501 * MS, 1)):
            self.source.now_ns.return_value = BEGIN + later
            talk.tick()
            self.assertEqual(asked, self.source.ask.call_count, later)
