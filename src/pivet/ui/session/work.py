"""What is shown, and how edits put other things in its place."""

from PySide6.QtCore import QObject, Signal

from pivet.captures.wire import Wire
from pivet.errors import PivetError
from pivet.frozen import replace
from pivet.person.choices import WireChoices
from pivet.person.display import PLAIN, Display
from pivet.person.roles import Roles
from pivet.readings.track import Track
from pivet.ui.session.live import LiveSelection
from pivet.ui.session.selection import WirePlace


class Work(LiveSelection):
    """A selection in which wires, choices, notes and names can be others.

    Attributes:
        shown: units and corrections of readings.

    Signals:
        roles_changed: devices were named or replaced.
        shown_changed: readings are shown in other units, or under other corrections.
    """

    roles_changed = Signal()
    shown_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.shown = PLAIN

    @property
    def tracks(self) -> tuple[Track, ...]:
        """Readings of the chosen wire, under the names of roles."""
        return self.roles.told(self.wire.tracks) if self.wire is not None else ()

    def show_as(self, shown: Display) -> None:
        """Shows readings in other units, or under other corrections."""
        self.shown = replace(shown, roles=self.roles)
        self.shown_changed.emit()

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
        return "" if self.place is None else self.note_of(self.place, self.number)

    def note_of(self, place: WirePlace, number: int) -> str:
        """The person's note on an exchange; empty when there is none."""
        capture = self.captures[place[0]]
        if capture.kept is None:
            return ""
        try:
            return capture.kept.note(capture.wires[place[1]], number)
        except PivetError:
            return ""

    def put_note(self, place: WirePlace, number: int, text: str) -> bool:
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

    def put_choices(self, place: WirePlace, choices: WireChoices) -> None:
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
        self._forget_part()  # it would be judged by the choices of before
        if place == self._place:
            self._view.choose(self._newest(place), choices)
        else:
            self._place = place
            self._begin_wire()
        self._tell_all()

    def put_wire(self, place: WirePlace, wire: Wire) -> None:
        """Puts a wire in the place of another; for undo commands."""
        number, at = place
        self.captures[number] = self.captures[number].with_wire(at, wire)
        index = self.index if place == self._place else 0
        self._place = place
        self._forget_part()
        self._view.put(wire, index)
        self._tell_all()

    def put_wires(self, number: int, wires: tuple[Wire, ...], others: tuple[str, ...]) -> None:
        """Gives a capture other wires; for undo commands."""
        self.captures[number] = replace(self.captures[number], wires=wires, others=others)
        self._place = (number, len(wires) - 1) if wires else self._first_place()
        self._begin_wire()
        self._tell_all()
