"""What is shown: open captures, the chosen wire and exchange, lit pulses."""

from collections.abc import Callable, Hashable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QUndoStack

from pivet.captures.capture import Capture, Kept
from pivet.captures.text import wire_names
from pivet.captures.wire import Wire
from pivet.errors import PivetError
from pivet.frozen import replace
from pivet.judge.report import Report
from pivet.person.roles import Roles
from pivet.progress import Progress
from pivet.ui.session.viewpoint import Viewpoint
from pivet.ui.work.background import Background

PART = "part"
"""What the selection asks of its background."""

WirePlace = tuple[int, int]
"""Number of a capture and of a wire in it."""


class Selection(QObject):
    """Which captures are open, and what of them is looked at.

    Attributes:
        captures: open ones, in the order in which they were opened.
        roles: names of devices.
        undo: what was done to them.
        refuse: told, in a sentence, what could not be done.
        reading: where parts of long wires are read, beside the window.

    Signals:
        captures_changed: captures or their wires were added, taken away or judged anew.
        wire_changed: another wire was chosen, or the chosen one judged anew.
        exchange_changed: another exchange was chosen.
        lit_changed: other pulses are lit.
        follow_changed: the newest exchange is followed, or no longer.
    """

    captures_changed = Signal()
    wire_changed = Signal()
    exchange_changed = Signal()
    lit_changed = Signal()
    follow_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.captures: list[Capture] = []
        self.roles = Roles()
        self.undo = QUndoStack(self)
        self.refuse: Callable[[str], None] = lambda _: None
        self.reading = Background(self)
        self._awaited: int | None = None
        self._place: WirePlace | None = None
        self._view = Viewpoint()
        self._picked = False
        self._remembered: dict[tuple[Hashable, str], int] = {}
        self._report: Report | None = None
        self._hovered: frozenset[int] = frozenset()
        self._chosen: frozenset[int] = frozenset()

    @property
    def follows(self) -> bool:
        """The newest exchange is shown as it comes."""
        return self._view.follows

    @property
    def place(self) -> WirePlace | None:
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

    def _newest(self, place: WirePlace) -> Wire:
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
    def report(self) -> Report | None:
        """The chosen exchange."""
        wire = self.wire
        if self._report is None and wire is not None and len(wire):
            self._report = wire.report(self.index, self.roles.names)
        return self._report

    @property
    def lit(self) -> frozenset[int]:
        """Columns of the lit pulses: those under the pointer, else those chosen."""
        return self._hovered or self._chosen

    @property
    def chosen(self) -> frozenset[int]:
        """Columns of the chosen pulses."""
        return self._chosen

    @property
    def wire_name(self) -> str:
        """The chosen wire's name, short."""
        if self._place is None:
            return ""
        number, at = self._place
        return wire_names(self.captures[number])[at]

    def number_of(self, key: Hashable) -> int | None:
        """Where the capture of a key stands; None when it is not open."""
        return next((at for at, one in enumerate(self.captures) if one.key == key), None)

    def show_reading(self, place: WirePlace, number: int) -> None:
        """Shows the exchange of a reading."""
        self.choose_wire(place)
        self.choose_number(number)

    def add_capture(self, capture: Capture) -> None:
        """Adds an opened capture (or puts it in place of the same file) and shows it."""
        number = self.number_of(capture.key)
        if number is not None:
            self.captures[number] = capture
            self.undo.clear()
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
        self.undo.clear()
        self._place = self._first_place()
        self._begin_wire()
        self._tell_all()

    def _begin_wire(self) -> None:
        """A long wire is shown at its end, others at their beginning."""
        self._forget_part()
        capture, place = self.capture, self._place
        newest = None if place is None else self._newest(place)
        self._view.begin(newest, capture is not None and capture.kept is not None)

    def _first_place(self) -> WirePlace | None:
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

    def choose_wire(self, place: WirePlace) -> None:
        """Shows another wire, at the exchange where it was left."""
        self._picked = True
        if place == self._place:
            return
        self._remember()
        self._place = place
        self._begin_wire()
        capture, wire = self.captures[place[0]], self._newest(place)
        self._tell_wire()
        self.follow_changed.emit()
        number = self._remembered.get((capture.key, wire.name))
        if number is not None:
            self.choose_number(number)

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

    def step(self, step: int) -> None:
        """Goes so many exchanges on, or back."""
        self.choose_number((self.number if self._awaited is None else self._awaited) + step)

    def choose_number(self, number: int) -> None:
        """Shows the exchange with a number, or the nearest that there is.

        Of a long wire one that is out of sight is read beside the window, and shown then.
        """
        wire = self.wire
        if wire is None or not len(wire):
            return
        number = self._view.within(number)
        if self._view.sees(number) or self._kept is None:
            self._forget_part()
            self._go(number)
            return
        asked, self._awaited = self._awaited is not None, number
        if not asked:
            self._ask_part(number)

    def _go(self, number: int, part: Wire | None = None) -> None:
        wire, stood, followed = self.wire, self.index, self._view.follows
        self._view.go(number, part)
        if self._view.follows != followed:
            self.follow_changed.emit()
        if self.wire is not wire:
            self._tell_wire()
        elif self.index != stood:
            self._report, self._hovered, self._chosen = None, frozenset(), frozenset()
            self.exchange_changed.emit()
            self.lit_changed.emit()

    @property
    def _kept(self) -> Kept | None:
        return None if self.capture is None else self.capture.kept

    def _ask_part(self, number: int) -> None:
        assert self._place is not None and self._kept is not None
        work = partial(_part, self._kept, self._newest(self._place), number)
        self.reading.ask(PART, work, partial(self._show_part, number))

    def _show_part(self, asked: int, found: Wire | str) -> None:
        number, self._awaited = self._awaited, None
        if isinstance(found, str):
            self.refuse(found)
        elif number is not None and (number == asked or self._view.holds(found, number)):
            self._go(number, found)
        elif number is not None:  # the person went on meanwhile
            self.choose_number(number)

    def _forget_part(self) -> None:
        self._awaited = None
        self.reading.forget(PART)

    def step_not_sound(self, step: int) -> bool:
        """Shows the next (1) or previous (-1) exchange that is not sound, if there is one."""
        wire = self.wire
        if wire is None:
            return False
        found = wire.next_not_sound(self.index, step)
        number = None if found is None else wire.first + found
        kept = self._kept
        if number is None and kept is not None and (wire.first if step < 0 else self._view.part):
            try:
                number = kept.next_not_sound(wire, self.number, step)
            except PivetError as error:
                self.refuse(str(error))
        if number is not None:
            self.choose_number(number)
        return number is not None

    def rename(self, before: Path, path: Path) -> None:
        """The captures of a bench file go on in another file."""
        self.captures = [
            replace(capture, path=path) if capture.path == before else capture
            for capture in self.captures
        ]
        self.captures_changed.emit()

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


def _part(kept: Kept, wire: Wire, number: int, _: Progress) -> Wire | str:
    """A part of a long wire, or why it cannot be read."""
    try:
        return kept.around(wire, number)
    except PivetError as error:
        return str(error)
