"""Watching limits over readings that come: each crossing is told once."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from pivet.frozen import FrozenValue
from pivet.history.sentences import moment
from pivet.readings.limits import Crossing, Limit, LimitWatch
from pivet.readings.series import Sensor, Series
from pivet.readings.units import UnitChoice


@dataclass(slots=True)
class _Watched:
    """A sensor that is watched.

    Attributes:
        watch: the watch of its limit.
        seen_ns: up to here its values were taken.
    """

    watch: LimitWatch
    seen_ns: int


class LimitEvent(FrozenValue):
    """A crossing of a sensor that began, or ended."""

    sensor: Sensor
    limit: Limit
    crossing: Crossing


class Watching:
    """Watches the sensors that have limits."""

    def __init__(self) -> None:
        self._watched: dict[Sensor, _Watched] = {}

    def take(
        self, limits: Mapping[Sensor, Limit], series: Callable[[Sensor], Series | None]
    ) -> list[LimitEvent]:
        """Looks at the values since it last did.

        Args:
            limits: as they are now; one that is new is looked at from the first value on.
            series: gives the values of a sensor.
        """
        self._watched = {
            sensor: watched
            for sensor, watched in self._watched.items()
            if limits.get(sensor) == watched.watch.limit
        }
        told = []
        for sensor, limit in limits.items():
            found = series(sensor)
            if found is None:
                continue
            row = self._watched.setdefault(sensor, _Watched(LimitWatch(limit), -(1 << 62)))
            first = int(np.searchsorted(found.times_ns, row.seen_ns, side="right"))
            new = found.rows(first, len(found))
            if len(new):
                row.seen_ns = int(new.times_ns[-1])
                crossings = row.watch.feed(new.times_ns, new.values)
                told += [LimitEvent(sensor, limit, crossing) for crossing in crossings]
        return told

    @property
    def open(self) -> dict[Sensor, Crossing]:
        """The limits that are crossed now."""
        return {
            sensor: crossing
            for sensor, watched in self._watched.items()
            for crossing in watched.watch.open.values()
        }


def crossing_text(told: LimitEvent, units: UnitChoice, label: str = "") -> str:
    """A crossing in one sentence.

    Args:
        told: what happened.
        units: the units in which values are shown.
        label: the label of the sensor; empty takes its own name.
    """
    quantity, crossing = told.sensor.quantity, told.crossing
    symbol = units.of(quantity).symbol
    line = dict(told.limit.sides)[crossing.side]
    who = label or told.sensor.who or told.sensor.wire

    def text(value: float) -> str:
        return f"{units.shown(quantity, value):.4g} {symbol}"

    if crossing.until_ns is None:
        return f"{who}: {quantity} {text(crossing.value)}, {crossing.side} {text(line)}."
    return f"{who}: {quantity} is back, no longer {crossing.side} {text(line)}."


def crossing_span(quantity: str, crossing: Crossing, units: UnitChoice, clock: bool) -> str:
    """From when until when a limit was crossed, and how far.

    Args:
        quantity: what was measured.
        crossing: the crossing of its limit.
        units: the units in which values are shown.
        clock: whether times are by the calendar.
    """
    since = moment(crossing.since_ns, clock)
    until = "still" if crossing.until_ns is None else f"until {moment(crossing.until_ns, clock)}"
    worst = f"{units.shown(quantity, crossing.worst):.4g} {units.of(quantity).symbol}"
    return f"{quantity} {crossing.side} its limit from {since}, {until}, at worst {worst}"
