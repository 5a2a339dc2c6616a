"""A conversation: asks and rests in order, each answer deciding what comes next.

It is written as a generator that yields ``Say`` and ``Rest`` and gets the ``Answer`` back, and
is moved on by whoever hears the lines.  So it knows no clock, thread or source.
"""

from collections.abc import Generator, Iterable
from dataclasses import dataclass, field
from typing import Generic, TypeVar

import numpy as np

from pivet.frozen import FrozenObject, FrozenValue
from pivet.listening.asking.floor import Floor
from pivet.signal.seconds import ns_of
from pivet.signal.trace import Int64Array, Level
from pivet.sources.ask import Ask
from pivet.sources.source import AskDone, Gap, Piece, Source

T = TypeVar("T")

LEAD_NS = 1_000_000
"""Edges so long before an ask still count to it: clocks are not the same to the µs."""

PATIENCE_S = 2.0
"""An ask that nobody carries out for so long is given up."""

NONE: Int64Array = np.empty(0, dtype=np.int64)


class Say(FrozenValue):
    """An ask, and how long to listen for its answer.

    Attributes:
        ask: what is driven.
        lines: on which the answer comes.
        listen_s: after its end the answer is waited for at most so long, s.
        quiet_s: ... or until the lines, having said something, were quiet for so long, s.
        attempt: 1 for the first, 2 for the first retry, and so on.
    """

    ask: Ask
    lines: tuple[str, ...]
    listen_s: float = 0.0
    quiet_s: float = 0.0015
    attempt: int = 1


class Rest(FrozenValue):
    """A pause, s."""

    seconds: float


class Answer(FrozenObject):
    """What was heard.

    Attributes:
        begin_ns, end_ns: of the ask, ns.
        until_ns: the lines are known up to here, ns.
        edges: by line, from the ask on, int64 (n,), ns.
        levels: the levels of each line before its edges.
        refused: why the ask was not carried out; empty when it was.
        broken: edges were lost meanwhile.
    """

    begin_ns: int
    end_ns: int
    until_ns: int
    edges: dict[str, Int64Array]
    levels: dict[str, Level]
    refused: str = ""
    broken: bool = False


Talk = Generator[Say | Rest, Answer, T]


@dataclass(slots=True)
class _Heard:
    """A line while an answer is waited for."""

    level: Level
    edges: Int64Array = field(default_factory=lambda: NONE)
    until: int = -1


class Levels:
    """At which level the lines of a source stand, and up to when that is known."""

    def __init__(self) -> None:
        self._levels: dict[str, Level] = {}
        self._until: dict[str, int] = {}

    def hear(self, pieces: Iterable[Piece]) -> None:
        """Takes pieces, before anybody else does.

        Args:
            pieces: the pieces, in order of time for each line.
        """
        for piece in pieces:
            if piece.gap is not None:
                self._levels[piece.line] = piece.gap.level
            level = self._levels.get(piece.line, Level.HIGH)
            self._levels[piece.line] = Level(level ^ (piece.edges_ns.size & 1))
            self._until[piece.line] = piece.known_until_ns

    def of(self, line: str) -> Level:
        """A line's level now; high while nobody knows.

        Args:
            line: its name.
        """
        return self._levels.get(line, Level.HIGH)

    def beginning(self, lines: Iterable[str]) -> list[Piece]:
        """Pieces with which somebody begins to hear lines that were heard before.

        Args:
            lines: names of lines.
        """
        rows = ((line, self._until[line]) for line in lines if line in self._until)
        return [
            Piece(line, NONE, until, Gap(until, until, self._levels[line], 0))
            for line, until in rows
        ]


