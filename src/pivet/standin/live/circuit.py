"""What is wired to one or two lines of a stand-in probe, and how it answers."""

from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from pivet.signal.trace import Level

FloatArray = npt.NDArray[np.float64]
Driven = Sequence[tuple[float, float]]
"""When a host begins to drive a line, and for how long, µs."""

NO_EDGES: FloatArray = np.empty(0)

WEAK_US = 5.0
HELPED_US = 3.0
"""A weak pull-up lets the line rise late; with the probe's own beside it, less so."""

SPIKE_US = 0.7
SPIKES = 3
"""A noisy line brings up to so many spikes an exchange."""


@dataclass(slots=True)
class Troubles:
    """What is wrong with a circuit.

    Attributes:
        unplugged: the sensor is off the line.
        weak: the pull-up is weak, the line rises late.
        helped: the probe's own pull-up is on.
        noisy: spikes stand on the line.
        clock: pulses of the sensor over typical ones.
    """

    unplugged: bool = False
    weak: bool = False
    helped: bool = False
    noisy: bool = False
    clock: float = 1.0

    @property
    def rise_us(self) -> float:
        """The line rises so much late, µs."""
        return (HELPED_US if self.helped else WEAK_US) if self.weak else 0.0


@dataclass(slots=True)
class Circuit(ABC):
    """A sensor (or several) on its lines.

    Attributes:
        names: the names of the lines.
        idle: level of all its lines while nobody drives them.
        troubles: what is wrong.
        random: source of jitter and noise.
    """

    names: tuple[str, ...]
    idle: Level
    troubles: Troubles = field(default_factory=Troubles)
    random: np.random.Generator = field(default_factory=lambda: np.random.default_rng(1))

    @abstractmethod
    def driven(self, line: int, lows: Driven, level: Level) -> list[FloatArray]:
        """A host drives a line; gives the edges of all lines, its own included, µs.

        Args:
            line: which of the circuit's lines.
            lows: when it drives, in order of time; more may follow in a later call.
            level: to which level.
        """

    def poll(self, until_us: float) -> list[FloatArray]:
        """Edges that come without being asked by the probe, up to a moment, µs."""
        return [NO_EDGES for _ in self.names]

    def plug(self, plugged: bool, now_us: float) -> None:
        """The sensor is pulled off its line, or put back."""
        self.troubles.unplugged = not plugged
        self.power_dips(now_us)

    @abstractmethod
    def power_dips(self, now_us: float) -> None:
        """The supply fails for a moment."""

    def noise(self, edges: FloatArray) -> FloatArray:
        """The same edges with spikes among them, if the line is noisy."""
        if not self.troubles.noisy or edges.size < 4:
            return edges
        for _ in range(int(self.random.integers(0, SPIKES + 1))):
            gaps = np.diff(edges)
            wide = np.flatnonzero(gaps > 6 * SPIKE_US)
            if wide.size:
                at = int(self.random.choice(wide))
                middle = edges[at] + gaps[at] * float(self.random.uniform(0.3, 0.6))
                edges = np.insert(edges, at + 1, [middle, middle + SPIKE_US])
        return edges


@dataclass(slots=True)
class Nothing(Circuit):
    """A line with a pull-up and nothing else."""

    def driven(self, line: int, lows: Driven, level: Level) -> list[FloatArray]:
        """Only what the host does.

        Args:
            line: its name.
            lows: when the line is pulled low, and until when, µs.
            level: the level that the line is driven to.
        """
        return [own_edges(lows, self.troubles.rise_us) if level is not self.idle else NO_EDGES]

    def power_dips(self, now_us: float) -> None:
        """Nothing happens."""


def own_edges(lows: Driven, late_us: float = 0.0) -> FloatArray:
    """Edges of a line that only a host drives, float64 (2n,), µs."""
    return np.array([edge for start, width in lows for edge in (start, start + width + late_us)])
