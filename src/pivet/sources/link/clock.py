"""Two clocks side by side: that of a probe, and that of its host."""

from collections import deque
from dataclasses import dataclass

KEPT = 64
"""Beats looked at: the one that travelled fastest among them counts."""

OLD_S = 60.0
"""Over a shorter time no drift is told."""


@dataclass(frozen=True, slots=True)
class _Beat:
    probe_ns: int
    host_ns: int


class Clocks:
    """How far the host's clock is ahead of the probe's, from beats.

    A beat may arrive late, never early: the least difference among some is nearest to the
    truth.
    """

    def __init__(self) -> None:
        self._beats: deque[_Beat] = deque(maxlen=KEPT)
        self._first: _Beat | None = None

    def beat(self, probe_ns: int, host_ns: int) -> None:
        """A beat of the probe's time arrived at the host's time, ns."""
        row = _Beat(probe_ns, host_ns)
        if self._first is None:
            self._first = row
        self._beats.append(row)

    @property
    def ahead_ns(self) -> int | None:
        """Host's time less probe's time; None before the first beat, ns."""
        if not self._beats:
            return None
        return min(row.host_ns - row.probe_ns for row in self._beats)

    @property
    def drift_ppm(self) -> float | None:
        """By how many millionths the probe's clock is slow; None before it can be told."""
        ahead = self.ahead_ns
        if ahead is None or self._first is None:
            return None
        passed = self._beats[-1].probe_ns - self._first.probe_ns
        if passed < OLD_S * 1e9:
            return None
        return (ahead - (self._first.host_ns - self._first.probe_ns)) / passed * 1e6
