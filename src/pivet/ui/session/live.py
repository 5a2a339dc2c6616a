"""What is shown of wires that are listened to: they grow while one looks."""

from collections.abc import Hashable
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from pivet.frozen import replace
from pivet.ui.live.pace import Pace
from pivet.ui.live.state import Live, merged
from pivet.ui.session.selection import Selection, WirePlace
from pivet.ui.session.viewpoint import NOWHERE, Moved

if TYPE_CHECKING:  # listening is imported when somebody listens
    from pivet.bench.live_bench import WireNow


class LiveSelection(Selection):
    """A selection that goes on with what is heard.

    Attributes:
        live: how captures are listened to, by their keys.

    Signals:
        wire_grown: the chosen wire has more exchanges; the same one is looked at.
        live_changed: the cards of live wires have something new; the views may not.
    """

    wire_grown = Signal()
    live_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.live: dict[Hashable, Live] = {}
        self._pace = Pace(self._go_on, self)

    @property
    def follows(self) -> bool:
        """The newest exchange of a live wire is shown as it comes."""
        return super().follows and self.live_now is not None

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

    def follow_newest(self, follows: bool) -> None:
        """Goes to the newest exchange and on with it, or stays where it is."""
        if follows:
            self.choose_number(NOWHERE)
        if follows != self._view.follows:
            self._view.follows = follows
            self.follow_changed.emit()

    def hear(self, key: Hashable, live: Live) -> None:
        """Takes what is new of a live capture."""
        self.live[key] = live
        number = self.number_of(key)
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

    def _first_of(self, number: int, live: Live) -> WirePlace | None:
        """The wire to show while the person has picked none: the first that is known."""
        if self._picked or (self._place is not None and self._place[0] != number):
            return None
        titles = [wire.title for wire in self.captures[number].wires]
        places = [titles.index(heard.name) for heard in live.wires if heard.name in titles]
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

    def end_live(self, key: Hashable) -> None:
        """A capture is no longer live."""
        if self.live.pop(key, None) is not None:
            self.captures_changed.emit()
            self.follow_changed.emit()
