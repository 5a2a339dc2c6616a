"""Listening to the wires of a source: it opens, asks, hears, tells, and comes back by itself.

The listener belongs to one thread; ``step`` is called again and again and gives events.
"""

import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import suppress
from pathlib import Path

from pivet.captures.capture import capture_of
from pivet.errors import Cancelled, InputError
from pivet.frozen import replace
from pivet.listening.air import renew_air
from pivet.listening.asking.conversation import Levels
from pivet.listening.asking.floor import Floor
from pivet.listening.calendar import Calendar
from pivet.listening.events import Away, Edges, Ended, Event, Note, Opened, Total
from pivet.listening.exploring import Exploring
from pivet.listening.heard_wire import HeardWire
from pivet.listening.setup import WireSetup, refuse_doubles, refuse_hurry
from pivet.listening.states import SOURCE, Machine, SourceMove, SourceState
from pivet.progress import Progress, silent
from pivet.sheets.load import find_sheet
from pivet.signal.seconds import ns_of
from pivet.sources.source import About, Batch, Source, SourceEnded, SourceError, SourceLost

RETRY_S = 1.0
APART_S = 0.21
MOST_APART = 9
"""Wires that begin together are asked so far apart, so that answers do not wait for each other."""

LOOK_S = 0.01
LOOK_SHARE = 0.3
LOOK_BURST_S = 0.15
"""New exchanges are looked for so often, unless that takes more than this share of the time; a
short burst may take more."""

LEAST_S = 0.0005
"""The source is waited for at least so long, so that nothing turns in a circle."""


