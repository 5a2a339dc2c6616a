"""The Exchange view: wires, ribbon, stack, strip and answer side by side."""

from collections.abc import Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from pivet.ui.answer.panel import AnswerPanel
from pivet.ui.drawing.widgets import GAP
from pivet.ui.ribbon.view import RibbonView
from pivet.ui.session.session import Session
from pivet.ui.stack.view import StackView
from pivet.ui.strip.view import StripView
from pivet.ui.view import ViewPage
from pivet.ui.wires.panel import WiresPanel

if TYPE_CHECKING:
    from pivet.ui.wires.devices import DevicesPanel

STRIP_NOTCHES = 2


DEVICES_SHARE = 0.6
"""Of the left column, at most, at first."""


class ExchangePage(ViewPage):
    """All parts of the view; the borders between them can be dragged.

    Args:
        session: what is shown.
        bar: what is told of listening, over the ribbon.
    """

    def __init__(self, session: Session, bar: QWidget | None = None) -> None:
        super().__init__()
        self.wires = WiresPanel(session)
        self.devices: DevicesPanel | None = None
        self._session = session
        self.ribbon = RibbonView(session)
        self.stack = StackView(session)
        self.strip = StripView(session)
        self.answer = AnswerPanel(session)
        self.answer.help_asked.connect(self.help_asked)
        self._rows = self._splitter(Qt.Orientation.Vertical, self.stack, self.strip)
        self._rows.setStretchFactor(0, 3)
        self._rows.setStretchFactor(1, 1)
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(GAP)
        if bar is not None:
            column.addWidget(bar)
        column.addWidget(self.ribbon)
        column.addWidget(self._rows, 1)
        self._left = self._splitter(Qt.Orientation.Vertical, self.wires)
        self._columns = self._splitter(Qt.Orientation.Horizontal, self._left, middle, self.answer)
        self._columns.setStretchFactor(1, 1)
        self._columns.setSizes([212, 740, 304])
        outer = QHBoxLayout(self)
        outer.setContentsMargins(GAP, GAP, GAP, GAP)
        outer.addWidget(self._columns)
        parts = (self.wires, self.ribbon, self.stack, self.strip)
        for before, after in pairwise(parts):
            QWidget.setTabOrder(before, after)

        session.wire_changed.connect(self._need_devices)

    @property
    def parts(self) -> Sequence[QWidget]:
        """Wires, their devices, ribbon, stack, strip, and the answer's choice of a sensor."""
        devices = () if self.devices is None else (self.devices,)
        return (self.wires, *devices, self.ribbon, self.stack, self.strip, self.answer.sheet)

    def _need_devices(self) -> None:
        """The list of devices is made when a wire with devices is first shown."""
        wire = self._session.wire
        if self.devices is not None or wire is None or not wire.family.has_devices:
            return
        from pivet.ui.wires import devices

        self.devices = devices.DevicesPanel(self._session)
        self._left.addWidget(self.devices)
        self.devices.renew()
        # The devices take what they need, the wires all else.
        needed = min(self.devices.whole_height, round(DEVICES_SHARE * self._left.height()))
        self._left.setSizes([self._left.height() - needed, needed])
        QWidget.setTabOrder(self.wires, self.devices)

    def _splitter(self, direction: Qt.Orientation, *parts: QWidget) -> QSplitter:
        splitter = QSplitter(direction)
        splitter.setHandleWidth(GAP)
        splitter.setChildrenCollapsible(False)
        for part in parts:
            splitter.addWidget(part)
        return splitter

    def measure(self) -> bool:
        """Puts the cursors at the ends of the lit pulses."""
        return self.strip.measure_lit()

    def clear(self) -> bool:
        """Takes away the cursors."""
        return self.strip.clear_cursors()

    def renew(self) -> None:
        """Everything is painted anew, as after a change of theme."""
        self.ribbon.renew()
        self.answer.renew()
        if self.devices is not None:
            self.devices.renew()
        for part in (self.wires.viewport(), self.stack, self.strip):
            part.update()

    def zoom(self, notches: int) -> None:
        """Of the strip."""
        self.strip.zoom(STRIP_NOTCHES * notches)

    def show_all(self) -> None:
        """The whole capture on the strip."""
        self.strip.show_all()

    def fit(self) -> None:
        """The chosen exchange on the strip."""
        self.strip.fit()
