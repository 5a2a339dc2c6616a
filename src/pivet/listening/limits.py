"""Limits over readings as they come: each crossing is told at once, whatever the file does."""

from collections.abc import Callable, Sequence

import numpy as np

from pivet.history.watching import LimitEvent
from pivet.listening.events import Crossed, Event, Heard
from pivet.listening.heard_rows import heard_rows
from pivet.listening.taker import Taker
from pivet.person.annotations import Labels
from pivet.readings.derived import RULES
from pivet.readings.limits import LimitWatch
from pivet.readings.series import Sensor

FROM_VESSEL = frozenset(("fill", "volume"))


class Limits(Taker):
    """Watches the sensors that have limits.

    Args:
        wall_ns: the calendar at a moment of the source, ns since 1970.
        labels: roles, corrections and limits at this moment.
    """

    what = "the watch over limits"
    waits = False

    def __init__(self, wall_ns: Callable[[int], int], labels: Callable[[], Labels]) -> None:
        self._wall_ns, self._labels = wall_ns, labels
        self._watched: dict[Sensor, LimitWatch] = {}

    def take(self, events: Sequence[Event]) -> None:
        """Holds readings against the limits as they are now; what is told again is not new.

        Args:
            events: the events, in the order in which they were told.
        """
        labels = self._labels()
        limits = labels.annotations.limits
        self._watched = {
            sensor: watched
            for sensor, watched in self._watched.items()
            if limits.get(sensor) == watched.limit
        }
        if limits:
            derived = any(
                limit.quantity in FROM_VESSEL or limit.quantity in RULES for limit in limits
            )
            for event in events:
                if isinstance(event, Heard) and not event.revised:
                    self._hold(event, labels, derived)

    def _hold(self, event: Heard, labels: Labels, derived: bool) -> None:
        at_ns = self._wall_ns(int(event.shown.exchanges.start_ns[event.index]))
        for heard in heard_rows(event, at_ns, labels, derived):
            for cell in heard.cells:
                sensor = Sensor(event.wire, heard.role or heard.device, cell.quantity)
                limit = labels.annotations.limits.get(sensor)
                if limit is None or cell.value is None:
                    continue
                watch = self._watched.setdefault(sensor, LimitWatch(limit))
                times, values = np.array([at_ns], dtype=np.int64), np.array([cell.value])
                for crossing in watch.feed(times, values):
                    self.say(Crossed(LimitEvent(sensor, limit, crossing)))
