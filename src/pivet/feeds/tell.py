"""How a feed is doing, in words."""

from pivet.feeds.state import FeedState
from pivet.history.sentences import lasting
from pivet.history.times import utc_time
from pivet.judge.wording import count


def waiting_words(state: FeedState) -> str:
    """What waits, and how old it is; empty where nothing does.

    Args:
        state: of the feed.
    """
    if not state.waiting:
        return ""
    behind = f", the oldest {lasting(state.behind_s)} old" if state.behind_s >= 1 else ""
    return f"{count(state.waiting, 'exchange')} waiting{behind}"


def acked_words(state: FeedState) -> str:
    """When something was last acknowledged.

    Args:
        state: of the feed.
    """
    return f"last acknowledged {utc_time(state.acked_ns)}" if state.acked_ns else ""


def state_lines(state: FeedState) -> list[str]:
    """How a feed is doing, and its trouble below.

    Args:
        state: of the feed.
    """
    sent = f"{count(state.sent, 'row')} sent"
    parts = [f"{state.name}: {state.state}", waiting_words(state), sent, acked_words(state)]
    line = "; ".join(part for part in (*parts, state.url) if part)
    return [line, f"    {state.trouble}"] if state.trouble else [line]
