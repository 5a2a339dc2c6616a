"""The menus: a table of what can be done, with its keys."""

from collections.abc import Callable

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QWidget

from pivet.frozen import FrozenValue

SEPARATOR = None


class Entry(FrozenValue):
    """A line of a menu.

    Attributes:
        text: as shown, with & before its letter.
        keys: shortcut; may be empty.
        run: what it does.
        needs_wire: greyed out without an exchange to act on.
    """

    text: str
    keys: str
    run: Callable[[], object]
    needs_wire: bool = False


def fill_menu(
    menu: QMenu, owner: QWidget, entries: list[Entry | None], gated: list[QAction]
) -> None:
    """Adds entries to a menu; those that need a wire are collected in ``gated``."""
    for entry in entries:
        if entry is None:
            menu.addSeparator()
            continue
        action = QAction(entry.text, owner)
        if entry.keys:
            action.setShortcuts([QKeySequence(keys) for keys in entry.keys.split(" | ")])
        action.triggered.connect(lambda _=False, run=entry.run: run())
        menu.addAction(action)
        owner.addAction(action)
        if entry.needs_wire:
            gated.append(action)
