"""What the window shows: open captures, chosen wire and exchange, lit pulses.

Views only read it and call its methods; each change is told by one signal.
"""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any, Protocol

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QUndoCommand, QUndoStack

from pivet.bench.air import AirSource, air_sources
from pivet.bench.capture import Capture
from pivet.bench.choices import Choices
from pivet.bench.roles import Roles
from pivet.bench.text import short_names
from pivet.bench.wire import Wire
from pivet.judge.report import Report
from pivet.progress import Progress
from pivet.readings.track import Track
from pivet.sheets.model import Sheet

Place = tuple[int, int]
"""Number of a capture and of a wire in it."""

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


class Session(QObject):
    """The state of the window.

    Attributes:
        run_long: runs what may take long; without it all is done at once.

    Signals:
        captures_changed: captures or their wires were added, taken away or judged anew.
        wire_changed: another wire was chosen, or the chosen one judged anew.
        exchange_changed: another exchange was chosen.
        lit_changed: other pulses are lit.
        roles_changed: devices were named or replaced.
    """

    captures_changed = Signal()
    wire_changed = Signal()
    exchange_changed = Signal()
    lit_changed = Signal()
    roles_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.captures: list[Capture] = []
        self.undo = QUndoStack(self)
        self.roles = Roles()
        self.run_long: Runner | None = None
        self._place: Place | None = None
        self._index = 0
        self._remembered: dict[tuple[Path, str], int] = {}
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
        """The chosen wire."""
        if self._place is None:
            return None
        return self.captures[self._place[0]].wires[self._place[1]]

    @property
    def index(self) -> int:
        """Number of the chosen exchange on its wire."""
        return self._index

    @property
    def report(self) -> Report | None:
        """The chosen exchange."""
        wire = self.wire
        if self._report is None and wire is not None and len(wire):
            self._report = wire.report(self._index, self.roles.names)
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

    def add_capture(self, capture: Capture) -> None:
        """Adds an opened capture (or puts it in place of the same file) and shows it."""
        paths = [row.path for row in self.captures]
        if capture.path in paths:
            number = paths.index(capture.path)
            self.captures[number] = capture
            self.undo.clear()
        else:
            number = len(self.captures)
            self.captures.append(capture)
        self._place = (number, 0) if capture.wires else self._first_place()
        self._index = 0
        self._tell_all()

    def close_capture(self, number: int) -> None:
        """Closes a capture; undo steps may speak of it, so they go too."""
        del self.captures[number]
        self.undo.clear()
        self._place = self._first_place()
        self._index = 0
        self._tell_all()

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
        if place == self._place:
            return
        self._remember()
        self._place = place
        capture = self.captures[place[0]]
        wire = capture.wires[place[1]]
        self._index = min(self._remembered.get((capture.path, wire.name), 0), max(len(wire) - 1, 0))
        self._report, self._hovered, self._chosen = None, frozenset(), frozenset()
        self.wire_changed.emit()
        self.exchange_changed.emit()
        self.lit_changed.emit()

    def _remember(self) -> None:
        capture, wire = self.capture, self.wire
        if capture is not None and wire is not None:
            self._remembered[(capture.path, wire.name)] = self._index

    def choose_exchange(self, index: int) -> None:
        """Shows another exchange of the wire."""
        wire = self.wire
        if wire is None or not len(wire):
            return
        index = min(max(index, 0), len(wire) - 1)
        if index == self._index:
            return
        self._index = index
        self._report, self._hovered, self._chosen = None, frozenset(), frozenset()
        self.exchange_changed.emit()
        self.lit_changed.emit()

    def step_not_sound(self, step: int) -> bool:
        """Shows the next (1) or previous (-1) exchange that is not sound, if there is one."""
        wire = self.wire
        found = wire.next_not_sound(self._index, step) if wire is not None else None
        if found is not None:
            self.choose_exchange(found)
        return found is not None

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

    def change_sheet(self, sheet: Sheet | None) -> None:
        """Judges the chosen wire against another sheet; None recognises it.  Can be undone."""
        if self.wire is not None:
            name = "automatic type" if sheet is None else f"type {sheet.name}"
            self.change_choices(replace(self.wire.choices, sheet=sheet), name)

    def change_choices(self, choices: Choices, name: str) -> None:
        """Judges the chosen wire anew, a long one beside the window.  Can be undone.

        Args:
            choices: those of the wire from now on.
            name: what changes, for the undo menu.
        """
        place, before = self._place, self.wire
        if place is None or before is None:
            return

        def work(progress: Progress) -> Wire:
            after = before.chosen(choices)
            progress(1.0)
            return after

        def done(after: Wire) -> None:
            if self._stands(place, before):
                self.undo.push(_ReplaceWire(self, place, before, after, name))

        if self.run_long is None or before.edge_count < LONG_EDGES:
            done(before.chosen(choices))
        else:
            self.run_long(f"Judging {before.label}", work, done, self.wire_changed.emit)

    def _stands(self, place: Place, wire: Wire) -> bool:
        """Whether a wire is still where it was: others may have come in the meantime."""
        number, at = place
        wires = self.captures[number].wires if number < len(self.captures) else ()
        return at < len(wires) and wires[at] is wire

    def change_roles(self, roles: Roles, name: str) -> None:
        """Names or replaces devices.  Can be undone."""
        if roles != self.roles:
            self.undo.push(_ChangeRoles(self, roles, name))

    def put_roles(self, roles: Roles) -> None:
        """Takes other roles; for undo commands and the start."""
        self.roles = roles
        self._report = None
        self.roles_changed.emit()
        self.exchange_changed.emit()

    def air_sources(self) -> list[AirSource]:
        """Thermometers of the shown capture, for the speed of sound."""
        capture = self.capture
        if capture is None:
            return []
        shorts = short_names([wire.label for wire in capture.wires])
        return air_sources(
            [
                (short, wire, self.roles.told(wire.tracks))
                for short, wire in zip(shorts, capture.wires, strict=True)
            ]
        )

    def add_wire(self, number: int, wire: Wire) -> None:
        """Adds a wire to a capture.  Can be undone."""
        self.undo.push(_AddWire(self, number, wire))

    def put_wire(self, place: Place, wire: Wire) -> None:
        """Puts a wire in the place of another; for undo commands."""
        number, at = place
        self.captures[number] = self.captures[number].with_wire(at, wire)
        index = self._index if place == self._place else 0
        self._place, self._index = place, min(index, max(len(wire) - 1, 0))
        self._tell_all()

    def put_wires(self, number: int, wires: tuple[Wire, ...], others: tuple[str, ...]) -> None:
        """Gives a capture other wires; for undo commands."""
        self.captures[number] = replace(self.captures[number], wires=wires, others=others)
        self._place = (number, len(wires) - 1) if wires else self._first_place()
        self._index = 0
        self._tell_all()


