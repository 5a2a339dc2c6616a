"""A capture played again, at its own pace, a faster one, or as fast as it goes."""

import math
import time
from collections.abc import Callable, Sequence

import numpy as np

from pivet.signal.trace import Level, Line, Trace
from pivet.sources.source import (
    About,
    Batch,
    Gap,
    LineInfo,
    Piece,
    Source,
    SourceEnded,
    SourceError,
)

AT_ONCE = 100_000
"""Edges given at once when there is no pace."""

STEP_S = 0.01
"""Between two reads at most, so that what is played comes evenly."""


class ReplaySource(Source):
    """Plays a trace.

    Args:
        name: the name of the capture.
        trace: what is played; its beginning is the source's zero.
        pace: 1 as it was, 4 four times as fast; infinite as fast as it is read.
        clock: monotonic seconds.
        sleep: waits, s.
    """

    returns = False
    replays = True

    def __init__(
        self,
        name: str,
        trace: Trace,
        pace: float = 1.0,
        clock: Callable[[], float] = time.monotonic,
        sleep: Callable[[float], None] = time.sleep,
    ) -> None:
        if not pace > 0:
            raise SourceError(f"a pace of {pace:g} plays nothing", "take a number above 0")
        self._name, self._trace, self._pace = name, trace, pace
        self._clock, self._sleep = clock, sleep
        self._lines: dict[str, Line] = {}
        self._begun: set[str] = set()
        self._started: float | None = None
        self._at_ns = 0

    @property
    def name(self) -> str:
        """The capture's name."""
        return self._name

    @property
    def trace(self) -> Trace:
        """What is played."""
        return self._trace

    def open(self) -> About:
        """Starts playing at the first ``read``."""
        lines = tuple(LineInfo(line.name, level=line.initial) for line in self._trace.lines)
        length = (self._trace.end_ns - self._trace.start_ns) / 1e9
        facts = (("length", f"{length:.3f} s"), ("edges", str(self._trace.edge_count)))
        return About(self._name, lines, self._trace.resolution_ns, facts)

    def listen(self, lines: Sequence[str]) -> None:
        """Plays these lines; see ``Source.listen``.

        Args:
            lines: names of lines; none means all.
        """
        about = self.open()
        names = [about.line(name).name for name in lines]
        by_name = {line.name: line for line in self._trace.lines}
        self._lines = {name: by_name[name] for name in names}
        self._begun &= set(names)

    @property
    def _length_ns(self) -> int:
        return self._trace.end_ns - self._trace.start_ns

    def now_ns(self) -> int:
        """Where it plays, ns."""
        if math.isinf(self._pace) or self._started is None:
            return self._at_ns
        passed = (self._clock() - self._started) * self._pace * 1e9
        return min(round(passed), self._length_ns)

    def read(self, timeout_s: float) -> Batch:
        """What was played since the last read; see ``Source.read``.

        Args:
            timeout_s: the longest wait, s.

        Raises:
            SourceEnded: all was played.
        """
        if self._started is None:
            self._started = self._clock()
        if self._at_ns >= self._length_ns and self._begun >= self._lines.keys():
            raise SourceEnded(f"{self._name} was played to its end", "")
        if math.isinf(self._pace):
            until = self._bound()
        else:
            self._sleep(min(timeout_s, STEP_S))
            until = self.now_ns()
        pieces = tuple(self._piece(line, until) for line in self._lines.values())
        self._at_ns = until
        return Batch(pieces)

    def _bound(self) -> int:
        """Up to where so many edges of the busiest line stand."""
        start = self._at_ns + self._trace.start_ns
        bounds = [self._trace.end_ns]
        for line in self._lines.values():
            first = int(np.searchsorted(line.edges_ns, start, side="right"))
            if first + AT_ONCE < line.edges_ns.size:
                bounds.append(int(line.edges_ns[first + AT_ONCE]))
        return max(min(bounds), start) - self._trace.start_ns

    def _piece(self, line: Line, until: int) -> Piece:
        zero = self._trace.start_ns
        begins = line.name not in self._begun
        self._begun.add(line.name)
        # An edge at the very beginning is news, too.
        after = self._at_ns + zero - int(begins and not self._at_ns)
        first = int(np.searchsorted(line.edges_ns, after, side="right"))
        last = int(np.searchsorted(line.edges_ns, until + zero, side="right"))
        edges = line.edges_ns[first:last] - zero
        gap = None
        if begins:
            level = Level(line.initial ^ (first & 1))
            gap = Gap(self._at_ns, self._at_ns, level, 0)
        return Piece(line.name, edges, until, gap)

    def close(self) -> None:
        """Nothing is held."""
