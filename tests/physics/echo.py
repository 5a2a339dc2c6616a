"""Echo sensors: sound that flies there and back; µs."""

from dataclasses import dataclass

import numpy as np

from tests.physics.line import Random, Times, spans_at


def flight_us(metres: Times | float, celsius: float = 20.0) -> Times:
    """There and back, by the speed of sound of an ideal gas."""
    speed = np.sqrt(1.4 * 8.314462 * (celsius + 273.15) / 0.0289645)
    return np.asarray(2e6 * np.asarray(metres) / speed)


@dataclass(frozen=True)
class Shots:
    """Triggers and echoes as spans (n, 2) in which each line is high; true flights (n,)."""

    triggers: Times
    echoes: Times

    @property
    def flights(self) -> Times:
        """Lengths of the echoes."""
        return np.diff(self.echoes, axis=1)[:, 0]


def shots(
    random: Random,
    metres: Times,
    trigger: float = 12.0,
    wait: float = 460.0,
    every: float = 100_000.0,
    noise: float = 6.0,
) -> Shots:
    """Shots at walls so far away; the wait varies a little as boards' do."""
    count = metres.size
    starts = 5000.0 + every * np.arange(count)
    rises = starts + trigger + wait + random.normal(0, 3, count)
    flights = flight_us(metres) + random.normal(0, noise, count)
    return Shots(spans_at(starts, np.full(count, trigger)), spans_at(rises, flights))
