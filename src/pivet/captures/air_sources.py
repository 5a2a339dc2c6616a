"""Air temperature for echo sensors, from the thermometers of the same bench."""

from pivet.captures.wire import Wire
from pivet.frozen import FrozenObject
from pivet.readings.sound import COLDEST_C, WARMEST_C, Air
from pivet.readings.track import Track


class AirSource(FrozenObject):
    """A thermometer from which the air temperature can be taken.

    Attributes:
        label: wire and device, for people.
        wire, track: where its readings are.
    """

    label: str
    wire: Wire
    track: Track

    def air(self) -> Air | None:
        """Its readings as air temperature over time; None when it gave none."""
        given = self.track.given & (self.track.values >= COLDEST_C)
        given &= self.track.values <= WARMEST_C
        if not given.any():
            return None
        times = self.wire.exchanges.start_ns[self.track.at[given]]
        return Air(f"from {self.label}", times, self.track.values[given])


def air_sources(named: list[tuple[str, Wire, tuple[Track, ...]]]) -> list[AirSource]:
    """The thermometers among wires.

    Args:
        named: each wire with its short name and its tracks, as people call them.
    """
    return [
        AirSource(f"{name}, {track.name}" if track.rom else name, wire, track)
        for name, wire, tracks in named
        for track in tracks
        if track.quantity == "temperature" and track.given.any()
    ]
