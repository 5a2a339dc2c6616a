"""Two clocks side by side: that of a probe, and that of its host."""

from collections import deque

SLOW_NS = 200_000_000
"""No beat travels for so long: a clock that lags by more goes slowly, as that of a simulated chip
on a busy computer does."""

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
        least = min(self._ahead, default=None)
        if least is not None and self._ahead[-1] - least > SLOW_NS:
            return self._ahead[-1]
        return least
