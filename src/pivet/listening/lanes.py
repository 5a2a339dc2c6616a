"""How events reach a taker: at once, or by a thread of its own that may wait."""

import threading
import time
from collections import deque
from collections.abc import Callable, Sequence
from typing import Protocol

from pivet.errors import PivetError
from pivet.listening.events import Edges, Event, Note
from pivet.listening.taker import Once, Taker

TICK_S = 0.1
SLOW_S = 5.0
"""A taker that does not come back for so long is said to hang."""

CLOSE_S = 10.0
"""How long to wait for a taker that is to end."""

MOST_EDGES = 20_000_000
MOST_EVENTS = 200_000
"""How much waits for a taker that hangs; then the older half is given up."""

Say = Callable[[Event], None]


class Lane(Protocol):
    """The way to one taker."""

    taker: Taker

    def put(self, events: Sequence[Event]) -> None:
        """Gives it events.

        Args:
            events: the events, in the order in which they were told.
        """
        ...

    def close(self) -> None:
        """Gives it what waits, and ends it."""
        ...


class Guard:
    """Calls a taker; what it does wrong harms nobody, and is said once until it changes."""

    def __init__(self, taker: Taker, say: Say) -> None:
        self._taker, self._say, self._once = taker, say, Once(time.monotonic)

    def call(self, work: Callable[[], None]) -> None:
        """Does something with the taker.

        Args:
            work: what is to be done.
        """
        try:
            work()
        except PivetError as error:
            self._failed(str(error))
        except Exception as error:  # noqa: BLE001  a taker's mistake must not end listening
            self._failed(f"{self._taker.what} made a mistake ({type(error).__name__}: {error}).")
        else:
            self._once.worked()

    def _failed(self, says: str) -> None:
        if self._once.failed(says):
            self._say(Note(says))


class Direct:
    """Calls a taker that never waits."""

    def __init__(self, taker: Taker, say: Say) -> None:
        self.taker = taker
        self._guard = Guard(taker, say)

    def put(self, events: Sequence[Event]) -> None:
        """Gives it events.

        Args:
            events: the events, in the order in which they were told.
        """
        if events:
            self._guard.call(lambda: self.taker.take(events))
        self._guard.call(self.taker.tick)

    def close(self) -> None:
        """Ends it."""
        self._guard.call(self.taker.close)


class Threaded:
    """Has a thread that calls a taker; events wait for it.

    Args:
        taker: is called by that thread only.
        say: tells others of its troubles.
    """

    def __init__(self, taker: Taker, say: Say) -> None:
        self.taker, self._say = taker, say
        self._guard = Guard(taker, say)
        self._news = threading.Condition()
        self._waiting: deque[Event] = deque()
        self._edges = 0
        self._closing = False
        self._busy_since: float | None = None
        self._slow = False
        self._thread = threading.Thread(target=self._run, name=taker.what, daemon=True)
        self._thread.start()

    def put(self, events: Sequence[Event]) -> None:
        """Lets events wait for the taker; says when it hangs.

        Args:
            events: the events, in the order in which they were told.
        """
        if events:
            with self._news:
                self._waiting.extend(events)
                self._edges += sum(weight(event) for event in events)
                if self._edges > MOST_EDGES or len(self._waiting) > MOST_EVENTS:
                    self._give_up()
                self._news.notify()
        self._watch()

    def _watch(self) -> None:
        since = self._busy_since
        slow = since is not None and time.monotonic() - since > SLOW_S
        if slow != self._slow:
            self._slow = slow
            self._say(
                Note(f"{self.taker.what} hangs: what is heard waits for it in memory.")
                if slow
                else Note(f"{self.taker.what} goes on.")
            )

    def _give_up(self) -> None:
        """The older half of what waits is given up."""
        every = list(self._waiting)
        old, new = every[: len(every) // 2], every[len(every) // 2 :]
        rest = self.taker.skip(old)
        self._waiting = deque((*rest, *new))
        self._edges = sum(weight(event) for event in self._waiting)
        self._say(Note(f"{self.taker.what} hangs: {len(old)} events were not taken by it."))

    def _run(self) -> None:
        closing = False
        while not closing:
            with self._news:
                if not self._waiting and not self._closing:
                    self._news.wait(TICK_S)
                events, closing = tuple(self._waiting), self._closing
                self._waiting.clear()
                self._edges = 0
            self._busy_since = time.monotonic()
            if events:
                self._guard.call(lambda events=events: self.taker.take(events))  # type: ignore[misc]
            self._guard.call(self.taker.close if closing else self.taker.tick)
            self._busy_since = None

    def close(self) -> None:
        """Waits until the taker has all, and has ended."""
        with self._news:
            self._closing = True
            self._news.notify()
        self._thread.join(CLOSE_S)
        if self._thread.is_alive():
            self._say(Note(f"{self.taker.what} hangs: it did not take the last of what was heard."))


def weight(event: Event) -> int:
    """Edges that wait with an event.

    Args:
        event: the event that was told.
    """
    pieces = event.pieces if isinstance(event, Edges) else ()
    return sum(piece.edges_ns.size for piece in pieces)
