"""Finding out what is on wires of which nobody knows: one after the other, so none disturbs."""

from collections.abc import Iterator

from pivet.errors import PivetError
from pivet.listening.asking.conversation import Conversation, Levels
from pivet.listening.asking.explore import Found, explore
from pivet.listening.asking.floor import Floor
from pivet.listening.events import Event, Known, Note
from pivet.listening.heard_wire import HeardWire
from pivet.signal.seconds import ns_of
from pivet.sources.source import About, Batch, Source, SourceLost

LISTEN_FIRST_S = 3.0
"""Before a line is asked what is on it: somebody else may be asking there already."""


class Exploring:
    """Who waits to be found out, and who is.

    Args:
        source: where the lines are.
        levels: the levels of its lines.
        floor: shared by all who ask the source.
    """

    def __init__(self, source: Source, levels: Levels, floor: Floor) -> None:
        self._source, self._levels, self._floor = source, levels, floor
        self._waiting: list[HeardWire] = []
        self._under_way: tuple[HeardWire, Conversation[Found]] | None = None

    def add(self, wire: HeardWire) -> None:
        """A wire waits to be found out, unless it does already.

        Args:
            wire: of which nobody knows what it carries.
        """
        if wire not in self._waiting:
            self._waiting.append(wire)

    def forget(self, wire: HeardWire) -> None:
        """Nobody wants to know any more what is on a wire.

        Args:
            wire: that waits, or is being found out.
        """
        self._waiting = [other for other in self._waiting if other is not wire]
        if self._under_way is not None and self._under_way[0] is wire:
            self._leave()

    def lose(self) -> None:
        """The source is gone: who was being found out waits again."""
        row = self._leave()
        if row is not None:
            self.add(row)

    def _leave(self) -> HeardWire | None:
        """Who is being found out is given up; gives it."""
        if self._under_way is None:
            return None
        (row, talk), self._under_way = self._under_way, None
        talk.leave()
        row.give_up()
        return row

    def hear(self, batch: Batch) -> Iterator[tuple[HeardWire, Event]]:
        """Goes on with what the source told; whose search is over, with what came of it.

        Args:
            batch: what the source told.

        Raises:
            SourceLost: the source is gone.
        """
        if self._under_way is None:
            return
        row, talk = self._under_way
        try:
            talk.hear(batch.pieces, batch.asked)
        except SourceLost:
            raise
        except PivetError as error:
            self._leave()
            yield row, Note(str(error), row.name)
            return
        if talk.over and talk.result is not None:
            self._under_way = None
            row.found(talk.result, self._source.now_ns())
            yield row, Known(row.name, talk.result)

    def begin(self, about: About) -> Iterator[tuple[HeardWire, Event]]:
        """Begins with the next that was listened to for long enough, when none is under way.

        Args:
            about: the source.

        Raises:
            SourceLost: the source is gone.
        """
        now = self._source.now_ns()
        while self._waiting and self._under_way is None:
            if now - self._waiting[0].since_ns <= ns_of(LISTEN_FIRST_S):
                return
            wire = self._waiting.pop(0)
            if wire.live is None and not wire.resting:
                yield from self._explore(wire, about)

    def _explore(self, row: HeardWire, about: About) -> Iterator[tuple[HeardWire, Event]]:
        line = about.line(row.setup.lines[0])
        asks = explore(line, about.resolution_of([line.name]), row.setup.lines[1:])
        talk = Conversation(asks, self._source, self._levels, self._floor)
        try:
            talk.start()
        except SourceLost:
            raise
        except PivetError as error:
            yield row, Note(str(error), row.name)
            return
        row.explore()
        self._under_way = row, talk
