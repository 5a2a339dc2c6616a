"""What a person changes of the shown work, each so that it can be undone."""

from collections.abc import Callable, Hashable
from typing import Any, Protocol

from pivet.captures.wire import Wire
from pivet.frozen import replace
from pivet.person.choices import WireChoices
from pivet.person.roles import Roles
from pivet.progress import Progress
from pivet.sheets.model import Sheet
from pivet.ui.session.changes import AddWire, ChangeNote, ChangeRoles, ChooseKept, ReplaceWire
from pivet.ui.session.selection import WirePlace
from pivet.ui.session.work import Work

LONG_EDGES = 2_000_000
"""A wire of more edges is judged anew beside the window: it takes up to 0.1 µs an edge."""


class Runner(Protocol):
    """Runs work beside the window, as ``JobBar.start`` does."""

    def __call__(
        self,
        label: str,
        work: Callable[[Progress], Any],
        done: Callable[[Any], None],
        over: Callable[[], None],
    ) -> None: ...


class Edits:
    """Changes, each put on the stack of what was done.

    Args:
        session: what is shown.

    Attributes:
        run_long: runs what may take long; without it all is done at once.
    """

    def __init__(self, session: Work) -> None:
        self._session = session
        self.run_long: Runner | None = None

    def change_sheet(self, sheet: Sheet | None) -> None:
        """Judges the chosen wire against another sheet; None recognises it.  Can be undone."""
        wire = self._session.wire
        if wire is not None:
            name = "automatic type" if sheet is None else f"type {sheet.name}"
            self.change_choices(replace(wire.choices, sheet=sheet), name)

    def change_choices(self, choices: WireChoices, name: str) -> None:
        """Judges the chosen wire anew, a long one beside the window.  Can be undone.

        Args:
            choices: those of the wire from now on.
            name: what changes, for the undo menu.
        """
        place, before = self._session.place, self._session.wire
        if place is None or before is None:
            return
        if self._session.captures[place[0]].kept is not None:
            self._session.undo.push(ChooseKept(self._session, place, before.choices, choices, name))
            return

        def work(progress: Progress) -> Wire:
            after = before.chosen(choices)
            progress(1.0)
            return after

        def done(after: Wire) -> None:
            if self._stands(place, before):
                self._session.undo.push(ReplaceWire(self._session, place, before, after, name))

        if self.run_long is None or before.edge_count < LONG_EDGES:
            done(before.chosen(choices))
        else:
            self.run_long(f"Judging {before.label}", work, done, self._session.wire_changed.emit)

    def _stands(self, place: WirePlace, wire: Wire) -> bool:
        """Whether a wire is still where it was: others may have come in the meantime."""
        number, at = place
        captures = self._session.captures
        wires = captures[number].wires if number < len(captures) else ()
        return at < len(wires) and wires[at] is wire

    def change_roles(self, roles: Roles, name: str) -> None:
        """Names or replaces devices.  Can be undone."""
        if roles != self._session.roles:
            self._session.undo.push(ChangeRoles(self._session, roles, name))

    def add_wire(self, key: Hashable, wire: Wire) -> None:
        """Adds a wire to the capture of a key, if it is open still.  Can be undone."""
        number = self._session.number_of(key)
        if number is not None:
            self._session.undo.push(AddWire(self._session, number, wire))

    def change_note(self, text: str, asked: tuple[WirePlace, int] | None = None) -> None:
        """Gives an exchange a note; an empty one takes it away.  Can be undone.

        Args:
            text: the note.
            asked: the exchange, by its wire and number; None for the chosen one.
        """
        place = self._session.place
        if asked is None and place is not None:
            asked = place, self._session.number
        if asked is None:
            return
        before = self._session.note_of(*asked)
        if text != before:
            self._session.undo.push(ChangeNote(self._session, *asked, before, text))
