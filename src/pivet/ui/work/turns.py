"""Work of the window that can wait a moment: one piece between two events, so none waits long."""

from collections.abc import Callable
from functools import cache

from PySide6.QtCore import QCoreApplication, QObject, QTimer
from shiboken6 import isValid

Piece = tuple[Callable[..., object], tuple[object, ...]]


class Turns(QObject):
    """Pieces of work of the window's thread, one after the other, with events in between.

    Args:
        parent: the application.
    """

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pieces: dict[Piece, QObject] = {}
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._take)

    @property
    def busy(self) -> bool:
        """Whether something is still to be done."""
        return bool(self._pieces)

    def add(self, owner: QObject, work: Callable[..., object], *parts: object) -> None:
        """Does some work soon; the same asked for twice before that is done once.

        Args:
            owner: without whom there is nothing to do any more.
            work: what is to be done.
            *parts: that it is given.
        """
        self._pieces.setdefault((work, parts), owner)
        if not self._timer.isActive():
            self._timer.start()

    def add_last(self, owner: QObject, work: Callable[..., object], *parts: object) -> None:
        """The same, behind all that waits now, where it had its place before it."""
        self._pieces.pop((work, parts), None)
        self.add(owner, work, *parts)

    def _take(self) -> None:
        piece = next(iter(self._pieces), None)
        if piece is None:
            return
        owner = self._pieces.pop(piece)
        if self._pieces:
            self._timer.start()
        if isValid(owner):
            work, parts = piece
            work(*parts)


@cache
def turns() -> Turns:
    """Those of the one window's thread."""
    return Turns(QCoreApplication.instance())
