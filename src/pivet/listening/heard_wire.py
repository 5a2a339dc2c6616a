"""A wire that is listened to: finding out what it is, asking it, telling its exchanges."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np

from pivet.captures.last_readings import why_none
from pivet.captures.wire import Wire
from pivet.errors import PivetError
from pivet.families import family_of
from pivet.families.family import AnyFamily
from pivet.frozen import replace
from pivet.judge.notices import first_named
from pivet.listening.asking.conversation import Conversation, Levels, Talk
from pivet.listening.asking.explore import Found
from pivet.listening.asking.floor import Floor
from pivet.listening.asking.onewire import Bus, bus_round
from pivet.listening.asking.single import Single
from pivet.listening.attempts import Attempts
from pivet.listening.events import Back, Event, Heard, Known, Missed, Note, Silent, Withdrawn
from pivet.listening.setup import WireSetup, least_interval_s, usual_interval_s
from pivet.listening.states import WIRE, Machine, WireMove, WireState
from pivet.listening.stream import SETTLED_NS, LiveWire
from pivet.listening.told_so_far import ToldSoFar
from pivet.listening.unknown import Unknown
from pivet.person.choices import WireChoices
from pivet.sheets.model import Sheet
from pivet.sheets.onewire import is_thermometer
from pivet.signal.seconds import ns_of
from pivet.signal.trace import Level
from pivet.sources.source import AskDone, Piece, Source

AT_REST_NS = 2_000_000
"""When nobody but us asks, a line so long quiet says that an exchange is over."""

FAILED_TWICE = 2
"""A sensor that failed so often in a row is said to be silent."""

HOST_SLOWER = 1.01
"""The probe's clock may be slow: asks come a little later than the sheet allows."""


@dataclass(slots=True)
class Counts:
    """What became of a wire's asks and exchanges."""

    exchanges: int = 0
    retries: int = 0
    by_verdict: list[int] = field(default_factory=lambda: [0, 0, 0, 0])


