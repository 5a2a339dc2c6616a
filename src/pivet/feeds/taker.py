"""What rings the feeds while something is listened to, and tells of them."""

from collections.abc import Collection, Sequence

from pivet.feeds.feeds import Feeds
from pivet.feeds.state import FeedState
from pivet.files.benchfile.store import BenchFile
from pivet.listening.events import Event, Fed, Heard
from pivet.listening.taker import Taker
from pivet.person.roles import Roles

DRAIN_S = 5.0
"""When listening ends, what was heard last may still be sent for so long."""


class FeedTaker(Taker):
    """Rings the feeds of the bench that is recorded into.

    Stands behind the recorder and before who prints: at the end the last of it is sent, and told.

    Args:
        feeds: at work.
        ends: they end with listening.
    """

    what = "the feeds"

    def __init__(self, feeds: Feeds, ends: bool = True) -> None:
        self._feeds, self._ends = feeds, ends

    def take(self, events: Sequence[Event]) -> None:
        """Rings when exchanges were heard; the recorder writes them soon.

        Args:
            events: the events, in the order in which they were told.
        """
        if any(isinstance(event, Heard) for event in events):
            self._feeds.wake()

    def told(self, state: FeedState) -> None:
        """Tells how a feed is doing; called by its thread.

        Args:
            state: as it is now.
        """
        self.say(fed(state))

    def close(self) -> None:
        """Lets the last of it be sent; says what waits in the bench."""
        if self._ends:
            self._feeds.stop(DRAIN_S)
            for state in self._feeds.states():
                self.say(fed(state))


def feeding(bench: BenchFile, names: Collection[str], roles: Roles) -> FeedTaker:
    """Feeds at work for as long as something is listened to.

    Args:
        bench: that is recorded into.
        names: of its feeds.
        roles: this person's names of devices.

    Raises:
        InputError: there is no such feed.
    """
    feeds = Feeds(bench, roles, lambda state: taker.told(state))
    taker = FeedTaker(feeds)
    feeds.start(names)
    return taker


def fed(state: FeedState) -> Fed:
    """A feed's state as an event.

    Args:
        state: as it is now.
    """
    return Fed(
        state.name, str(state.state), state.waiting, state.behind_s, state.sent, state.trouble
    )