class _ReplaceWire(QUndoCommand):
    """Puts one wire in the place of another."""

    def __init__(
        self, session: Session, place: Place, before: Wire, after: Wire, name: str
    ) -> None:
        super().__init__(f"{name} on {before.label}")
        self._session, self._place = session, place
        self._before, self._after = before, after

    def redo(self) -> None:
        self._session.put_wire(self._place, self._after)

    def undo(self) -> None:
        self._session.put_wire(self._place, self._before)


class _AddWire(QUndoCommand):
    """Adds a wire to a capture."""

    def __init__(self, session: Session, number: int, wire: Wire) -> None:
        super().__init__(f"wire {wire.label}")
        self._session, self._number, self._wire = session, number, wire
        self._wires = session.captures[number].wires
        self._others = session.captures[number].others

    def redo(self) -> None:
        used = {line.name for line in self._wire.lines}
        others = tuple(name for name in self._others if name not in used)
        self._session.put_wires(self._number, (*self._wires, self._wire), others)

    def undo(self) -> None:
        self._session.put_wires(self._number, self._wires, self._others)


class _ChangeRoles(QUndoCommand):
    """Names or replaces devices."""

    def __init__(self, session: Session, after: Roles, name: str) -> None:
        super().__init__(name)
        self._session, self._before, self._after = session, session.roles, after

    def redo(self) -> None:
        self._session.put_roles(self._after)

    def undo(self) -> None:
        self._session.put_roles(self._before)