class HeardWire:
    """One wire while it is listened to.

    Args:
        setup: what the person wants.
        source: where its lines are.
        resolution_ns: step of the source's time stamps, ns.
        levels: the levels of the source's lines.
        asked_at: when each line was last asked, by whichever wire, ns.
        floor: shared by all wires of the source.

    Attributes:
        live: its exchanges; None until it is known what it carries.
        counts: the counts of its exchanges.
        resting: it is not listened to for now; what was heard stays.
        asks: how many rounds of asks were begun on it.
        silent: by code of the device (empty for others), who gives no reading any more.
        since_ns: it is listened to from here on, ns.
    """

    def __init__(
        self,
        setup: WireSetup,
        source: Source,
        resolution_ns: int,
        levels: Levels,
        asked_at: dict[str, int],
        floor: Floor,
    ) -> None:
        self.setup, self._levels, self._asked_at = setup, levels, asked_at
        self._floor = floor
        self.live: LiveWire | None = None
        self.counts = Counts()
        self.resting = False
        self._state = Machine(WIRE, WireState.UNKNOWN)
        self.asks = self.since_ns = 0
        self.silent: dict[str, Silent] = {}
        self._source, self._resolution_ns = source, resolution_ns
        self._unknown = Unknown(setup.lines, resolution_ns)
        self._talk: Conversation[None] | None = None
        self._bus = Bus()
        self._due_ns: int | None = None
        self._attempts = Attempts()
        self._told = ToldSoFar()
        self._failed: dict[str, int] = {}
        if setup.sheet is not None:
            self._know(setup.sheet)

    @property
    def name(self) -> str:
        """Annotations by the person."""
        return self.setup.name

    @property
    def sheet(self) -> Sheet | None:
        """Its sensor type, as far as it is known."""
        return self.setup.sheet

    def _know(self, sheet: Sheet) -> None:
        choices = replace(self.setup.choices, sheet=sheet)
        live = self._begin(family_of(sheet), choices)
        live.hear(self._levels.beginning(self.setup.lines))

    def carry(self, family: AnyFamily) -> None:
        """It is known what the wire carries; its sensor is still to be recognised.

        Args:
            family: what it carries.
        """
        self._begin(family, self.setup.choices)

    @property
    def carries(self) -> tuple[AnyFamily | None, tuple[str, ...]]:
        """Of which family its exchanges are, and on which lines."""
        return None if self.live is None else self.live.family, self.setup.lines

    def _begin(self, family: AnyFamily, choices: WireChoices) -> LiveWire:
        """Its exchanges are decoded from now on."""
        lines, step = self.setup.lines, self._resolution_ns
        self._state.move(WireMove.KNOW)
        self.live = LiveWire(family, lines, step, choices, title=self.name)
        return self.live

    @property
    def exploring(self) -> bool:
        """Asks go over the line to find out what it is."""
        return self._state.state is WireState.EXPLORED

    def explore(self) -> None:
        """Asks go over the line from now on, to find out what it is."""
        self._state.move(WireMove.EXPLORE)

    def give_up(self) -> None:
        """They do not any more, and nobody knows what it is."""
        if self.exploring:
            self._state.move(WireMove.GIVE_UP)

    def found(self, found: Found, now_ns: int) -> None:
        """What is on the wire was found out by asking.

        Args:
            found: sheet and devices.
            now_ns: time of the source.
        """
        if found.sheet is None or self.live is not None:
            self.give_up()
            return
        self.setup = replace(self.setup, sheet=found.sheet, lines=found.lines)
        self._know(found.sheet)
        # Who answered a moment ago is read from now on, and missed when it is gone.
        self._bus.codes = [code for code in found.codes if is_thermometer(code & 0xFF)]
        self._bus.rounds = 1
        self._note_ask(now_ns)
        self._due_ns = now_ns + ns_of(least_interval_s(found.sheet))

    def hear(self, pieces: Sequence[Piece], asked: Sequence[AskDone]) -> Iterator[Event]:
        """Takes what the source told.

        Args:
            pieces: edges, in order of time.
            asked: asks that are done.
        """
        if self.live is not None:
            self.live.hear(pieces)
        else:
            yield from self._recognise(pieces)
        if self._talk is not None:
            yield from self._go_on(pieces, asked)

    def _recognise(self, pieces: Sequence[Piece]) -> Iterator[Event]:
        """What others ask on the line shows what it is; then it is left to them."""
        if self.exploring:
            return
        wire = self._unknown.hear(pieces)
        if wire is not None:
            yield from self._leave_to_others(wire)

    def _leave_to_others(self, wire: Wire) -> Iterator[Event]:
        self.setup = replace(self.setup, every_s=None)
        self._begin(wire.family, self.setup.choices).hear(self._unknown.pieces)
        says = f"A {wire.sheet.name} is asked here by somebody else; Pivet only listens."
        yield Known(self.name, Found(says, wire.sheet, self.setup.lines))

    def end(self) -> Iterator[Event]:
        """The source has given all it has."""
        if self.live is None:
            wire = self._unknown.look()
            if wire is not None:
                yield from self._leave_to_others(wire)
        if self.live is not None:
            self.live.end()

    def _tell_missed(self, live: LiveWire) -> Iterator[Event]:
        """A stretch that is not known is told once for the wire, whatever its lines lost."""
        missed, live.missed = live.missed, []
        for gap in missed:
            yield Missed(self.name, gap)

    def _go_on(self, pieces: Sequence[Piece], asked: Sequence[AskDone]) -> Iterator[Event]:
        assert self._talk is not None
        try:
            self._talk.hear(pieces, asked)
        except PivetError as error:
            self.stop_asking()
            yield Note(str(error), self.name)
            return
        self._attempts.add(self._talk.begins)
        # A round of 1-Wire is many asks, and its interval is from round to round.
        if self.sheet is not None and not family_of(self.sheet).has_devices:
            for begin_ns, _ in self._talk.begins:
                self._note_ask(begin_ns)
        self._talk.begins.clear()
        if self._talk.over:
            self.stop_asking()

    def _note_ask(self, t_ns: int) -> None:
        """The interval is kept for each line, also when another wire has it later."""
        for name in self.setup.lines:
            self._asked_at[name] = max(t_ns, self._asked_at.get(name, t_ns))

    def stop_asking(self) -> None:
        """Whatever is being asked is given up."""
        if self._talk is not None:
            self._talk.leave()
        self._talk = None
        if self.talking:
            self._state.move(WireMove.REST)

    def ask_from(self, t_ns: int) -> None:
        """The next round begins at a moment, or as soon after as the sheet allows, ns.

        Args:
            t_ns: the moment, ns.
        """
        self._due_ns = t_ns

    def ask_now(self) -> None:
        """The next round begins as soon as the sheet allows."""
        self._due_ns = None

    @property
    def asks_itself(self) -> bool:
        """It is asked from here."""
        return not self.resting and self.setup.every_s is not None and self.sheet is not None

    @property
    def shown(self) -> Wire | None:
        """Its latest exchanges as they were last told."""
        return self._told.last

    @property
    def heard_edges(self) -> int:
        """How many edges were heard since it is known what it carries."""
        return self.live.edges if self.live is not None else 0

    @property
    def talking(self) -> bool:
        """A round of asks is going on."""
        return self._state.state is WireState.ASKED

    @property
    def due_ns(self) -> int | None:
        """When it is asked next, ns; None when that is at once, or never."""
        return self._due_ns if self.asks_itself else None

    @property
    def _earliest_ns(self) -> int:
        """Before this moment the sheet forbids to ask, also when the last ask came late, ns."""
        asked = [self._asked_at[name] for name in self.setup.lines if name in self._asked_at]
        if not asked or self.sheet is None:
            return 0
        return max(asked) + ns_of(least_interval_s(self.sheet) * HOST_SLOWER)

    def ask_if_due(self) -> Iterator[Event]:
        """Begins a round of asks when it is time."""
        now = self._source.now_ns()
        due = (self._due_ns is None or now >= self._due_ns) and now >= self._earliest_ns
        sheet, wanted_s = self.sheet, self.setup.every_s
        if not due or self.resting or not self._state.may(WireMove.ASK):
            return
        if sheet is None or wanted_s is None:
            return
        every = wanted_s or usual_interval_s(sheet)
        every = max(every, least_interval_s(sheet) * HOST_SLOWER)
        late = self._due_ns is None or now - self._due_ns > ns_of(every)
        base = now if late or self._due_ns is None else self._due_ns
        self._due_ns = base + ns_of(every)
        self._note_ask(now)
        self._state.move(WireMove.ASK)
        talk = self._round(sheet)
        self._talk = Conversation(talk, self._source, self._levels, self._floor)
        self.asks += 1
        try:
            self._talk.start()
        except PivetError as error:
            self.stop_asking()
            yield Note(str(error), self.name)

    def _round(self, sheet: Sheet) -> Talk[None]:
        retries = self.setup.retries
        if family_of(sheet).has_devices:
            return bus_round(self.setup.lines[0], self._bus, retries)
        return Single(sheet, self.setup.lines, self._resolution_ns).round(retries)

    def tell(self) -> Iterator[Event]:
        """The exchanges that are new, or of which more is known since they were told.

        Each is told once, in order, however seldom anybody looks; see ``LiveWire.windows``.
        """
        if self.live is None:
            return
        saying = self._talk is not None and self._talk.asking is not None
        self.live.settled_ns = SETTLED_NS if saying or not self.asks_itself else AT_REST_NS
        yield from self._tell_missed(self.live)
        for wire in self.live.windows():
            if wire is not self._told.last:
                yield from self._tell_window(wire)
        if self.live.ended:
            for number, verdict in self._told.take_back():
                self.counts.exchanges -= 1
                self.counts.by_verdict[verdict] -= 1
                yield Withdrawn(self.name, number + 1)

    def _tell_window(self, wire: Wire) -> Iterator[Event]:
        found = self._told.look(wire)
        for number, verdict in found.revised:
            self.counts.by_verdict[verdict] -= 1
            yield self._heard(wire, number - wire.first, revised=True)
        for number in found.new:
            yield self._heard(wire, number - wire.first, revised=False)
        yield from self._health(wire, found.new.start - wire.first)

    def _heard(self, wire: Wire, index: int, revised: bool) -> Event:
        attempt = self._attempts.of(int(wire.exchanges.start_ns[index]))
        if not revised:
            self.counts.exchanges += 1
            self.counts.retries += attempt > 1
        self.counts.by_verdict[int(wire.verdicts[index])] += 1
        return Heard(self.name, wire.first + index + 1, wire, index, attempt, revised, self.setup)

    def _health(self, wire: Wire, start: int) -> Iterator[Event]:
        """Which sensors fell silent, or are back, in the exchanges from ``start`` on."""
        told: set[str] = set()
        for track in wire.tracks:
            if track.rom in told:
                continue
            told.add(track.rom)
            first = int(np.searchsorted(track.at, start))
            at, given = track.at[first:].tolist(), track.given[first:].tolist()
            for index, one in zip(at, given, strict=True):
                yield from self._one_health(wire, index, track.rom, one)
            if at and self._failed[track.rom] >= FAILED_TWICE:
                self.silent[track.rom] = self._silence(wire, at[-1], track.rom)

    def _one_health(self, wire: Wire, index: int, code: str, given: bool) -> Iterator[Event]:
        failed = self._failed.get(code, 0)
        self._failed[code] = 0 if given else failed + 1
        if given and failed >= FAILED_TWICE:
            self.silent.pop(code, None)
            yield Back(self.name, code)
        elif failed + 1 == FAILED_TWICE and not given:
            yield self._silence(wire, index, code)

    def _silence(self, wire: Wire, index: int, code: str) -> Silent:
        """Why a sensor gave no reading."""
        family = wire.family
        cause = first_named(int(wire.judged.notices[index]), family.notices, family.words)
        return Silent(
            self.name,
            code,
            why_none(wire, index),
            _look(wire, index),
            wire.first + index + 1,
            "" if cause is None else cause.code,
        )

    def choose(self, choices: WireChoices) -> None:
        """Judges it by other choices from now on; what was told stays as it was told.

        Args:
            choices: what the person wants of the wire.
        """
        self.setup = replace(self.setup, sheet=choices.sheet or self.sheet, choices=choices)
        if self.live is not None:
            self._told.choose(self.live.choose(choices))
        elif self.sheet is not None:
            self._know(self.sheet)

    def learn(self, choices: WireChoices) -> None:
        """What is known beside it has changed: what that changes is told again.

        Args:
            choices: what the person wants of the wire.
        """
        self.setup = replace(self.setup, choices=choices)
        if self.live is not None:
            self.live.choose(choices)


def _look(wire: Wire, index: int) -> str:
    """What the line itself says of a sensor that gives no reading, and how it is wired."""
    wiring = wire.sheet.wiring
    if wiring is None:
        return ""
    line = wire.lines[-1]
    before = int(np.searchsorted(line.edges_ns, wire.exchanges.start_ns[index]))
    level = Level(line.initial ^ (before & 1)).name.lower()
    if level != wiring.idle:
        held = "held low, or its pull-up is missing" if level == "low" else "held high"
        return f"The line rests {level}: it is {held}. Wiring: {wiring.text}."
    return f"The line rests {level}, as it should. Wiring: {wiring.text}."
