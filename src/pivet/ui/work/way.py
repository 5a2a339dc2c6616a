"""The window goes first: what works beside it waits a little while the window has work to do."""

import threading
import time
from collections.abc import Callable

from PySide6.QtCore import QAbstractEventDispatcher

from pivet.ui.work.baton import Baton

BUSY_S = 0.01
"""What the window does for longer is work; most events are over long before."""

MOST_S, SHARE = 0.15, 10.0
"""So long work beside the window waits for it at once, and so many times as long as it worked
since: it goes on, whatever the window does."""

NAP_S = 0.002


class Way:
    """Knows whether the window works, and has others wait for it.

    Python runs one thread at a time: a view that is painted beside another that works takes twice
    as long.  So of several only one works at a time.
    """

    def __init__(self) -> None:
        self._began: float | None = None
        self._dispatcher: QAbstractEventDispatcher | None = None
        self._waited = threading.local()
        self._baton = Baton()

    def watch(self) -> None:
        """Looks at what the calling thread does, which is the window's; once is enough."""
        dispatcher = QAbstractEventDispatcher.instance()
        if dispatcher is not None and dispatcher is not self._dispatcher:
            self._dispatcher = dispatcher
            dispatcher.awake.connect(self._begin)
            dispatcher.aboutToBlock.connect(self._rest)

    def _begin(self) -> None:
        self._began = time.monotonic()

    def _rest(self) -> None:
        self._began = None

    def _is_taken(self, now: float) -> bool:
        began = self._began
        return began is not None and now - began > BUSY_S

    def give(self, stopped: Callable[[], bool] = lambda: False) -> None:
        """Waits while the window works, but not for long, and while others work beside it.

        For any other thread; who gave way says so when it ends, or waits: ``rest``.

        Args:
            stopped: whether to wait no more.
        """
        came = time.monotonic()
        self._baton.take(stopped)
        now = time.monotonic()
        waited = getattr(self._waited, "at", 0.0) + now - came
        until = now + min(MOST_S, SHARE * (now - waited))
        while now < until and self._is_taken(now) and not stopped():
            time.sleep(NAP_S)
            self._baton.keep()
            waited = now = time.monotonic()
        self._waited.at = waited

    def rest(self) -> None:
        """The calling thread does nothing for now, until it gives way again: others may work."""
        self._baton.lay_down()


WAY = Way()
"""That of the one window's thread."""
