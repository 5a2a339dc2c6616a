"""What the views of many exchanges have in common: a wire of the open captures, in panels."""

from collections.abc import Iterable, Sequence
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QFrame, QLabel, QSplitter, QVBoxLayout, QWidget

from pivet.captures.wire import Wire
from pivet.errors import PivetError
from pivet.ui.drawing.widgets import GAP, plain_label, told_label
from pivet.ui.many.whole import Offered, WholeWires, offered
from pivet.ui.session.selection import WirePlace
from pivet.ui.session.session import Session
from pivet.ui.view import ViewPage
from pivet.ui.window.choosing import ChoiceBox
from pivet.ui.work.background import Background

NAME_LETTERS = 8
"""How many letters of a wire's name are shown, however narrow the panel."""


class ManyPage(ViewPage):
    """A view of all exchanges of a chosen wire.

    Args:
        session: what is shown.
        whole: all exchanges of its wires.
        nothing: what is said while no capture is open.

    Attributes:
        wire: the choice of the wire.
        empty: says what to do where there is none.
        beside: what is worked out beside the window; errors are told in a sentence.
    """

    def __init__(
        self, session: Session, whole: WholeWires, nothing: str, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._session, self._whole = session, whole
        self.wire, self.empty, self.beside = ChoiceBox(), plain_label(nothing), Background(self)
        self.wire.setMinimumContentsLength(NAME_LETTERS)
        self.wire.setAccessibleName("Wire")
        self.wire.picked.connect(lambda _: self._choose_wire())
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setWordWrap(True)
        self._offered: list[Offered] = []
        self._asked = 0
        session.captures_changed.connect(lambda: self.renew())
        self.beside.failed.connect(lambda error: session.refuse(str(error)))

    def _put_panels(self, name: str, inner: Iterable[QWidget], sizes: Sequence[int]) -> None:
        """Three panels beside each other, of which the middle one grows."""
        parts = QSplitter()
        parts.setObjectName(name)
        parts.setHandleWidth(GAP)
        parts.setChildrenCollapsible(False)
        for number, widget in enumerate(inner):
            frame = QFrame()
            frame.setObjectName("panel")
            box = QVBoxLayout(frame)
            box.setContentsMargins(6, 6, 6, 6)
            box.addWidget(widget)
            parts.addWidget(frame)
            parts.setStretchFactor(number, int(number == 1))
        parts.setSizes(list(sizes))
        outer = QVBoxLayout(self)
        outer.setContentsMargins(GAP, GAP, GAP, GAP)
        outer.addWidget(parts)

    def showEvent(self, event: QShowEvent) -> None:
        """What changed meanwhile is looked at anew."""
        super().showEvent(event)
        self.renew()

    def end(self) -> None:
        """Nothing more is worked out."""
        self.beside.wait()

    @property
    def busy(self) -> bool:
        """Something is worked out beside the window."""
        return self.beside.busy

    def renew(self) -> None:
        """Shows the wires that there are now, in the colours of now."""
        if not self.isVisible():
            return
        self._offered = offered(self._session)
        fill(self.wire, self._offered, self._place() or self._session.place)
        self._choose_wire()

    def _place(self) -> WirePlace | None:
        """Where the chosen wire stands."""
        return place_in(self.wire)

    def _choose_wire(self) -> None:
        """Gets all exchanges of the chosen wire, at once where they are at hand."""
        place = self._place()
        self.empty.setVisible(place is None)
        self._asked += 1
        if place is None:
            self._take_wire(None)
            return
        self._whole.ask([place], partial(self._take_newest, self._asked))

    def _take_newest(self, asked: int, wires: list[Wire]) -> None:
        if asked == self._asked:
            self._take_wire(wires[0])

    def _take_wire(self, wire: Wire | None) -> None:
        """Shows what is to be said of all exchanges of a wire; None where there is no wire."""
        raise NotImplementedError

    def _show_exchange(self, number: int) -> None:
        """Shows one exchange of the chosen wire in its own view."""
        place = self._place()
        if place is None:
            return
        try:
            self._session.show_reading(place, number)
        except PivetError as error:
            self._session.refuse(str(error))
            return
        self.exchange_asked.emit()


def place_in(box: ChoiceBox) -> WirePlace | None:
    """The wire that is chosen in a list; None where no wire is.

    Args:
        box: filled by ``fill``.
    """
    data = box.currentData()
    return tuple(data) if isinstance(data, list | tuple) else None


def fill(
    box: ChoiceBox,
    rows: Sequence[Offered],
    chosen: object,
    others: Sequence[tuple[str, object]] = (),
) -> None:
    """Fills a list with wires; what was chosen stays so, else the first is.

    Args:
        box: the list.
        rows: the wires.
        chosen: the place of one, or what another row stands for.
        others: rows above them: words, and what each stands for.
    """
    box.blockSignals(True)
    box.clear()
    for words, data in others:
        box.addItem(words, data)
    for row in rows:
        box.addItem(row.name, list(row.place))
    at = box.findData(list(chosen) if isinstance(chosen, tuple) else chosen)
    box.setCurrentIndex(max(at, 0) if box.count() else -1)
    box.blockSignals(False)


def heading(text: str) -> QLabel:
    """The title of a field.

    Args:
        text: of our own.
    """
    label = told_label()
    label.setText(f"<b>{text}</b>")
    return label
