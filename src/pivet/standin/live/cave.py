"""The demo cave, live: its places, its wires, and what a person can do in it."""

from dataclasses import dataclass, field
from typing import TypeVar

import numpy as np

from pivet.errors import InputError
from pivet.readings.sound import COLDEST_C
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level
from pivet.standin.demo import DEPTH_M
from pivet.standin.live.bus import LiveBus
from pivet.standin.live.circuit import Circuit, Nothing
from pivet.standin.live.climate import (
    HUMIDITY_TAU_S,
    TEMPERATURE_TAU_S,
    ClimatePlace,
    Disturbance,
    Felt,
)
from pivet.standin.live.echo import LiveEcho
from pivet.standin.live.humidity import AskedByFirmware, LiveHumidity, Quantities
from pivet.standin.onewire.thermometer import Thermometer
from pivet.standin.wheels import CODES

T = TypeVar("T")

PROBES = dict(zip(("wheel_1", "wheel_2", "wheel_3", "brine"), CODES.items(), strict=True))
"""Short names of the probes in the wheels, their roles and codes."""

RANGES: dict[str, tuple[float, float, str]] = {
    "humidity": (0.0, 100.0, "%RH"),
    "temperature": (-40.0, 60.0, "°C"),
    "level": (0.0, DEPTH_M - 0.05, "m"),
}
"""What the climate can be set to."""


def _felt(place: ClimatePlace) -> Quantities:
    humidity = Felt(place.humidities, HUMIDITY_TAU_S)
    temperature = Felt(place.temperatures, TEMPERATURE_TAU_S)
    return lambda now_s: {
        "humidity": humidity.at(now_s),
        "temperature": temperature.at(now_s),
    }


@dataclass(slots=True)
class Cave:
    """Places, wires and probes by name.

    Attributes:
        places: where something can be changed.
        circuits: by wire.
        probes: the probes of the wheels, by short name.
        level_m: of the brine, m.
    """

    places: dict[str, ClimatePlace] = field(default_factory=dict)
    circuits: dict[str, Circuit] = field(default_factory=dict)
    probes: dict[str, Thermometer] = field(default_factory=dict)
    spots: dict[str, str] = field(default_factory=dict)
    level_m: float = 0.8

    def place(self, name: str) -> ClimatePlace:
        """A place by name.

        Raises:
            InputError: there is none.
        """
        return _find(self.places, name, "place")

    def circuit(self, name: str) -> Circuit:
        """A wire by name.

        Raises:
            InputError: there is none.
        """
        return _find(self.circuits, name, "wire")

    def disturb(self, name: str, kind: Disturbance, now_s: float) -> None:
        """Somebody does something at a place.

        Args:
            name: the name of the sensor.
            kind: what happens to it.
            now_s: what the clock says, s.
        """
        self.place(name).disturb(kind, now_s)

    def set_rest(self, name: str, quantity: str, value: float) -> None:
        """A place is given another climate, or the vat another level.

        Args:
            name: the name of the sensor.
            quantity: the quantity that is set.
            value: to which it settles.

        Raises:
            InputError: there is no such place or quantity, or the value is beyond its range.
        """
        low, high, unit = _find(RANGES, quantity, "quantity")
        if not low <= value <= high:
            raise InputError(
                f"{quantity} {value:g} {unit} is beyond the cave",
                f"take a value from {low:g} to {high:g}",
            )
        if quantity == "level":
            self.level_m = value
        else:
            setattr(self.place(name), quantity, value)

    def plug(self, name: str, plugged: bool, now_us: float) -> None:
        """A wire's sensor, or one probe of the wheels, is pulled off or put back.

        Args:
            name: the name of the sensor.
            plugged: it is there, or no longer.
            now_us: what the clock says, us.
        """
        wheels = self.circuits["wheels"]
        if name in self.probes and isinstance(wheels, LiveBus):
            wheels.plug_device(self.probes[name], plugged, now_us)
        else:
            self.circuit(name).plug(plugged, now_us)

    def swap(self, one: str, other: str) -> None:
        """Two probes change places: each now feels what the other felt."""
        first, second = _find(self.probes, one, "probe"), _find(self.probes, other, "probe")
        first.course, second.course = second.course, first.course
        self.spots[one], self.spots[other] = self.spots[other], self.spots[one]


def _find(rows: dict[str, T], name: str, kind: str) -> T:
    if name not in rows:
        raise InputError(f"there is no {kind} {name!r} in the cave", f"take {', '.join(rows)}")
    return rows[name]


def make_cave(seed: int = 20) -> Cave:
    """The cave as it is when nobody has touched anything."""
    cave = Cave()
    cave.places |= {
        "shelf_A": ClimatePlace(92.0, 11.8, 0.3),
        "wash_room": ClimatePlace(78.0, 13.4, 0.5, phase=1.0),
        "blast_chiller": ClimatePlace(61.0, -18.0, 0.7, 300.0),
        "cellar_door": ClimatePlace(70.0, 14.0, 0.4, phase=2.0),
        "wheel_1": ClimatePlace(88.0, 12.4, 0.15, phase=0.3),
        "wheel_2": ClimatePlace(88.0, 12.9, 0.12, phase=1.4),
        "wheel_3": ClimatePlace(88.0, 11.6, 0.18, phase=2.2),
        "brine": ClimatePlace(100.0, 9.8, 0.3),
        "brine_vat": ClimatePlace(95.0, 12.0, 0.3),
    }
    for name, (_, code) in PROBES.items():
        felt = Felt(cave.places[name].temperatures, TEMPERATURE_TAU_S)
        cave.probes[name] = Thermometer(code, felt.at)
        cave.spots[name] = name
    vat = cave.places["brine_vat"]
    rows: list[tuple[str, Circuit]] = [
        ("shelf_A", _sensor(cave, "shelf_A", "dht22")),
        ("wash_room", _sensor(cave, "wash_room", "dht11")),
        ("wheels", LiveBus(("cave.wheels",), Level.HIGH, devices=list(cave.probes.values()))),
        (
            "brine_vat",
            LiveEcho(
                ("cave.brine_vat.trigger", "cave.brine_vat.echo"),
                Level.LOW,
                sheet=find_sheet("hc-sr04"),
                distance_m=lambda _: DEPTH_M - cave.level_m,
                air_c=lambda now_s: max(vat.temperature_at(now_s), COLDEST_C),
            ),
        ),
        ("blast_chiller", _sensor(cave, "blast_chiller", "dht22")),
        ("cellar_door", _sensor(cave, "cellar_door", "dht11-early", AskedByFirmware)),
        ("spare", Nothing(("cave.spare",), Level.HIGH)),
    ]
    cave.circuits = dict(rows)
    for number, circuit in enumerate(cave.circuits.values()):
        circuit.random = np.random.default_rng(seed + number)
    return cave


def _sensor(
    cave: Cave, name: str, sheet: str, kind: type[LiveHumidity] = LiveHumidity
) -> LiveHumidity:
    return kind(
        (f"cave.{name}",),
        Level.HIGH,
        sheet=find_sheet(sheet),
        feels=_felt(cave.places[name]),
        late_conversion=sheet == "dht22",
    )
