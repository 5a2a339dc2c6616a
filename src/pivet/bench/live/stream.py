"""A live wire: pieces of its lines become exchanges, judged as they come.

Exchanges are kept in chapters of ``CHAPTER``.  Each is judged together with the chapter before
it: that is all that its verdict rests on, so the same chapters give the same verdicts when they
are read back from a file.
"""

import copy
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from pivet.bench.choices import NO_CHOICE, Choices
from pivet.bench.family import AnyFamily
from pivet.bench.live.chapter import CHAPTER
from pivet.bench.wire import Wire
from pivet.signal.trace import Int64Array, Level, Line
from pivet.sources.source import Gap, Piece

SETTLED_NS = 60_000_000
"""A line so long quiet says that an exchange is over which the next ask would end."""

LONG_QUIET_NS = 400_000_000
"""After so long no decoder waits for anything any more."""

AT_ONCE = 1 << 14
"""So many edges are decoded at once; fewer wait until somebody looks."""

NONE: Int64Array = np.empty(0, dtype=np.int64)


@dataclass(slots=True)
class _Feed:
    """One line on its way into the decoder.

    Attributes:
        name: of the line.
        level: before the first edge that the decoder has not got.
        size: number of edges that it has not got.
        since: the line is known from here, ns.
        until: the line is known up to here, ns; None while it is not known at all.
    """

    name: str
    level: Level = Level.HIGH
    since: int = 0
    until: int | None = None
    size: int = 0
    _parts: list[Int64Array] = field(default_factory=list)

    def add(self, piece: Piece) -> None:
        """Takes a piece without a gap."""
        if piece.edges_ns.size:
            self._parts.append(piece.edges_ns)
            self.size += piece.edges_ns.size
        self.until = piece.known_until_ns

    def take(self, until_ns: int) -> Int64Array:
        """Gives the edges up to a moment."""
        if not self._parts:
            return NONE
        pending = np.concatenate(self._parts) if len(self._parts) > 1 else self._parts[0]
        count = int(np.searchsorted(pending, until_ns, side="right"))
        self._parts = [pending[count:]] if count < pending.size else []
        self.size = pending.size - count
        self.level = Level(self.level ^ (count & 1))
        return pending[:count]


@dataclass(slots=True)
class _Shown:
    """The edges of a line that stand in the window, as a line that alternates.

    Attributes:
        initial: level before the first edge.
        parts: the edges.
        level: behind the last.
    """

    initial: Level
    parts: list[Int64Array]
    level: Level

    def add(self, edges: Int64Array) -> None:
        """Further edges."""
        if edges.size:
            self.parts.append(edges)
            self.level = Level(self.level ^ (edges.size & 1))

    def jump(self, at_ns: int, level: Level) -> None:
        """After a gap the line stands at a level; the edge to it was not seen."""
        if level is not self.level:
            self.add(np.array([at_ns], dtype=np.int64))

    @property
    def end_ns(self) -> int:
        """The last edge, ns; 0 before there is one."""
        return int(self.parts[-1][-1]) if self.parts and self.parts[-1].size else 0

    def cut(self, before_ns: int) -> None:
        """Forgets edges before a moment."""
        edges = np.concatenate(self.parts) if self.parts else NONE
        count = int(np.searchsorted(edges, before_ns))
        self.initial = Level(self.initial ^ (count & 1))
        self.parts = [edges[count:].copy()]

    def line(self, name: str) -> Line:
        """What stands in the window."""
        edges = np.concatenate(self.parts) if self.parts else NONE
        self.parts = [edges]
        return Line(name, self.initial, edges)


