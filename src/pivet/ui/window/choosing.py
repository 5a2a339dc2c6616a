"""A list to choose from in the window: what is typed there chooses, and is no shortcut."""

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QWidget

COMMANDS = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier


class ChoiceBox(QComboBox):
    """A combo box that is asked before the window's single-letter shortcuts are.

    Signals:
        picked: somebody chose while the box can be seen; carries the number.  A list that is open
            when its view is left may name what is gone.
    """

    picked = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.activated.connect(self._on_activated)

    def _on_activated(self, number: int) -> None:
        if self.isVisible():
            self.picked.emit(number)

    def event(self, event: QEvent) -> bool:
        """Letters and digits belong to the list."""
        if event.type() is QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            typed = bool(event.text()) and event.text().isprintable()
            if typed and not event.modifiers() & COMMANDS:
                event.accept()
                return True
        return super().event(event)