class Listener:
    """Listens to some wires of one source.

    Args:
        source: not yet open.
        wanted: the wires, once it is known what the source is.
        clock: monotonic seconds.
        sleep: waits, s.
        calendar: ns since 1970.
        between: called between two pieces of work; may wait a little, and raise ``Cancelled`` when
            listening is to end: then a capture of many lines is searched no longer.
        waiting: called before it waits for the source.

    Attributes:
        about: what the source is; None before it was opened.
        wires: the wires that are listened to.
        over: the source has given all it has.
        calendar: beside the source's clock.
    """

    def __init__(
        self,
        source: Source,
        wanted: Callable[[About], Sequence[WireSetup]],
        clock: Callable[[], float] = time.monotonic,
        sleep: Callable[[float], None] = time.sleep,
        calendar: Callable[[], int] = time.time_ns,
        between: Progress = silent,
        waiting: Callable[[], object] = lambda: None,
    ) -> None:
        self.source, self._wanted, self._clock = source, wanted, clock
        self._waiting = waiting
        self._sleep, self.calendar, self._between = sleep, Calendar(calendar), between
        self.about: About | None = None
        self._levels, self._floor = Levels(), Floor()
        self._exploring = Exploring(source, self._levels, self._floor)
        self.wires: list[HeardWire] = []
        self._asked_at: dict[str, int] = {}
        self._state = Machine(SOURCE, SourceState.NEW)
        self._takes_all = False
        self._retry_at = 0.0
        self._says = ""
        self._look_at = self._looked_at = self._debt = 0.0
        self._fresh = False
        self._begun = 0
        self._guests: list[HeardWire] = []

    def open(self) -> Opened:
        """Opens the source for the first time; wrong wishes are refused here.

        Raises:
            SourceError: it cannot be opened, or has no such line.
            InputError: an interval is too short.
        """
        about = self.source.open()
        setups = [self._named(about, setup) for setup in self._wanted(about)]
        refuse_doubles(setups)
        for setup in setups:
            if setup.sheet is not None and setup.every_s:
                refuse_hurry(setup.sheet, setup.every_s)
        self.about = about
        self._state.move(SourceMove.OPEN)
        self._takes_all = self.source.grows and not setups
        self.wires = [self._listened(setup, about) for setup in setups]
        self._pull_up(self.wires)
        self.source.listen(self._lines())
        for wire in self.wires:
            self._begin(wire)
        self.calendar.look(self.source, opened=True)
        return Opened(about, again=False)

    def _named(self, about: About, setup: WireSetup) -> WireSetup:
        """A wish with the whole names of its lines, and what the source knows to hang there."""
        if self.source.grows:
            return setup
        setup = replace(setup, lines=about.wire_lines(setup.lines))
        known = about.line(setup.lines[0]).sheet
        if setup.sheet is None and known:
            setup = replace(setup, sheet=find_sheet(known))
        return setup

    def _listened(self, setup: WireSetup, about: About) -> HeardWire:
        step = about.resolution_of(setup.lines)
        return HeardWire(setup, self.source, step, self._levels, self._asked_at, self._floor)

    def _pull_up(self, wires: Iterable[HeardWire]) -> None:
        """Switches the source's own pull-ups as the person wants them.

        Raises:
            SourceError: a line has none.
        """
        for setup in [wire.setup for wire in wires if wire.setup.pull_up is not None]:
            self.source.pull_up(setup.lines[0], bool(setup.pull_up))

    def _lines(self) -> list[str]:
        return list(
            dict.fromkeys(
                line
                for other in (*self.wires, *self._guests)
                if not other.resting
                for line in other.setup.lines
            )
        )

    def _begin(self, wire: HeardWire) -> None:
        """A wire is listened to from now on, and asked what is on it if nobody knows."""
        wire.since_ns = self.source.now_ns()
        wire.ask_from(wire.since_ns + ns_of(APART_S) * (self._begun % MOST_APART))
        self._begun += 1
        asked = wire.live is None and wire.setup.every_s is not None
        if asked and self.source.can_ask:
            self._exploring.add(wire)

    @property
    def here(self) -> bool:
        """The source is there."""
        return self._state.state is SourceState.HERE

    @property
    def over(self) -> bool:
        """The source has given all it has, or nobody listens to it any more."""
        return self._state.state in (SourceState.OVER, SourceState.TOLD)

    def wire(self, name: str) -> HeardWire:
        """A wire by name.

        Args:
            name: the name of the wire.

        Raises:
            InputError: there is none.
        """
        found = next((wire for wire in self.wires if wire.name == name), None)
        if found is None:
            raise InputError(f"no wire is called {name!r}", "choose one of those that are there")
        return found

    def _need_here(self) -> About:
        if self.about is None or not self.here:
            raise SourceError("the source is not there now", "wait until it is back")
        return self.about

    def add(self, setup: WireSetup) -> None:
        """Listens to one wire more.

        Args:
            setup: its lines, its sensor and how it is asked.

        Raises:
            InputError: its name is taken, or its interval too short.
            SourceError: there is no such line, or it is gone.
        """
        about = self._need_here()
        setup = self._named(about, setup)
        refuse_doubles([*(wire.setup for wire in self.wires if not wire.resting), setup])
        if any(wire.name == setup.name for wire in self.wires):
            raise InputError(f"a wire is called {setup.name!r} already", "give another name")
        if setup.sheet is not None and setup.every_s:
            refuse_hurry(setup.sheet, setup.every_s)
        self.wires.append(self._listened(setup, about))
        try:
            self._pull_up(self.wires[-1:])
            self.source.listen(self._lines())
        except SourceError:
            self.wires.pop()
            raise
        self._begin(self.wires[-1])

    def look(self, setup: WireSetup) -> None:
        """Finds out what is on lines that are no wire; ``Known`` tells it, under this name.

        Args:
            setup: its lines, its sensor and how it is asked.

        Raises:
            SourceError: there is no such line, or the source is gone.
        """
        about = self._need_here()
        guest = self._listened(self._named(about, setup), about)
        self._pull_up([guest])
        self._guests.append(guest)
        self.source.listen(self._lines())
        self._begin(guest)

    def _dismiss(self, guest: HeardWire) -> None:
        self._guests.remove(guest)
        self._exploring.forget(guest)
        self.source.listen(self._lines())

    def rest(self, name: str, resting: bool) -> None:
        """Does not listen to a wire for now, or listens to it again.

        Args:
            name: the name of the wire.
            resting: False to listen again.

        Raises:
            InputError: there is no such wire.
            SourceError: the source is gone.
        """
        wire = self.wire(name)
        if wire.resting == resting:
            return
        if not resting:
            refuse_doubles(
                [other.setup for other in self.wires if not other.resting or other is wire]
            )
        wire.resting = resting
        wire.stop_asking()
        self._exploring.forget(wire)  # nobody hears its line: no answer would ever come
        if self.here:
            self.source.listen(self._lines())
        if not resting:
            self._begin(wire)

    def change(self, name: str, every_s: float | None, retries: int) -> None:
        """A wire is asked so often from now on, with this many retries; see ``WireSetup``.

        Args:
            name: the name of the wire.
            every_s: how often it is asked, s; None only listens.
            retries: how many further tries when nothing usable comes.

        Raises:
            InputError: there is no such wire, or the interval is too short.
        """
        wire = self.wire(name)
        if wire.sheet is not None and every_s:
            refuse_hurry(wire.sheet, every_s)
        wire.setup = replace(wire.setup, every_s=every_s, retries=retries)
        wire.ask_now()
        if every_s is None:
            self._exploring.forget(wire)
        if wire.live is None:
            self._begin(wire)

    def step(self, timeout_s: float) -> Iterator[Event]:
        """Does what is to be done now; waits for news at most so long, s.

        Args:
            timeout_s: the longest wait, s.
        """
        if not self.here:
            yield from self._come_back(timeout_s)
            return
        self.calendar.look(self.source)
        if self._fresh:
            timeout_s = min(timeout_s, max(self._look_at - self._clock(), LEAST_S))
        try:
            self._waiting()
            batch = self.source.read(timeout_s)
            self._give_way()
            self._fresh |= not batch.empty
            yield from self._hear(batch)
            yield from self._ask()
        except SourceEnded:
            self._state.move(SourceMove.END)
            yield from self._end()
            yield Ended()
            return
        except SourceLost as error:
            yield from self._tell()
            yield self._lose(error)
            return
        began = self._clock()
        if began >= self._look_at:
            self._fresh = False
            yield from self._tell()
            self._pause(began, self._clock())

    def _give_way(self) -> None:
        with suppress(Cancelled):
            self._between(0.0)

    def _end(self) -> Iterator[Event]:
        """Nothing follows: what stands open ends here."""
        for wire in self.wires:
            self._give_way()
            yield from wire.end()
        yield from self._tell()

    def finish(self) -> Iterator[Event]:
        """Listening ends: what stands open is told, and how it went; once."""
        if not self._state.may(SourceMove.TELL):
            return
        ended = self.over
        self._state.move(SourceMove.TELL)
        if not ended:
            yield from self._end()
        for wire in self.wires:
            counts = wire.counts
            yield Total(wire.name, counts.exchanges, counts.retries, tuple(counts.by_verdict))

    def _pause(self, began: float, ended: float) -> None:
        """Sets when to look again: what looking took is paid back by not looking."""
        paid = LOOK_SHARE * (began - self._looked_at)
        self._debt = max(self._debt - paid, 0.0) + (ended - began)
        self._looked_at = began
        self._look_at = ended + LOOK_S + max(self._debt - LOOK_BURST_S, 0.0) / LOOK_SHARE

    def _hear(self, batch: Batch) -> Iterator[Event]:
        for note in batch.notes:
            yield Note(note)
        if self._takes_all:
            self._meet(batch)
        if batch.pieces:
            yield Edges(batch.pieces)
        self._levels.hear(batch.pieces)
        for wire in self.wires:
            self._give_way()
            if not wire.resting:
                yield from wire.hear(batch.pieces, batch.asked)
        for guest in self._guests:
            yield from guest.hear(batch.pieces, batch.asked)
        yield from self._found_out(self._exploring.hear(batch))
        for found in [guest for guest in self._guests if guest.live is not None]:
            self._dismiss(found)
        if batch.capture is not None:
            yield from self._end()

    def _meet(self, batch: Batch) -> None:
        """Wires of which nobody knew before, in a capture that is all there."""
        assert self.about is not None
        if batch.capture is None:
            return
        pieces = {piece.line for piece in batch.pieces}
        path = Path(self.source.name)
        try:
            found = capture_of(path, batch.capture, progress=self._between).wires
        except Cancelled:
            return
        for wire in found:
            lines = tuple(line.name for line in wire.lines)
            known = [other for other in self.wires if set(other.setup.lines) & set(lines)]
            alike = [other for other in known if other.carries == (wire.family, lines)]
            if not alike and pieces.issuperset(lines):
                name = wire.name if not known else f"{wire.name}, {wire.family.key}"
                made = self._listened(WireSetup(name, lines), self.about)
                made.carry(wire.family)
                self.wires.append(made)
            for other in known:
                other.resting = other not in alike

    def _found_out(self, told: Iterable[tuple[HeardWire, Event]]) -> Iterator[Event]:
        """What came of finding out; guests are dismissed then, whatever it was."""
        for row, event in told:
            yield event
            if row in self._guests and row.live is None:
                self._dismiss(row)

    def _ask(self) -> Iterator[Event]:
        if self.about is not None:
            yield from self._found_out(self._exploring.begin(self.about))
        for wire in self.wires:
            yield from wire.ask_if_due()

    def _tell(self) -> Iterator[Event]:
        for wire in self.wires:
            self._give_way()
            for event in wire.tell():
                yield event
                self._give_way()
        renew_air(self.wires)

    def _lose(self, error: SourceError) -> Event:
        """The source is gone: it is looked for from now on."""
        self.source.close()
        self._state.move(SourceMove.LOSE)
        self._retry_at = self._clock() + RETRY_S
        for wire in self.wires:
            wire.stop_asking()
        self._exploring.lose()
        self._says = str(error)
        return Away(self._says)

    def _come_back(self, timeout_s: float) -> Iterator[Event]:
        wait = self._retry_at - self._clock()
        self._waiting()
        if wait > 0:
            self._sleep(min(max(wait, LEAST_S), timeout_s))
            return
        try:
            about = self.source.open()
            self._pull_up(self.wires)
            self.source.listen(self._lines())
        except SourceError as error:
            self._retry_at = self._clock() + RETRY_S
            if str(error) != self._says:
                self._says = str(error)
                yield Away(self._says)
            return
        self.about = about
        self._state.move(SourceMove.OPEN)
        yield Opened(about, again=True)

    def close(self) -> None:
        """Lets the source go."""
        self.source.close()
