"""What a person changes of a firmware that is rehearsed, so that it can be undone."""

from collections.abc import Callable

from PySide6.QtGui import QUndoCommand

from pivet.insight.readers import Reader


class ChangeFirmware(QUndoCommand):
    """Gives a firmware other constants, or takes one of another kind.

    Args:
        put: shows a firmware; whether the wire that is shown can be read by it.
        before: the constants so far.
        after: those from now on.
    """

    def __init__(self, put: Callable[[Reader], bool], before: Reader, after: Reader) -> None:
        super().__init__("Change of a firmware")
        self._put, self._before, self._after = put, before, after

    def redo(self) -> None:
        """Takes the new ones."""
        self.setObsolete(not self._put(self._after))

    def undo(self) -> None:
        """Takes the former ones."""
        self.setObsolete(not self._put(self._before))
