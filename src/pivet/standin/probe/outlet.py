"""One line of the stand-in probe: edges that will come, came, and wait to be sent."""

from dataclasses import dataclass, field

import numpy as np

from pivet.signal.trace import Int64Array, Level
from pivet.sources.link import messages as msg
from pivet.standin.live.circuit import FloatArray
from pivet.standin.steps import seen_in_steps

MOST_EDGES = 400
"""Edges in one message: five bytes each would just fit."""

NONE: Int64Array = np.empty(0, dtype=np.int64)


@dataclass(slots=True)
class Outlet:
    """A line.

    Attributes:
        number: of the line.
        level: after the last edge that came.
        tick_ns: length of the probe's tick, ns.
        late_us: edges are seen late by up to so much, µs.
        listening: its edges are recorded.
        sent: how many edges were sent.
        last: tick of the last edge that came.
        held: edges that came and were not sent.
    """

    number: int
    level: Level
    tick_ns: int
    late_us: float = 0.0
    listening: bool = False
    sent: int = 0
    _coming: Int64Array = field(default_factory=lambda: NONE)
    _held: list[Int64Array] = field(default_factory=list)
    _held_level: Level = Level.LOW
    last: int = -1
    held: int = 0
    _lost: int = 0
    _lost_since: int = 0
    _random: np.random.Generator = field(default_factory=lambda: np.random.default_rng(5))

    def schedule(self, edges_us: FloatArray) -> None:
        """Edges that will come, µs of the probe's time."""
        if not edges_us.size:
            return
        if self.late_us:
            late = self._random.uniform(0.0, self.late_us, edges_us.size)
            edges_us = np.maximum.accumulate(edges_us + late)
        ticks = seen_in_steps(edges_us, self.tick_ns) // self.tick_ns
        coming = np.concatenate((self._coming, ticks[ticks > self.last]))
        self._coming = np.unique(coming)

    @property
    def next_tick(self) -> int | None:
        """When the next edge comes."""
        return int(self._coming[0]) if self._coming.size else None

    @property
    def oldest(self) -> int:
        """Tick of the first edge that was not sent."""
        return int(self._held[0][0])

    def listen(self, on: bool) -> None:
        """Begins or ends recording; what was recorded before goes."""
        if on and not self.listening:
            self._held, self.held, self.sent, self._lost = [], 0, 0, 0
        self.listening = on

    def advance(self, now: int, room: int) -> None:
        """Edges up to a tick come; of those for which there is no room only the number stays."""
        if not self._coming.size or self._coming[0] > now:
            return
        count = int(self._coming.searchsorted(now, side="right"))
        came, self._coming = self._coming[:count], self._coming[count:]
        if self.listening:
            self._keep(came, room)
        self.last = int(came[-1])
        self.level = Level(self.level ^ (count & 1))

    def _keep(self, came: Int64Array, room: int) -> None:
        if self._lost or came.size > room:
            if not self._lost:
                self._lost_since = max(self.last, 0)
            self._lost += came.size
            return
        if not self._held:
            self._held_level = Level(self.level ^ 1)
        self._held.append(came)
        self.held += came.size

    def take(self, now: int) -> list[msg.ProbeMessage]:
        """All edges that came, as messages; then how many could not be kept."""
        messages: list[msg.ProbeMessage] = []
        if self._held:
            ticks = np.concatenate(self._held)
            level = self._held_level
            for first in range(0, ticks.size, MOST_EDGES):
                part = ticks[first : first + MOST_EDGES]
                last = first + part.size == ticks.size
                quiet = now - int(part[-1]) if last and not self._lost else 0
                messages.append(self._edges(part, level, quiet))
                level = Level(level ^ (part.size & 1))
            self._held, self.held = [], 0
        if self._lost:
            count, self._lost = self._lost, 0
            since = self._lost_since & 0xFFFF_FFFF
            messages.append(msg.Lost(self.number, self.level, since, now & 0xFFFF_FFFF, count))
        return messages

    def _edges(self, ticks: Int64Array, level: Level, quiet: int) -> msg.Edges:
        sent, self.sent = self.sent, (self.sent + ticks.size) % msg.SENT_WRAP
        first = int(ticks[0]) & 0xFFFF_FFFF
        return msg.Edges(self.number, level, sent, first, quiet, np.diff(ticks))
