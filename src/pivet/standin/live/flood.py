"""Lines full of edges, to measure how many a host can take."""

from dataclasses import dataclass, field

import numpy as np

from pivet.signal.trace import Level
from pivet.standin.live.circuit import Circuit, Driven, FloatArray, own_edges
from pivet.standin.onewire.host import Host
from pivet.standin.onewire.line import Conditions
from pivet.standin.onewire.thermometer import Thermometer, make_code

READS = 40
MOST_RATE = 25_000.0
"""Edges a second that one line of reads brings."""


@dataclass(slots=True)
class Flood(Circuit):
    """A line on which some other firmware reads a thermometer without pause.

    Attributes:
        pattern: edges of one period, µs from its start.
        period_us: its length, µs.
    """

    pattern: FloatArray = field(kw_only=True)
    period_us: float = field(kw_only=True)
    _began_us: float | None = None
    _given: int = 0

    def poll(self, until_us: float) -> list[FloatArray]:
        """All edges of the next periods that have begun."""
        if self._began_us is None:
            self._began_us = until_us
        due = int((until_us - self._began_us) // self.period_us) + 1
        starts = self._began_us + self.period_us * np.arange(self._given, due)
        self._given = due
        edges: FloatArray = (starts[:, None] + self.pattern).ravel()
        return [edges]

    def driven(self, line: int, lows: Driven, level: Level) -> list[FloatArray]:
        """Only what the host does.

        Args:
            line: its name.
            lows: when the line is pulled low, and until when, µs.
            level: the level that the line is driven to.
        """
        return [own_edges(lows)]

    def power_dips(self, now_us: float) -> None:
        """Nothing happens."""


def flood_circuits(rate: int, seed: int) -> list[Circuit]:
    """Lines that together bring ``rate`` edges a second."""
    count = int(np.ceil(rate / MOST_RATE))
    circuits: list[Circuit] = []
    for number in range(count):
        device = Thermometer(make_code(0x28, 0x0A00_0000 + number), lambda _: 12.0)
        host = Host([device], Conditions(), seed + number, start_s=0.0)
        for _ in range(READS):
            host.match(device.code)
            host.read_scratchpad()
        edges = host.line("flood").edges_ns / 1000.0
        period = edges.size / (rate / count) * 1e6
        circuits.append(
            Flood(
                (f"flood.{number}",),
                Level.HIGH,
                pattern=edges * (period / max(host.now_s * 1e6, period)),
                period_us=period,
            )
        )
    return circuits