class Conversation(Generic[T]):
    """Moves a talk on.

    Args:
        talk: the generator.
        source: the source that is asked.
        levels: the levels of its lines, kept by whoever reads the source.
        floor: shared by all who ask the source.

    Attributes:
        result: what the talk came to; None while it goes on.
        over: it is at its end.
        asking: the ask under way; None between asks.
        begins: starts of its asks that were carried out, ns, and which attempt each was.
    """

    def __init__(self, talk: Talk[T], source: Source, levels: Levels, floor: Floor) -> None:
        self._talk, self._source, self._levels, self._floor = talk, source, levels, floor
        self._wish: Say | None = None
        self.result: T | None = None
        self.over = False
        self.asking: Say | None = None
        self.begins: list[tuple[int, int]] = []
        self._parts: list[Ask] = []
        self._ident: int | None = None
        self._done: AskDone | None = None
        self._begin: int | None = None
        self._sent_ns = 0
        self._wake_ns: int | None = None
        self._heard: dict[str, _Heard] = {}
        self._broken = False

    def start(self) -> None:
        """Begins the talk.

        Raises:
            SourceError: the source cannot do what it asks for.
        """
        self._follow(None)

    def hear(self, pieces: Iterable[Piece], asked: Iterable[AskDone]) -> None:
        """Takes what a source told; moves the talk on when an answer is whole.

        Args:
            pieces: edges, in order of time.
            asked: asks that are done.

        Raises:
            SourceError: the source cannot do what the talk asks for next.
        """
        for piece in pieces:
            if piece.line in self._heard:
                self._note(self._heard[piece.line], piece)
        for done in asked:
            if done.ident == self._ident:
                self._on_done(done)
        self.tick()

    def tick(self) -> None:
        """Moves on when a rest is over, or an answer is whole or overdue."""
        now = self._source.now_ns()
        if self._wish is not None:
            self._say()
        elif self._wake_ns is not None:
            if now >= self._wake_ns:
                self._wake_ns = None
                self._follow(None)
        elif self.asking is not None and self._ident is None and self._done is not None:
            if self._done.refused or self._whole(self.asking, self._done):
                self._follow(self._answer(self._done))
        elif self._ident is not None and now - self._sent_ns > self._patience_ns():
            gone = AskDone(self._ident, now, now, refused="the probe does not carry it out")
            self._ident, self._done = None, gone
            self._follow(self._answer(gone))

    def leave(self) -> None:
        """It is given up: others may ask."""
        self._floor.leave(self)

    def _patience_ns(self) -> int:
        length_us = self.asking.ask.length_us if self.asking is not None else 0
        return ns_of(PATIENCE_S) + length_us * 1000

    def _note(self, row: _Heard, piece: Piece) -> None:
        if piece.gap is not None:
            row.level, row.edges = piece.gap.level, NONE
            self._broken |= bool(piece.gap.why)
        if piece.edges_ns.size:
            row.edges = np.concatenate((row.edges, piece.edges_ns))
        row.until = piece.known_until_ns

    def _on_done(self, done: AskDone) -> None:
        self._ident = None
        if self._begin is None:
            self._begin = done.begin_ns
            if self.asking is not None and not done.refused:
                self.begins.append((done.begin_ns, self.asking.attempt))
        if self._parts and not done.refused:
            self._send(self._parts.pop(0))
        else:
            self._done = done

    def _whole(self, say: Say, done: AskDone) -> bool:
        """Whether all lines are known for as long as the answer may take."""
        listen = done.end_ns + ns_of(say.listen_s)
        rows = list(self._heard.values())
        until = min(line.until for line in rows)
        if until >= listen:
            return True
        last = max((int(line.edges[-1]) for line in rows if line.edges.size), default=-1)
        at_rest = all(self._idle(line) for line in rows)
        return last > done.end_ns and at_rest and until >= last + ns_of(say.quiet_s)

    @staticmethod
    def _idle(row: _Heard) -> bool:
        return row.edges.size % 2 == 0

    def _answer(self, done: AskDone) -> Answer:
        assert self.asking is not None
        begin = done.begin_ns if self._begin is None else self._begin
        edges, levels = {}, {}
        for line, line_heard in self._heard.items():
            before = int(np.searchsorted(line_heard.edges, begin - LEAD_NS))
            edges[line] = line_heard.edges[before:]
            levels[line] = Level(line_heard.level ^ (before & 1))
        until = min(heard.until for heard in self._heard.values())
        return Answer(begin, done.end_ns, until, edges, levels, done.refused, self._broken)

    def _follow(self, answer: Answer | None) -> None:
        """Gives the talk its answer, and does what it wants next."""
        self.leave()
        self._heard = {}
        self.asking, self._done, self._begin, self._broken = None, None, None, False
        try:
            wish = next(self._talk) if answer is None else self._talk.send(answer)
        except StopIteration as stop:
            self.result, self.over = stop.value, True
            return
        if isinstance(wish, Rest):
            self._wake_ns = self._source.now_ns() + ns_of(wish.seconds)
            return
        self._wish = wish
        self._say()

    def _say(self) -> None:
        """Says what the talk wants to, once nobody else's answer is waited for."""
        wish = self._wish
        if wish is None or not self._floor.take(self):
            return
        self._wish, self.asking = None, wish
        self._heard = {line: _Heard(self._levels.of(line)) for line in wish.lines}
        self._parts = in_pieces(wish.ask, self._source)
        self._send(self._parts.pop(0))

    def _send(self, ask: Ask) -> None:
        self._ident = self._source.ask(ask)
        self._sent_ns = self._source.now_ns()


def in_pieces(ask: Ask, source: Source) -> list[Ask]:
    """An ask in as many pieces as its source needs; each ends with the line let go.

    Args:
        ask: steps on lines, µs.
        source: says how long an ask may be.
    """
    if source.fits(ask) or len(ask.steps_us) < 4:
        return [ask]
    middle = len(ask.steps_us) // 4 * 2
    return [
        piece
        for steps in (ask.steps_us[:middle], ask.steps_us[middle:])
        for piece in in_pieces(Ask(ask.line, steps, ask.drive), source)
    ]
