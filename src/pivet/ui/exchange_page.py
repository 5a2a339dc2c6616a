"""The Exchange view: wires, ribbon, stack, strip and answer side by side."""

from itertools import pairwise

from PySide6.QtCore import QByteArray, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from pivet.ui.answer.panel import AnswerPanel
from pivet.ui.ribbon.view import RibbonView
from pivet.ui.session import Session
from pivet.ui.stack.view import StackView
from pivet.ui.strip.view import StripView
from pivet.ui.wires.devices import DevicesPanel
from pivet.ui.wires.panel import WiresPanel

GAP = 8


class ExchangePage(QWidget):
    """All parts of the view; the borders between them can be dragged.

    Signals:
        help_asked: help for a finding was asked for; carries its code.
    """

    help_asked = Signal(str)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.wires = WiresPanel(session)
        self.devices = DevicesPanel(session)
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
        column.addWidget(self.ribbon)
        column.addWidget(self._rows, 1)
        left = self._splitter(Qt.Orientation.Vertical, self.wires, self.devices)
        left.setSizes([360, 400])
        self._columns = self._splitter(Qt.Orientation.Horizontal, left, middle, self.answer)
        self._columns.setStretchFactor(1, 1)
        self._columns.setSizes([212, 740, 304])
        outer = QHBoxLayout(self)
        outer.setContentsMargins(GAP, GAP, GAP, GAP)
        outer.addWidget(self._columns)
        parts = (self.wires, self.devices, self.ribbon, self.stack, self.strip)
        for before, after in pairwise(parts):
            QWidget.setTabOrder(before, after)

    def _splitter(self, direction: Qt.Orientation, *parts: QWidget) -> QSplitter:
        splitter = QSplitter(direction)
        splitter.setHandleWidth(GAP)
        splitter.setChildrenCollapsible(False)
        for part in parts:
            splitter.addWidget(part)
        return splitter

    def state(self) -> tuple[QByteArray, QByteArray]:
        """Where the borders stand."""
        return self._columns.saveState(), self._rows.saveState()

    def restore(self, columns: QByteArray, rows: QByteArray) -> None:
        """Puts the borders where they stood."""
        self._columns.restoreState(columns)
        self._rows.restoreState(rows)

    def renew(self) -> None:
        """Everything is painted anew, as after a change of theme."""
        self.ribbon.renew()
        self.answer.renew()
        self.devices.renew()
        for part in (self.wires.viewport(), self.stack, self.strip):
            part.update()
