"""What a person changes in listening, so that it can be undone."""

from PySide6.QtGui import QUndoCommand

from pivet.listening.listener import Listener
from pivet.listening.setup import WireSetup
from pivet.ui.live.thread import ListeningThread

Pace = tuple[float | None, int]
"""Interval, s, or None, and retries."""


class SetPace(QUndoCommand):
    """Asks a wire more or less often."""

    def __init__(self, thread: ListeningThread, wire: str, before: Pace, after: Pace) -> None:
        super().__init__(f"interval of {wire}")
        self._thread, self._wire, self._before, self._after = thread, wire, before, after

    def _set(self, pace: Pace) -> None:
        heard = self._thread.order(lambda listener: listener.change(self._wire, *pace))
        self.setObsolete(not heard)

    def redo(self) -> None:
        """Sets it."""
        self._set(self._after)

    def undo(self) -> None:
        """Sets it as it was."""
        self._set(self._before)


class RestWire(QUndoCommand):
    """Stops listening to a wire, or listens to one more; ``setup`` if it is a new one."""

    def __init__(
        self, thread: ListeningThread, wire: str, rests: bool, setup: WireSetup | None = None
    ) -> None:
        super().__init__(f"{'stop listening to' if rests else 'wire'} {wire}")
        self._thread, self._wire, self._rests, self._setup = thread, wire, rests, setup

    def _set(self, rests: bool) -> None:
        def order(listener: Listener) -> None:
            known = any(wire.name == self._wire for wire in listener.wires)
            if known or self._setup is None:
                listener.rest(self._wire, rests)
            else:
                listener.add(self._setup)

        self.setObsolete(not self._thread.order(order))

    def redo(self) -> None:
        """Sets it."""
        self._set(self._rests)

    def undo(self) -> None:
        """Sets it as it was."""
        self._set(not self._rests)