class LiveWire:
    """A wire that grows.

    Args:
        family: of its exchanges.
        lines: names, in the order of the family.
        resolution_ns: step of the source's time stamps, ns.
        choices: of the person.
        settled_ns: a line so long quiet ends what stands open, ns.
        title: what the person calls it.
        chapter: exchanges of a chapter.

    Attributes:
        first: number of the window's first exchange since listening began, from 0.
        gaps: stretches in the window that are not known.
        lost: edges that were lost, as far as anybody knows.
        losses: how often some were lost.
    """

    def __init__(
        self,
        family: AnyFamily,
        lines: tuple[str, ...],
        resolution_ns: int,
        choices: Choices = NO_CHOICE,
        settled_ns: int = SETTLED_NS,
        title: str = "",
        chapter: int = CHAPTER,
    ) -> None:
        self.family, self.choices, self.title = family, choices, title
        self._chapter = chapter
        self.settled_ns = settled_ns
        self.first = 0
        self.gaps: list[Gap] = []
        self.lost = self.losses = self.edges = 0
        self._decoded = 0
        self._resolution_ns = resolution_ns
        self._feeds = [_Feed(name) for name in lines]
        self._shown: list[_Shown] = []
        self._decoder: Any = None
        self._start_ns = self._until_ns = 0
        self._last = family.join([])
        self._open: list[Any] = []
        self._certain: Any = None
        self._wire: Wire | None = None
        self._state = (0, 0)
        self._rested: tuple[int, int] | None = None
        self._open_rest: Any = None

    @property
    def lines(self) -> tuple[str, ...]:
        """Names of its lines."""
        return tuple(row.name for row in self._feeds)

    @property
    def known_until_ns(self) -> int:
        """All its lines are known up to here, ns."""
        return self._until_ns

    def hear(self, pieces: Iterable[Piece]) -> None:
        """Takes what was heard of its lines; pieces of other lines are left out."""
        for piece in pieces:
            feed = next((row for row in self._feeds if row.name == piece.line), None)
            if feed is None:
                continue
            self._resolution_ns = max(self._resolution_ns, piece.resolution_ns)
            if piece.gap is not None:
                self._break(feed, piece.gap)
            feed.add(piece)
            self.edges += piece.edges_ns.size
        if any(row.size >= AT_ONCE for row in self._feeds):
            self._catch_up()

    def end(self) -> None:
        """Nothing follows: what stood open ends here."""
        self._catch_up()
        if self._decoder is not None:
            self._keep(self._decoder.finish())
            self._decoder = None

    def _catch_up(self) -> None:
        """Decodes what was heard."""
        if all(row.until is not None for row in self._feeds):
            self._decode()

    def _break(self, feed: _Feed, gap: Gap) -> None:
        """A line was not known for a while: what stood open ends before, all begins anew."""
        if feed.until is not None:
            feed.until = max(min(feed.until, gap.start_ns), self._until_ns)
        self._catch_up()
        if self._decoder is not None:
            self._keep(self._decoder.finish())
            self._decoder = None
        if gap.why:
            self.gaps.append(gap)
            self.losses += 1
            self.lost += gap.lost or 0
        feed.take(gap.end_ns)
        feed.level, feed.since, feed.until = gap.level, gap.end_ns, gap.end_ns

    def _decode(self) -> None:
        until = min(row.until for row in self._feeds if row.until is not None)
        if self._decoder is None and until >= max(row.since for row in self._feeds):
            self._begin()
        if self._decoder is None or until < self._until_ns:
            return
        taken = tuple(row.take(until) for row in self._feeds)
        for shown, edges in zip(self._shown, taken, strict=True):
            shown.add(edges)
        self._until_ns = until
        self._decoded += sum(edges.size for edges in taken)
        self._keep(self._decoder.feed(taken, until))

    def _begin(self) -> None:
        start = max([self._until_ns, *(row.since for row in self._feeds)])
        for row in self._feeds:
            row.take(start)
        levels = tuple(row.level for row in self._feeds)
        if self._shown:
            for shown, level in zip(self._shown, levels, strict=True):
                shown.jump(start, level)
        else:
            self._shown = [_Shown(level, [], level) for level in levels]
            self._start_ns = start
        self._until_ns = start
        self._decoder, self._rested = self.family.decoder(levels, start), None

    def _keep(self, batch: Any) -> None:
        """Takes exchanges that are certain; closes chapters."""
        if not len(batch):
            return
        if sum(len(row) for row in self._open) >= self._chapter:
            self._close_chapter()
        self._open.append(batch)
        self._certain = None

    def _close_chapter(self) -> None:
        """What is open becomes the last chapter; what was the last leaves the window."""
        self.first += len(self._last)
        self._last, self._open = self.family.join(self._open), []
        self._start_ns = int(self._last.start_ns[0])
        for shown in self._shown:
            shown.cut(self._start_ns)
        self.gaps = [gap for gap in self.gaps if gap.end_ns >= self._start_ns]

    def _rest(self) -> Any:
        """Exchanges that stand open but are at rest; None when there are none.

        A line that has long been quiet has nothing new to say: then what was found holds.
        """
        if self._decoder is None:
            return None
        # Not what was heard counts but what was decoded: one line may lag behind another.
        seen = (self._decoded, self.losses)
        if seen == self._rested:
            return self._open_rest
        rest = copy.deepcopy(self._decoder).finish()
        last = max((int(row.end_ns) for row in self._shown), default=self._start_ns)
        self._rested = seen if self._until_ns - last > LONG_QUIET_NS else None
        over = len(rest) > 0 and not rest.ended.any()
        over = over and self._until_ns - int(rest.end_ns[-1]) >= self.settled_ns
        self._open_rest = rest if over else None
        return self._open_rest

    @property
    def certain(self) -> int:
        """Number of exchanges that nothing can change any more, since listening began."""
        return self.first + len(self._last) + sum(len(row) for row in self._open)

    def wire(self) -> Wire:
        """What stands in the window, judged: what is certain, and what is open but at rest."""
        self._catch_up()
        rest = self._rest()
        state = (self.certain, 0 if rest is None else int(rest.end_ns[-1]))
        if self._wire is not None and state == self._state:
            return self._wire
        if self._certain is None:
            self._certain = self.family.join([self._last, *self._open])
        exchanges = self._certain if rest is None else self.family.join([self._certain, rest])
        self._state, self._wire = state, self._judged(exchanges)
        return self._wire

    def _judged(self, exchanges: Any) -> Wire:
        if self._shown:
            pairs = zip(self._shown, self._feeds, strict=True)
            lines = tuple(shown.line(row.name) for shown, row in pairs)
        else:
            lines = tuple(Line(row.name, row.level, NONE) for row in self._feeds)
        judged = self.family.judge(exchanges, len(lines), self._resolution_ns, self.choices)
        return Wire(
            lines,
            self._resolution_ns,
            self._start_ns,
            self._until_ns,
            self.family,
            exchanges,
            judged,
            self.choices,
            self.first,
            self.title,
        )

    def choose(self, choices: Choices) -> None:
        """Judges the window anew."""
        self.choices, self._wire = choices, None
