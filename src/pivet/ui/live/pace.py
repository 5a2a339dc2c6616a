"""How often the views go on with a wire that grows."""

import time
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

FOLLOW_S = 0.1
"""The newest exchange is followed so often at most ..."""

FLOOD_S = 0.35
MANY = 8
"""... and where so many come at once less often: nobody can read them."""


class Pace(QObject):
    """Goes on soon, but no more often than one can see.

    Args:
        go: shows what is new; gives how many exchanges came.
    """

    def __init__(self, go: Callable[[], int], parent: QObject) -> None:
        super().__init__(parent)
        self._go, self._not_before_s = go, 0.0
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._on_time)

    @property
    def waits(self) -> bool:
        """It is about to go on."""
        return self._timer.isActive()

    def soon(self) -> None:
        """Something is new; what is being painted comes first."""
        if not self.waits:
            wait_s = self._not_before_s - time.monotonic()
            self._timer.start(max(round(1000 * wait_s), 0))

    def _on_time(self) -> None:
        many = self._go() > MANY
        self._not_before_s = time.monotonic() + (FLOOD_S if many else FOLLOW_S)
