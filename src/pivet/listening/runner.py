"""The one loop around a listener: it listens, obeys, and gives takers what is told."""

import queue
from collections.abc import Callable

from pivet.errors import PivetError
from pivet.listening.events import Event, Note
from pivet.listening.lanes import Direct, Lane, Threaded
from pivet.listening.listener import Listener
from pivet.listening.taker import Taker

STEP_S = 0.03

Order = Callable[[Listener], None]


class Runner:
    """Runs a listener for some takers.

    ``order``, ``say`` and ``add`` may be called by other threads; all else belongs to one.

    Args:
        listener: the listener that is open.
    """

    def __init__(self, listener: Listener) -> None:
        self.listener = listener
        self._lanes: list[Lane] = []
        self._orders: queue.SimpleQueue[Callable[[], None]] = queue.SimpleQueue()
        self._said: queue.SimpleQueue[Event] = queue.SimpleQueue()

    def add(self, taker: Taker) -> None:
        """One taker more, before the next step.

        Args:
            taker: of what is told.
        """
        taker.say = self._said.put
        self._orders.put(lambda: self._add(taker))

    def _add(self, taker: Taker) -> None:
        make = Threaded if taker.waits else Direct
        self._lanes.append(make(taker, self._said.put))

    def remove(self, taker: Taker) -> None:
        """A taker ends, before the next step.

        Args:
            taker: of what is told.
        """

        def work() -> None:
            for lane in [other for other in self._lanes if other.taker is taker]:
                self._lanes.remove(lane)
                lane.close()

        self._orders.put(work)

    def order(self, order: Order) -> None:
        """Has something done between two steps; what it refuses becomes a note.

        Args:
            order: is called by the listener's own thread.
        """
        self._orders.put(lambda: order(self.listener))

    def say(self, event: Event) -> None:
        """Tells all takers something.

        Args:
            event: the event that was told.
        """
        self._said.put(event)

    def step(self, timeout_s: float = STEP_S) -> None:
        """Obeys, listens, tells; waits for news at most so long, s.

        Args:
            timeout_s: the longest wait, s.
        """
        self._obey()
        self._give(list(self.listener.step(timeout_s)))

    def _obey(self) -> None:
        while not self._orders.empty():
            try:
                self._orders.get()()
            except PivetError as error:
                self._said.put(Note(str(error)))

    def _give(self, events: list[Event]) -> None:
        said: list[Event] = []
        while not self._said.empty():
            said.append(self._said.get())
        for lane in self._lanes:
            lane.put([*said, *events])

    def run(self, stopped: Callable[[], bool]) -> None:
        """Listens until it is told to stop, or the source has given all.

        Whatever happens, what was heard is told, and takers have it before they end.

        Args:
            stopped: asked between two steps.
        """
        try:
            while not stopped() and not self.listener.over:
                self.step()
        finally:
            self.close()

    def close(self) -> None:
        """Ends what stands open, tells it, and ends the takers; may be called twice."""
        self._obey()
        self._give(list(self.listener.finish()))
        lanes, self._lanes = self._lanes, []
        late: list[Event] = []
        # Who never waits ends last: it hears what the others say at their end.
        for lane in sorted(lanes, key=lambda lane: not lane.taker.waits):
            while not self._said.empty():
                late.append(self._said.get())
            lane.put(late)
            lane.close()
        self.listener.close()
