"""An echo sensor that answers triggers."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from pivet.readings.sound import speed_of_sound
from pivet.sheets.model import Sheet
from pivet.signal.trace import Level
from pivet.standin.echo import TIMEOUT_US
from pivet.standin.live.circuit import NO_EDGES, Circuit, Driven, FloatArray, own_edges

JITTER_US = 0.8
TRIGGER, ECHO = 0, 1


@dataclass(slots=True)
class LiveEcho(Circuit):
    """A sensor with trigger and echo on two lines.

    Attributes:
        sheet: its type.
        distance_m: of what stands before it, at a moment in s.
        air_c: temperature of the air, at a moment in s.
    """

    sheet: Sheet = field(kw_only=True)
    distance_m: Callable[[float], float] = field(kw_only=True)
    air_c: Callable[[float], float] = field(kw_only=True)
    _busy_until_us: float = -1e12

    def driven(self, line: int, lows: Driven, level: Level) -> list[FloatArray]:
        """Answers triggers that are long enough while no echo is up.

        Args:
            line: its name.
            lows: when the line is pulled low, and until when, µs.
            level: the level that the line is driven to.
        """
        if level is self.idle:
            return [NO_EDGES, NO_EDGES]
        own = own_edges(lows)
        if line == ECHO:
            return [NO_EDGES, own]
        echoes = [echo for start, width in lows if (echo := self._echo(start, width)) is not None]
        return [self.noise(own), own_edges(echoes)]

    def _echo(self, start: float, width: float) -> tuple[float, float] | None:
        end = start + width
        short = width < self.sheet.windows["trigger"].min_us
        if self.troubles.unplugged or short or end < self._busy_until_us:
            return None
        air = np.array([self.air_c(end / 1e6)])
        flight = 2e6 * self.distance_m(end / 1e6) / float(speed_of_sound(air)[0])
        flight += float(self.random.normal(0.0, JITTER_US))
        rule = self.sheet.echo
        if rule is not None and self.distance_m(end / 1e6) > rule.farthest_m:
            flight = max(TIMEOUT_US, rule.timeout_us)
        wait = self.sheet.windows["wait"].typ_us * self.troubles.clock
        self._busy_until_us = end + wait + flight
        return end + wait, flight * self.troubles.clock

    def power_dips(self, now_us: float) -> None:
        """It is ready again at once."""
        self._busy_until_us = -1e12
