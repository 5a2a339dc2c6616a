"""A list to choose from in the window: what is typed there chooses, and is no shortcut."""

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox

COMMANDS = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier


class ChoiceBox(QComboBox):
    """A combo box that is asked before the window's single-letter shortcuts are."""

    def event(self, event: QEvent) -> bool:
        """Letters and digits belong to the list."""
        if event.type() is QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            typed = bool(event.text()) and event.text().isprintable()
            if typed and not event.modifiers() & COMMANDS:
                event.accept()
                return True
        return super().event(event)
