"""What a person changes in the shown work, so that it can be undone."""

from collections.abc import Callable

from PySide6.QtGui import QUndoCommand

from pivet.captures.wire import Wire
from pivet.person.choices import WireChoices
from pivet.person.roles import Roles
from pivet.ui.session.selection import WirePlace
from pivet.ui.session.work import Work


class ReplaceWire(QUndoCommand):
    """Puts one wire in the place of another."""

    def __init__(
        self, session: Work, place: WirePlace, before: Wire, after: Wire, name: str
    ) -> None:
        super().__init__(f"{name} on {before.label}")
        self._session, self._place = session, place
        self._before, self._after = before, after

    def redo(self) -> None:
        """Does it."""
        self._session.put_wire(self._place, self._after)

    def undo(self) -> None:
        """Takes it back."""
        self._session.put_wire(self._place, self._before)


class ChooseKept(QUndoCommand):
    """Judges a wire of a bench file by other choices."""

    def __init__(
        self, session: Work, place: WirePlace, before: WireChoices, after: WireChoices, name: str
    ) -> None:
        super().__init__(f"{name} on {session.captures[place[0]].wires[place[1]].label}")
        self._session, self._place = session, place
        self._before, self._after = before, after

    def redo(self) -> None:
        """Does it."""
        self._session.put_choices(self._place, self._after)

    def undo(self) -> None:
        """Takes it back."""
        self._session.put_choices(self._place, self._before)


class ChangeNote(QUndoCommand):
    """Gives an exchange another note."""

    def __init__(
        self, session: Work, place: WirePlace, number: int, before: str, after: str
    ) -> None:
        super().__init__(f"note on exchange {number}")
        self._session, self._place, self._number = session, place, number
        self._before, self._after = before, after

    def redo(self) -> None:
        """Does it; what could not be done is nothing to undo."""
        self.setObsolete(not self._session.put_note(self._place, self._number, self._after))

    def undo(self) -> None:
        """Takes it back."""
        self._session.put_note(self._place, self._number, self._before)


class AddWire(QUndoCommand):
    """Adds a wire to a capture."""

    def __init__(self, session: Work, number: int, wire: Wire) -> None:
        super().__init__(f"wire {wire.label}")
        self._session, self._number, self._wire = session, number, wire
        self._wires = session.captures[number].wires
        self._others = session.captures[number].others

    def redo(self) -> None:
        """Does it."""
        used = {line.name for line in self._wire.lines}
        others = tuple(name for name in self._others if name not in used)
        self._session.put_wires(self._number, (*self._wires, self._wire), others)

    def undo(self) -> None:
        """Takes it back."""
        self._session.put_wires(self._number, self._wires, self._others)


class ChangeRoles(QUndoCommand):
    """Names or replaces devices."""

    def __init__(self, session: Work, after: Roles, name: str) -> None:
        super().__init__(name)
        self._session, self._before, self._after = session, session.roles, after

    def redo(self) -> None:
        """Does it."""
        self._session.put_roles(self._after)

    def undo(self) -> None:
        """Takes it back."""
        self._session.put_roles(self._before)


class TakeOverNames(QUndoCommand):
    """Names of devices that came with a bench become the person's."""

    def __init__(self, put: Callable[[Roles], None], borrowed: Roles) -> None:
        super().__init__("taking over names")
        self._put, self._borrowed = put, borrowed

    def redo(self) -> None:
        """Does it."""
        self._put(Roles())

    def undo(self) -> None:
        """Takes it back."""
        self._put(self._borrowed)
