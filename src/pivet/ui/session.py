"""What the window shows: open captures, chosen wire and exchange, lit pulses.

Views only read it and call its methods; each change is told by one signal.
"""

from collections.abc import Callable, Hashable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from pivet.captures.capture import Capture
from pivet.captures.text import wire_names
from pivet.captures.wire import Wire
from pivet.errors import PivetError
from pivet.judge.report import Report
from pivet.person.choices import Choices
from pivet.person.display import PLAIN, Shown
from pivet.person.roles import Roles
from pivet.readings.track import Track
from pivet.ui.edits import Edits
from pivet.ui.live.pace import Pace
from pivet.ui.live.state import Live, merged
from pivet.ui.viewpoint import NOWHERE, Moved, Viewpoint

if TYPE_CHECKING:  # listening is imported when somebody listens
    from pivet.bench.live_bench import WireNow

Place = tuple[int, int]
"""Number of a capture and of a wire in it."""


class Session(QObject):
    """The state of the window.

    Attributes:
        edits: what a person changes, and undoes.
        refuse: told, in a sentence, what could not be done.

    Signals:
        captures_changed: captures or their wires were added, taken away or judged anew.
        wire_changed: another wire was chosen, or the chosen one judged anew.
        exchange_changed: another exchange was chosen.
        lit_changed: other pulses are lit.
        wire_grown: the chosen wire has more exchanges; the same one is looked at.
        live_changed: the cards of live wires have something new; the views may not.
        follow_changed: the newest exchange is followed, or no longer.
        roles_changed: devices were named or replaced.
        shown_changed: readings are shown in other units, or under other corrections.
    """

    captures_changed = Signal()
    wire_changed = Signal()
    exchange_changed = Signal()
    lit_changed = Signal()
    wire_grown = Signal()
    live_changed = Signal()
    follow_changed = Signal()
    roles_changed = Signal()
    shown_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.captures: list[Capture] = []
        self.edits = Edits(self)
        self.roles = Roles()
        self.shown = PLAIN
        self.refuse: Callable[[str], None] = lambda _: None
        self.live: dict[Hashable, Live] = {}
        self._place: Place | None = None
        self._view = Viewpoint()
        self._picked = False
        self._pace = Pace(self._go_on, self)
        self._remembered: dict[tuple[Hashable, str], int] = {}
        self._report: Report | None = None
        self._hovered: frozenset[int] = frozenset()
        self._chosen: frozenset[int] = frozenset()

    @property
    def place(self) -> Place | None:
        """Where the chosen wire stands."""
        return self._place

    @property
    def capture(self) -> Capture | None:
        """The capture of the chosen wire; without one the last opened."""
        if self._place is not None:
            return self.captures[self._place[0]]
        return self.captures[-1] if self.captures else None

    @property
    def wire(self) -> Wire | None:
        """The chosen wire; of one that is long the part that is looked at."""
        return self._view.wire

    def _newest(self, place: Place) -> Wire:
        return self.captures[place[0]].wires[place[1]]

    @property
    def index(self) -> int:
        """Where the chosen exchange stands in ``wire``."""
        return self._view.index

    @property
    def number(self) -> int:
        """Number of the chosen exchange, as people count it."""
        return self._view.number

    @property
    def follows(self) -> bool:
        """The newest exchange of a live wire is shown as it comes."""
        return self._view.follows and self.live_now is not None

    @property
    def moving(self) -> bool:
        """The views are about to go on with the chosen wire."""
        return self._pace.waits

    @property
    def live_now(self) -> Live | None:
        """How the chosen capture is listened to; None when it is not live."""
        return None if self.capture is None else self.live.get(self.capture.key)

    @property
    def wire_now(self) -> "WireNow | None":
        """How the chosen wire is listened to; None when it is not live."""
        live, wire = self.live_now, self.wire
        return None if live is None or wire is None else live.wire(wire.title)

    @property
    def report(self) -> Report | None:
        """The chosen exchange."""
        wire = self.wire
        if self._report is None and wire is not None and len(wire):
            self._report = wire.report(self.index, self.roles.names)
        return self._report

    @property
    def tracks(self) -> tuple[Track, ...]:
        """Readings of the chosen wire, under the names of roles."""
        return self.roles.told(self.wire.tracks) if self.wire is not None else ()

    @property
    def lit(self) -> frozenset[int]:
        """Columns of the lit pulses: those under the pointer, else those chosen."""
        return self._hovered or self._chosen

    @property
    def chosen(self) -> frozenset[int]:
        """Columns of the chosen pulses."""
        return self._chosen

    def show_as(self, shown: Shown) -> None:
        """Shows readings in other units, or under other corrections."""
        self.shown = replace(shown, roles=self.roles)
        self.shown_changed.emit()

    @property
    def wire_name(self) -> str:
        """The chosen wire's name, short."""
        if self._place is None:
            return ""
        number, at = self._place
        return wire_names(self.captures[number])[at]

    def show_reading(self, place: Place, number: int) -> None:
        """Shows the exchange of a reading."""
        self.choose_wire(place)
        self.choose_number(number)

    def add_capture(self, capture: Capture) -> None:
        """Adds an opened capture (or puts it in place of the same file) and shows it."""
        keys = [row.key for row in self.captures]
        if capture.key in keys:
            number = keys.index(capture.key)
            self.captures[number] = capture
            self.edits.undo.clear()
        else:
            number = len(self.captures)
            self.captures.append(capture)
        self._place = (number, 0) if capture.wires else self._first_place()
        self._picked = bool(capture.wires)
        self._begin_wire()
        self._tell_all()

    def close_capture(self, number: int) -> None:
        """Closes a capture; undo steps may speak of it, so they go too."""
        del self.captures[number]
        self.edits.undo.clear()
        self._place = self._first_place()
        self._begin_wire()
        self._tell_all()

    def _begin_wire(self) -> None:
        """A long wire is shown at its end, others at their beginning."""
        capture, place = self.capture, self._place
        newest = None if place is None else self._newest(place)
        self._view.begin(newest, capture is not None and capture.kept is not None)

    def _first_place(self) -> Place | None:
        for number, capture in enumerate(self.captures):
            if capture.wires:
                return (number, 0)
        return None

    def _tell_all(self) -> None:
        self._report, self._hovered, self._chosen = None, frozenset(), frozenset()
        self.captures_changed.emit()
        self.wire_changed.emit()
        self.exchange_changed.emit()
        self.lit_changed.emit()

    def choose_wire(self, place: Place) -> None:
        """Shows another wire, at the exchange where it was left."""
        self._picked = True
        if place == self._place:
            return
        self._remember()
        self._place = place
        self._begin_wire()
        capture, wire = self.captures[place[0]], self._newest(place)
        number = self._remembered.get((capture.key, wire.name))
        if number is not None:
            self._view.go(number, self._read)
        self._tell_wire()
        self.follow_changed.emit()

    def _tell_wire(self) -> None:
        self._report, self._hovered, self._chosen = None, frozenset(), frozenset()
        self.wire_changed.emit()
        self.exchange_changed.emit()
        self.lit_changed.emit()

    def _remember(self) -> None:
        capture, wire = self.capture, self.wire
        if capture is None or wire is None:
            return
        key = (capture.key, wire.name)
        if self.follows:
            self._remembered.pop(key, None)
        else:
            self._remembered[key] = self.number

    def choose_exchange(self, index: int) -> None:
        """Shows another exchange; of a long wire those beyond ``wire`` are read."""
        if self.wire is not None:
            self.choose_number(self.wire.first + index)

    def choose_number(self, number: int) -> None:
        """Shows the exchange with a number, or the nearest that there is."""
        wire = self.wire
        if wire is None or not len(wire):
            return
        stood, followed = self.index, self._view.follows
        self._view.go(number, self._read)
        if self._view.follows != followed:
            self.follow_changed.emit()
        if self.wire is not wire:
            self._tell_wire()
        elif self.index != stood:
            self._report, self._hovered, self._chosen = None, frozenset(), frozenset()
            self.exchange_changed.emit()
            self.lit_changed.emit()

    def _read(self, wire: Wire, number: int) -> Wire | None:
        """A part of a long wire; None when it cannot be read."""
        kept = self.capture.kept if self.capture is not None else None
        if kept is None:
            return None
        try:
            return kept.around(wire, number)
        except PivetError as error:
            self.refuse(str(error))
            return None

    def follow_newest(self, follows: bool) -> None:
        """Goes to the newest exchange and on with it, or stays where it is."""
        if follows:
            self.choose_number(NOWHERE)
        if follows != self._view.follows:
            self._view.follows = follows
            self.follow_changed.emit()

    def step_not_sound(self, step: int) -> bool:
        """Shows the next (1) or previous (-1) exchange that is not sound, if there is one."""
        wire = self.wire
        if wire is None:
            return False
        found = wire.next_not_sound(self.index, step)
        number = None if found is None else wire.first + found
        kept = self.capture.kept if self.capture is not None else None
        if number is None and kept is not None and (wire.first if step < 0 else self._view.part):
            try:
                number = kept.next_not_sound(wire, self.number, step)
            except PivetError as error:
                self.refuse(str(error))
        if number is not None:
            self.choose_number(number)
        return number is not None

    def hear(self, key: Hashable, live: Live) -> None:
        """Takes what is new of a live capture."""
        self.live[key] = live
        number = next((at for at, row in enumerate(self.captures) if row.key == key), None)
        if number is None:
            return
        capture = self.captures[number]
        wires, grown = merged(capture.wires, live)
        before = self._newest(self._place) if self._place and self._place[0] == number else None
        self.captures[number] = replace(capture, wires=wires)
        if grown:
            stood = self._place
            self._place = self._first_of(number, live) or self._place or self._first_place()
            self.captures_changed.emit()
            if stood != self._place:
                before = None
                self._begin_wire()
                self._tell_wire()
        self.live_changed.emit()
        if before is not None:
            self._pace.soon()

    def _first_of(self, number: int, live: Live) -> Place | None:
        """The wire to show while the person has picked none: the first that is known."""
        if self._picked or (self._place is not None and self._place[0] != number):
            return None
        titles = [wire.title for wire in self.captures[number].wires]
        places = [titles.index(row.name) for row in live.wires if row.name in titles]
        return (number, places[0]) if places else None

    def _go_on(self) -> int:
        """The chosen wire may have grown: follows it, or stays; how far it went."""
        if self._place is None:
            return 0
        number = self.number
        moved = self._view.grow(self._newest(self._place))
        if moved is Moved.ON:
            self._tell_wire()
        elif moved is Moved.STAYS:
            stood, self._report = self._report, None
            self.wire_grown.emit()
            if stood is None or self.report is None or stood.end_ns != self.report.end_ns:
                self.exchange_changed.emit()
        return self.number - number

    def rename(self, before: Path, path: Path) -> None:
        """The captures of a bench file go on in another file."""
        self.captures = [
            replace(row, path=path) if row.path == before else row for row in self.captures
        ]
        self.captures_changed.emit()

    def end_live(self, key: Hashable) -> None:
        """A capture is no longer live."""
        if self.live.pop(key, None) is not None:
            self.captures_changed.emit()
            self.follow_changed.emit()

    def hover(self, columns: frozenset[int]) -> None:
        """Lights pulses while the pointer is on them."""
        if columns != self._hovered:
            self._hovered = columns
            self.lit_changed.emit()

    def choose_pulses(self, columns: frozenset[int]) -> None:
        """Keeps pulses lit."""
        self._hovered = frozenset()
        self._chosen = columns
        self.lit_changed.emit()

    def put_roles(self, roles: Roles) -> None:
        """Takes other roles; for undo commands and the start."""
        self.roles = roles
        self.shown = replace(self.shown, roles=roles)
        self._report = None
        self.roles_changed.emit()
        self.exchange_changed.emit()

    @property
    def note(self) -> str:
        """The person's note on the chosen exchange; empty when there is none."""
        wire, kept = self.wire, self.capture.kept if self.capture is not None else None
        if wire is None or kept is None:
            return ""
        try:
            return kept.note(wire, self.number)
        except PivetError:
            return ""

    def put_note(self, place: Place, number: int, text: str) -> bool:
        """Gives an exchange a note, for undo commands; whether it could be written."""
        capture = self.captures[place[0]]
        assert capture.kept is not None
        try:
            capture.kept.put_note(capture.wires[place[1]], number, text)
        except PivetError as error:
            self.refuse(str(error))
            return False
        self.exchange_changed.emit()
        return True

    def put_choices(self, place: Place, choices: Choices) -> None:
        """Judges a wire of a bench file by other choices; for undo commands."""
        number, at = place
        capture = self.captures[number]
        assert capture.kept is not None
        newest = capture.wires[at]
        try:
            capture.kept.choose(newest, choices)
        except PivetError as error:
            self.refuse(str(error))
        self.captures[number] = capture.with_wire(at, newest.chosen(choices))
        if place == self._place:
            self._view.choose(self._newest(place), choices)
        else:
            self._place = place
            self._begin_wire()
        self._tell_all()

    def put_wire(self, place: Place, wire: Wire) -> None:
        """Puts a wire in the place of another; for undo commands."""
        number, at = place
        self.captures[number] = self.captures[number].with_wire(at, wire)
        index = self.index if place == self._place else 0
        self._place = place
        self._view.put(wire, index)
        self._tell_all()

    def put_wires(self, number: int, wires: tuple[Wire, ...], others: tuple[str, ...]) -> None:
        """Gives a capture other wires; for undo commands."""
        self.captures[number] = replace(self.captures[number], wires=wires, others=others)
        self._place = (number, len(wires) - 1) if wires else self._first_place()
        self._begin_wire()
        self._tell_all()
