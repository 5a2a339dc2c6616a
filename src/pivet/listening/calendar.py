"""The calendar beside a source's clock."""

from collections.abc import Callable
from datetime import datetime

from pivet.sources.source import Source


class Calendar:
    """When by the calendar a moment of a source's clock was.

    A recording that is played again has one zero, whatever its pace.  For all others the
    calendar of the computer is held against the source's clock again and again.  Others may ask
    from their own thread.

    Args:
        wall: ns since 1970.
    """

    def __init__(self, wall: Callable[[], int]) -> None:
        self._wall = wall
        self.zero_ns = wall()

    def look(self, source: Source, opened: bool = False) -> None:
        """Holds both against each other.

        Args:
            source: tells its own time, ns.
            opened: anew just now, so that nothing before counts.
        """
        if opened or not source.replays:
            self.zero_ns = self._wall() - source.now_ns()

    def wall_ns(self, t_ns: int) -> int:
        """A moment of the source's clock, ns since 1970.

        Args:
            t_ns: the moment, ns.
        """
        return self.zero_ns + t_ns

    def wall_time(self, t_ns: int) -> datetime:
        """The same, in the local zone.

        Args:
            t_ns: the moment, ns.
        """
        return datetime.fromtimestamp(self.wall_ns(t_ns) / 1e9).astimezone()
