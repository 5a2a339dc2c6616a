"""All that is known of readings at one moment, made at once: who looks at it never waits."""

from collections.abc import Mapping, Sequence

import msgspec
from msgspec.structs import force_setattr

from pivet.frozen import FrozenObject, replace
from pivet.history.attention import SensorState, states
from pivet.history.reliability import Reliability, reliabilities
from pivet.history.series import all_series, derivable, derived_series
from pivet.history.watching import LimitEvent, Watching
from pivet.history.wire import WireHistory
from pivet.person.annotations import Annotations
from pivet.person.roles import Roles
from pivet.progress import Progress, silent
from pivet.readings.limits import Crossing
from pivet.readings.series import Sensor, Series
from pivet.readings.units import QUANTITIES


class ReadingsSet(FrozenObject):
    """Readings as they were at a moment.

    Attributes:
        histories: wire by wire.
        series: what was measured, under its corrections.
        derivable: the sensors of what would follow from it.
        reliability: the reliability of each wire, by name.
        states: every sensor, the one that needs attention most first.
        crossed: limits that were crossed, or are no longer, since the set before.
        open_crossings: the limits that are crossed at the end.
    """

    histories: tuple[WireHistory, ...] = ()
    series: tuple[Series, ...] = ()
    derivable: tuple[Sensor, ...] = ()
    reliability: Mapping[str, Reliability] = msgspec.field(default_factory=dict)
    states: tuple[SensorState, ...] = ()
    crossed: tuple[LimitEvent, ...] = ()
    open_crossings: Mapping[Sensor, Crossing] = msgspec.field(default_factory=dict)
    _derived: dict[Sensor, Series | None] = msgspec.field(default_factory=dict)
    _by_sensor: Mapping[Sensor, Series] = msgspec.field(default_factory=dict)
    _follows: frozenset[Sensor] = frozenset()

    def __post_init__(self) -> None:
        by_sensor = {one.sensor: one for one in reversed(self.series)}
        force_setattr(self, "_by_sensor", by_sensor)
        force_setattr(self, "_follows", frozenset(self.derivable))

    def __len__(self) -> int:
        """Exchanges of all wires."""
        return sum(len(history) for history in self.histories)

    @property
    def sensors(self) -> list[Sensor]:
        """Everything that can be shown, by quantity, what was measured first."""
        order = list(QUANTITIES)
        rows = [*(one.sensor for one in self.series), *self.derivable]
        return sorted(rows, key=lambda sensor: order.index(sensor.quantity))

    @property
    def span_ns(self) -> tuple[int, int] | None:
        """From the first to the last exchange; None without any."""
        there = [history.times_ns for history in self.histories if len(history)]
        if not there:
            return None
        return min(int(times[0]) for times in there), max(int(times[-1]) for times in there)

    def is_made(self, sensor: Sensor) -> bool:
        """Whether its series is there already.

        Args:
            sensor: wire, device and quantity.
        """
        return sensor not in self._follows or sensor in self._derived

    def is_derived(self, sensor: Sensor) -> bool:
        """Whether it follows from other readings.

        Args:
            sensor: wire, device and quantity.
        """
        return sensor in self._follows

    def series_of(self, sensor: Sensor) -> Series | None:
        """A series; what is derived is made when it is first asked for, in any thread.

        Args:
            sensor: wire, device and quantity.
        """
        if sensor not in self._follows:
            return self._by_sensor.get(sensor)
        if sensor not in self._derived:
            made = derived_series(self.series, self.histories, sensor)
            self._derived[sensor] = made[0] if made else None
        return self._derived[sensor]


def readings_set(
    histories: Sequence[WireHistory],
    roles: Roles,
    given: Annotations,
    watching: Watching,
    clock: bool,
    wanted: Sequence[Sensor] = (),
    progress: Progress = silent,
) -> ReadingsSet:
    """Makes all that there is of histories.

    Args:
        histories: wire by wire, in order of time where they are of the same.
        roles: the person's names of devices.
        given: what the person gave to the readings: corrections and limits act.
        watching: the limits up to the set before; goes on.
        clock: whether times are by the calendar.
        wanted: derived series that are sure to be asked for.
        progress: called between its parts with 1.0, before ``watching`` goes on.

    Raises:
        Cancelled: ``progress`` raised it.
    """
    series = tuple(all_series(histories, roles, given.corrections, derived=False))
    made = ReadingsSet(tuple(histories), series, tuple(derivable(series, histories)))
    progress(1.0)
    whole = reliabilities(histories, clock)
    # From here on it goes through: what the limits have told is told once.
    progress(1.0)
    crossed = tuple(watching.take(given.limits, made.series_of))
    for sensor in wanted:
        made.series_of(sensor)
    open_crossings = watching.open
    found = states(made.histories, series, open_crossings, clock, whole)
    return replace(
        made,
        reliability=whole,
        states=tuple(found),
        crossed=crossed,
        open_crossings=open_crossings,
    )
