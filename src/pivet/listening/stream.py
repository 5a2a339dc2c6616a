"""A live wire: pieces of its lines become exchanges, judged as they come.

Exchanges are kept in chapters.  Two are in sight: one that is whole, and the one that grows; what
was before them is known by what it left behind.  Where a chapter ends hangs on the number of
exchanges alone, and none closes before all of it was told: so it does not matter how often, or
how late, somebody looks.
"""

import copy
from collections.abc import Iterable, Iterator

import numpy as np

from pivet.captures.wire import Wire
from pivet.decode.batches import beside_between, beside_bounded
from pivet.decode.interface import Decoder, Exchanges
from pivet.families.family import AnyFamily
from pivet.frozen import replace
from pivet.judge.chapter import CHAPTER
from pivet.listening.intake import NONE, Begins, Breaks, Goes, Intake
from pivet.listening.sight import Sight
from pivet.person.choices import NO_CHOICE, WireChoices
from pivet.signal.trace import Line
from pivet.sources.source import Gap, Piece

SETTLED_NS = 60_000_000
"""A line so long quiet says that an exchange is over which the next ask would end."""

LONG_QUIET_NS = 400_000_000
"""After so long no decoder waits for anything any more."""

AT_ONCE = 1 << 14
"""So many edges are decoded before more are heard; fewer wait until somebody looks."""

MOST_PARTS = 64
MOST_BESIDE = 1 << 16
"""Of more spikes and strays that no exchange follows, the older ones are forgotten."""

MOST_SEEN = 1 << 20
"""Edges of a line in sight after the last exchange."""

EVER = 1 << 62


