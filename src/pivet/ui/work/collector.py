"""Python's garbage is collected in the window's thread only.

Objects in a circle are destroyed by whichever thread happens to collect them.  Those that stand
for a widget or a timer must go in the window's thread: elsewhere Qt ends the program, now or later.
"""

import gc

from PySide6.QtCore import QObject, QTimer

EVERY_MS = 1000
THRESHOLDS = (700, 10, 10)
"""So many objects more than at the last time, or so many younger collections since."""


class Collector(QObject):
    """Collects garbage between two events; no other thread does while it is there.

    Args:
        parent: owns it.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        # What the program is made of stays until its end: it need not be looked at again.
        gc.freeze()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)
        self._timer.start(EVERY_MS)

    def look(self) -> int:
        """Collects the oldest generation that has grown; gives how many objects went."""
        counts = gc.get_count()
        grown = [age for age in range(3) if counts[age] > THRESHOLDS[age]]
        return gc.collect(grown[-1]) if grown else 0

    def end(self) -> None:
        """Leaves it to Python again."""
        self._timer.stop()
        gc.unfreeze()
        gc.enable()
