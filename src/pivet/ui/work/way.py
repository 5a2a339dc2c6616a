"""The window goes first: what works beside it waits a little while the window has work to do."""

import threading
import time
from collections.abc import Callable

from PySide6.QtCore import QAbstractEventDispatcher

BUSY_S = 0.01
"""What the window does for longer is work; most events are over long before."""

MOST_S, SHARE = 0.15, 10.0
"""So long work beside the window waits for it at once, and so many times as long as it worked
since: it goes on, whatever the window does."""

LATELY_S = 0.5
"""Who gave way in this time works beside the window, too: of several each waits for the others."""

NAP_S = 0.002


class Way:
    """Knows whether the window works, and has others wait for it.

    Python runs one thread at a time: a view that is painted beside three others that work takes
    four times as long.
    """

    def __init__(self) -> None:
        self._began: float | None = None
        self._dispatcher: QAbstractEventDispatcher | None = None
        self._waited = threading.local()
        self._gave: dict[int, float] = {}

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
        """Waits while the window works, but not for long; for any other thread.

        Args:
            stopped: whether to wait no more.
        """
        now = time.monotonic()
        if not self._is_taken(now):
            return
        me = threading.get_ident()
        others = sum(now - at < LATELY_S for who, at in [*self._gave.items()] if who != me)
        worked = now - getattr(self._waited, "at", 0.0)
        until = now + min(MOST_S, SHARE * (1 + others) * worked)
        while now < until and self._is_taken(now) and not stopped():
            time.sleep(NAP_S)
            now = time.monotonic()
        self._waited.at = self._gave[me] = now


WAY = Way()
"""That of the one window's thread."""
