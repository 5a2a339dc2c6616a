"""Two clocks side by side: that of a probe, and that of its host."""

from collections import deque

KEPT = 64
"""Beats looked at: the one that travelled fastest among them counts, so drift is followed."""


class Clocks:
    """How far the host's clock is ahead of the probe's, from beats.

    A beat may arrive late, never early: the least difference among some is nearest to the
    truth.
    """

    def __init__(self) -> None:
        self._ahead: deque[int] = deque(maxlen=KEPT)

    def beat(self, probe_ns: int, host_ns: int) -> None:
        """A beat of the probe's time arrived at the host's time, ns.

        Args:
            probe_ns: by the probe's own clock.
            host_ns: when the bytes arrived.
        """
        self._ahead.append(host_ns - probe_ns)

    @property
    def ahead_ns(self) -> int | None:
        """Host's time less probe's time; None before the first beat, ns."""
        return min(self._ahead, default=None)
