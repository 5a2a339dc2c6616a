"""Takers: who gets what listening tells, and does something with it.

A recorder, a log, a printer, the window's mailbox: each is one, and knows nothing of the others.
"""

from collections.abc import Callable, Sequence

from pivet.listening.events import Event


def _nobody(_: Event) -> None:
    """Nobody listens to what a taker says."""


class Taker:
    """Takes what listening tells.

    All methods are called by one thread.

    Attributes:
        what: it is, for people.
        waits: it may have to wait for a disk or a reader, and so has a thread of its own.
        say: tells a trouble of its own; set by whoever runs it.
    """

    what = "a taker"
    waits = True
    say: Callable[[Event], None] = staticmethod(_nobody)

    def take(self, events: Sequence[Event]) -> None:
        """Takes further events, in order; each comes once.

        Args:
            events: the events, in the order in which they were told.
        """

    def tick(self) -> None:
        """Some time has passed."""

    def skip(self, events: Sequence[Event]) -> Sequence[Event]:
        """Events that it could not take in time; gives what it must know of them.

        Args:
            events: the events, in the order in which they were told.
        """
        return ()

    def close(self) -> None:
        """Nothing follows."""


class Once:
    """Says a trouble once, until it changes.

    Args:
        clock: monotonic seconds.
    """

    CALM_S = 10.0
    """A trouble is over when all went well for so long."""

    def __init__(self, clock: Callable[[], float]) -> None:
        self._clock, self._said = clock, ""
        self._well_since: float | None = None

    def failed(self, says: str) -> str:
        """It went wrong: what is to be said of it now, or nothing.

        Args:
            says: the sentence; empty when all is well.
        """
        self._well_since = None
        before, self._said = self._said, says
        return "" if before == says else says

    def worked(self) -> bool:
        """It went well; whether that is news."""
        if not self._said:
            return False
        now = self._clock()
        self._well_since = now if self._well_since is None else self._well_since
        if now - self._well_since < self.CALM_S:
            return False
        self._said = ""
        return True
