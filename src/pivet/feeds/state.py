"""How a feed is doing, for card, command line and the person's eye."""

from enum import StrEnum

from pivet.frozen import FrozenValue


class State(StrEnum):
    """What a feed does."""

    IDLE = "all sent"
    SENDING = "sending"
    RESTING = "keeping the pace"
    WAITING = "waiting"
    FAILING = "cannot send"
    PAUSED = "paused"
    STRANGE = "not allowed yet"


class FeedState(FrozenValue):
    """A feed at this moment.

    Attributes:
        name: of the feed.
        url: where it sends to.
        state: what it does.
        waiting: how many exchanges are still to be sent.
        behind_s: how long ago the oldest of them began, s; 0 where none waits.
        sent: how many rows were ever acknowledged.
        acked_ns: when the last was, ns since 1970; 0 for never.
        trouble: why the last try failed; empty when it did not.
        again_s: when it is tried again, s from now; 0 where nothing is waited for.
    """

    name: str
    url: str
    state: State
    waiting: int = 0
    behind_s: float = 0.0
    sent: int = 0
    acked_ns: int = 0
    trouble: str = ""
    again_s: float = 0.0

    @property
    def works(self) -> bool:
        """Nothing needs the person."""
        return self.state in (State.IDLE, State.SENDING, State.RESTING)
