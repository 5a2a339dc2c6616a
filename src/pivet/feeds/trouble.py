"""Why something could not be sent, and when to try again."""

from pivet.errors import OutputError


class FeedTrouble(OutputError):
    """The other side cannot be reached, or refuses; what was to be sent waits.

    Args:
        what: what is wrong, without a full stop.
        todo: what to do about it; may be empty.
        wait_s: how long the other side wants to be left alone, s; None leaves it to the feed.
        smaller: it refuses so many rows at once.

    Attributes:
        arrived: how many rows arrived before.
    """

    def __init__(
        self, what: str, todo: str = "", wait_s: float | None = None, smaller: bool = False
    ) -> None:
        super().__init__(what, todo)
        self.wait_s, self.smaller = wait_s, smaller
        self.arrived = 0


def words_of(error: Exception) -> str:
    """What the system or a package says of an error, not too long.

    Args:
        error: as it was raised.
    """
    return str(getattr(error, "strerror", None) or error)[:200]
