"""Ctrl-C in the terminal, a closed terminal, a polite kill: the window ends in order."""

import contextlib
import os
import signal
from collections.abc import Callable

from PySide6.QtCore import QObject, QSocketNotifier

ENDING = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)


class SignalWatch(QObject):
    """Does something in the window's own loop when the process is told to end.

    Python runs handlers only between its own steps, and Qt's loop has none while it waits: so the
    system writes to a pipe, which wakes that loop.

    Args:
        end: is to be done.
        parent: the owner.
    """

    def __init__(self, end: Callable[[], None], parent: QObject) -> None:
        super().__init__(parent)
        self._end = end
        self._ours, theirs = os.pipe()
        for pipe in (self._ours, theirs):
            os.set_blocking(pipe, False)
        self._notifier = QSocketNotifier(self._ours, QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._on_signal)
        signal.set_wakeup_fd(theirs, warn_on_full_buffer=False)
        for kind in ENDING:
            signal.signal(kind, lambda *_: None)

    def _on_signal(self) -> None:
        with contextlib.suppress(BlockingIOError):
            if any(number in ENDING for number in os.read(self._ours, 64)):
                self._end()