class LiveWire:
    """A wire that grows.

    Args:
        family: the family of its exchanges.
        lines: names, in the order of the family.
        resolution_ns: step of the source's time stamps, ns.
        choices: what the person chose.
        settled_ns: a line so long quiet ends what stands open, ns.
        title: what the person calls it.
        chapter: exchanges of a chapter.
        before: what exchanges before these left behind.

    Attributes:
        first: number of the first exchange in sight since listening began, from 0.
        missed: stretches that are not known, since they were last taken.
        edges: how many were heard.
    """

    def __init__(
        self,
        family: AnyFamily,
        lines: tuple[str, ...],
        resolution_ns: int,
        choices: WireChoices = NO_CHOICE,
        settled_ns: int = SETTLED_NS,
        title: str = "",
        chapter: int = CHAPTER,
        before: object = None,
    ) -> None:
        self.family, self.choices, self.title = family, choices, title
        self._chapter = chapter
        self.settled_ns = settled_ns
        self.first = self.edges = 0
        self.missed: list[Gap] = []
        self._resolution_ns = resolution_ns
        self._intake = Intake(lines)
        self._sights: list[Sight] = []
        self._decoder: Decoder[Exchanges] | None = None
        self._start_ns = self._until_ns = 0
        self._before = before
        self._last = family.join([])
        self._open: list[Exchanges] = []
        self._wire: Wire | None = None
        self._state: tuple[int | None, ...] = ()
        self._decoded = self._breaks = self._seen = 0
        self._rested: tuple[int, int] | None = None
        self._open_rest: Exchanges | None = None

    @property
    def lines(self) -> tuple[str, ...]:
        """Names of its lines."""
        return self._intake.names

    @property
    def known_until_ns(self) -> int:
        """All its lines are known up to here, ns."""
        return self._until_ns

    @property
    def ended(self) -> bool:
        """Nothing stands open."""
        return self._decoder is None

    def hear(self, pieces: Iterable[Piece]) -> None:
        """Takes what was heard of its lines; pieces of other lines are left out.

        Args:
            pieces: the pieces, in order of time for each line.
        """
        for piece in pieces:
            if self._intake.hear(piece):
                self._resolution_ns = max(self._resolution_ns, piece.resolution_ns)
                self.edges += piece.edges_ns.size
        if self._intake.waiting >= AT_ONCE:
            self._catch_up()

    def end(self) -> None:
        """Nothing follows, for now: what stood open ends here."""
        self._catch_up()
        self._finish()

    def _catch_up(self) -> None:
        """Decodes what was heard."""
        for news in self._intake.news():
            if isinstance(news, Begins):
                self._begin(news)
            elif isinstance(news, Goes):
                self._go(news)
            elif isinstance(news, Breaks):
                self._finish()

    def _begin(self, news: Begins) -> None:
        if self._sights:
            for sight, level in zip(self._sights, news.levels, strict=True):
                sight.jump(news.at_ns, level)
        else:
            self._sights = [Sight(level) for level in news.levels]
            self._start_ns = news.at_ns
        if news.missed is not None:
            self.missed.append(news.missed)
        self._until_ns = news.at_ns

    def _go(self, news: Goes) -> None:
        if self._decoder is None:
            levels = tuple(sight.level for sight in self._sights)
            self._decoder = self.family.decoder(levels, self._until_ns)
        self._until_ns = news.until_ns
        fresh = sum(edges.size for edges in news.edges)
        if not fresh and self._at_rest:
            return  # the decoder waits for nothing: it need not hear that nothing came
        for sight, edges in zip(self._sights, news.edges, strict=True):
            sight.add(edges)
        self._decoded += fresh
        if fresh:
            self._open_rest = None
        self._keep(self._decoder.feed(news.edges, news.until_ns))
        self._seen += fresh
        if self._seen > MOST_SEEN:
            self._thin()

    def _thin(self) -> None:
        """Noise without exchanges is kept in sight only so far back."""
        self._seen = 0
        ends = [int(batch.end_ns[-1]) for batch in (self._last, *self._open) if len(batch)]
        for sight in self._sights:
            sight.thin(max(ends, default=self._start_ns), MOST_SEEN)

    def _finish(self) -> None:
        if self._decoder is not None:
            # While it was at rest it did not hear that nothing came.
            self._keep(self._decoder.feed((NONE,) * len(self._sights), self._until_ns))
            self._keep(self._decoder.finish())
            self._decoder = None
            self._breaks += 1

    def _keep(self, batch: Exchanges) -> None:
        """Takes exchanges that are certain, and what was found beside them."""
        if not (len(batch) or batch.spike_start_ns.size or batch.stray_start_ns.size):
            return
        self._open.append(batch)
        self._open_rest = None
        if len(self._open) > MOST_PARTS:
            # A line may be noisy for long without an exchange: memory has an end.
            self._open = [beside_bounded(self.family.join(self._open), MOST_BESIDE)]

    def _split(self, batch: Exchanges, count: int) -> tuple[Exchanges, Exchanges]:
        """The first exchanges of a batch, and the others."""
        bound = int(batch.start_ns[count]) if count < len(batch) else EVER
        ahead = self.family.rows(batch, 0, count)
        behind = self.family.rows(batch, count, len(batch))
        return beside_between(ahead, -EVER, bound), beside_between(behind, bound, EVER)

    def windows(self) -> Iterator[Wire]:
        """What is to be told, in order: each whole chapter by itself, then what is there now.

        A chapter closes when the next window is wanted, so each must be told before that.
        """
        for chapter in self._chapters():
            yield self._window(chapter, None)
        yield self._window(self._open[0], self._rest())

    def wire(self) -> Wire:
        """What is in sight now, judged; whole chapters before it are passed over."""
        for _ in self._chapters():
            pass
        return self._window(self._open[0], self._rest())

    def pass_over(self, until_ns: int) -> None:
        """Exchanges that began before a moment only led to those that follow.

        Args:
            until_ns: the moment, ns.
        """
        self._catch_up()
        every = self.family.join(self._open)
        count = int(np.searchsorted(every.start_ns, until_ns))
        self._open = [self._split(every, count)[1]]

    def _chapters(self) -> Iterator[Exchanges]:
        """Each whole chapter; it closes when the next is wanted."""
        self._catch_up()
        self._open = [self.family.join(self._open)]
        while len(self._open[0]) > self._chapter:
            chapter, behind = self._split(self._open[0], self._chapter)
            yield chapter
            self._close_chapter(chapter, behind)

    def _close_chapter(self, chapter: Exchanges, behind: Exchanges) -> None:
        """A whole chapter becomes the last; what was the last leaves the sight."""
        left = len(self._last)
        if left:
            wire = self._window(chapter, None)
            self._before = self.family.after(wire.exchanges, wire.judged, left, self._before)
        self.first += left
        self._last, self._open = chapter, [behind]
        self._start_ns = int(chapter.start_ns[0])
        for sight in self._sights:
            sight.cut(self._start_ns)

    @property
    def _at_rest(self) -> bool:
        """Nothing came since a look at a line that had long been quiet.

        Not what was heard counts but what was decoded: one line may lag behind another.
        """
        return self._rested == (self._decoded, self._breaks)

    def _rest(self) -> Exchanges | None:
        """Exchanges that stand open but are at rest; None when there are none.

        A line that has long been quiet has nothing new to say: then what was found holds.
        """
        if self._decoder is None:
            return None
        if self._at_rest:
            return self._open_rest
        last = max((sight.end_ns for sight in self._sights), default=self._start_ns)
        quiet_ns = self._until_ns - last
        if quiet_ns < self.settled_ns:
            self._open_rest = None
            return None
        if self._open_rest is not None and quiet_ns <= LONG_QUIET_NS:
            return self._open_rest  # nothing came since it was found
        rest = copy.deepcopy(self._decoder).finish()
        self._rested = (self._decoded, self._breaks) if quiet_ns > LONG_QUIET_NS else None
        self._open_rest = rest if len(rest) and not rest.ended.any() else None
        return self._open_rest

    @property
    def certain(self) -> int:
        """Number of exchanges that nothing can change any more, since listening began."""
        return self.first + len(self._last) + sum(len(batch) for batch in self._open)

    def _window(self, grows: Exchanges, rest: Exchanges | None) -> Wire:
        """The last chapter, one that grows, and what stands open, judged."""
        certain = self.first + len(self._last) + len(grows)
        until = None if rest is None else int(rest.end_ns[-1])
        state = (certain, grows.spike_start_ns.size, until)
        if self._wire is None or state != self._state:
            parts = [self._last, grows, *([] if rest is None else [rest])]
            self._state, self._wire = state, self._judged(self.family.join(parts))
        return self._wire

    def _judged(self, exchanges: Exchanges) -> Wire:
        names = self._intake.names
        if self._sights:
            lines = tuple(sight.line(name) for sight, name in zip(self._sights, names, strict=True))
        else:
            lines = tuple(Line(name, self._intake.level(name), NONE) for name in names)
        judged = self.family.judge(
            exchanges, len(lines), self._resolution_ns, self.choices, self._before
        )
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

    def choose(self, choices: WireChoices) -> Wire | None:
        """Judges what is in sight anew; gives what was shown last, judged so.

        Args:
            choices: what the person wants of the wire.
        """
        self.choices, shown = choices, self._wire
        if shown is not None:
            judged = self.family.judge(
                shown.exchanges, len(shown.lines), shown.resolution_ns, choices, self._before
            )
            shown = replace(shown, judged=judged, choices=choices)
        self._wire = shown
        return shown
