"""Python's garbage is collected in the window's thread only.

Objects in a circle are destroyed by whichever thread happens to collect them.  Those that stand
for a widget or a timer must go in the window's thread: elsewhere Qt ends the program, now or later.
"""

import gc
import time

from PySide6.QtCore import QObject, QTimer

EVERY_MS = 1000
THRESHOLDS = (700, 10, 10)
"""This many more objects than last time, or this many younger collections since."""


OLDEST = 2
SHARE = 0.005
"""Looking through all objects takes long where there are many: no more of the time than this."""


class Collector(QObject):
    """Collects garbage between two events; no other thread does while it is there.

    Args:
        parent: the owner.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        # What the program is made of stays until its end: it need not be looked at again.
        gc.freeze()
        self._oldest_at = 0.0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)
        self._timer.start(EVERY_MS)

    def look(self) -> int:
        """Collects the oldest generation that has grown; gives how many objects went."""
        counts, now = gc.get_count(), time.monotonic()
        grown = [age for age in range(3) if counts[age] > THRESHOLDS[age]]
        if not grown:
            return 0
        if grown[-1] < OLDEST or now < self._oldest_at:
            return gc.collect(min(grown[-1], OLDEST - 1))
        gone = gc.collect(OLDEST)
        self._oldest_at = now + (time.monotonic() - now) / SHARE
        return gone

    def end(self) -> None:
        """Leaves it to Python again."""
        self._timer.stop()
        gc.unfreeze()
        gc.enable()
