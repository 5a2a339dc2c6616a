"""What every way of sending promises."""

from collections.abc import Sequence
from typing import Protocol

from pivet.feeds.outbox import Sent


class Sender(Protocol):
    """Sends rows; one thread uses it.

    Attributes:
        at_once: how many exchanges are taken from the bench at a time.
        most_wait_s: after a failure it is tried again at the latest after so long, s.
    """

    at_once: int
    most_wait_s: float

    def open(self) -> None:
        """Connects, where there is something to connect; does nothing while it is connected.

        Raises:
            FeedTrouble: the other side is not there, or refuses.
            InputError: a password or a certificate is not there.
        """
        ...

    def know(self, rows: Sequence[Sent]) -> None:
        """What the bench held last of each wire, before anything is sent.

        Args:
            rows: as the outbox made them.
        """
        ...

    def send(self, rows: Sequence[Sent]) -> int:
        """Sends rows in their order; gives how many of them, from the first, have arrived.

        A service with a pace of its own gets one request.

        Args:
            rows: as the outbox made them, at least one.

        Raises:
            FeedTrouble: the next did not arrive; says how many before it did.
        """
        ...

    def look(self) -> None:
        """Nothing is to be sent: looks whether the other side is still there.

        Raises:
            FeedTrouble: it is not.
        """
        ...

    def test(self, row: Sent) -> str:
        """Sends a message that can be told from readings; says what came of it.

        Args:
            row: what may stand in it.

        Raises:
            FeedTrouble: it did not arrive.
        """
        ...

    def close(self) -> None:
        """Takes its leave; may be called twice."""
        ...
