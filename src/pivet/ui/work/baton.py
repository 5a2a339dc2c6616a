"""Of those who work beside the window one works at a time: who holds the baton."""

import threading
import time
from collections import deque
from collections.abc import Callable

SLICE_S = 0.005
"""It is held so long before it is passed on: to go from one thread to another costs something."""

LONGEST_S = 0.1
"""Who holds it longer without a word waits for something, and does not work."""

LOOK_S = 0.01


class Baton:
    """Goes round among threads, in the order in which they asked for it.

    Python runs one thread at a time anyway.  But what the window has to do waits for a piece of
    work of each thread that works, and of one piece it is over soon.
    """

    def __init__(self) -> None:
        self._changed = threading.Condition()
        self._queue: deque[int] = deque()
        self._holder: int | None = None
        self._since = 0.0

    def take(self, stopped: Callable[[], bool]) -> None:
        """Passes it on to those who wait for it, and waits until it comes back; for any thread.

        Args:
            stopped: whether to wait no more.
        """
        me, held = threading.get_ident(), time.monotonic() - self._since
        if self._holder == me and (not self._queue or held < SLICE_S):
            return
        with self._changed:
            self._let_go(me)
            self._queue.append(me)
            while not (self._queue[0] == me and self._is_free()) and not stopped():
                self._changed.wait(LOOK_S)
            if self._is_free():
                self._holder, self._since = me, time.monotonic()
            self._queue.remove(me)

    def keep(self) -> None:
        """Who holds it waits for the window, and works on soon."""
        if self._holder == threading.get_ident():
            self._since = time.monotonic()

    def lay_down(self) -> None:
        """Who holds it has nothing to do, or waits for something; others need not hold it."""
        with self._changed:
            self._let_go(threading.get_ident())

    def _let_go(self, me: int) -> None:
        if self._holder == me:
            self._holder = None
            self._changed.notify_all()

    def _is_free(self) -> bool:
        return self._holder is None or time.monotonic() - self._since >= LONGEST_S
