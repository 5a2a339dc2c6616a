"""Air for live echo sensors, from a thermometer that is listened to beside them."""

from collections.abc import Sequence

import numpy as np

from pivet.captures.air_sources import air_sources
from pivet.errors import InputError
from pivet.frozen import replace
from pivet.listening.heard_wire import HeardWire
from pivet.readings.sound import USUAL_AIR, Air

FROM = "from "


def air_from(label: str) -> Air:
    """The air of a thermometer that has not been read yet: the usual, until it is.

    Args:
        label: wire, and the device on it.
    """
    return replace(USUAL_AIR, label=FROM + label)


def refuse_unknown_air(label: str, names: Sequence[str]) -> None:
    """Refuses a thermometer on a wire that is not listened to.

    Args:
        label: what was said of the air.
        names: the names of the wires that are listened to.

    Raises:
        InputError: there is no such wire.
    """
    if label.partition(",")[0] not in names:
        raise InputError(
            f"no wire {label!r} is listened to, so it cannot tell the air's temperature",
            f"take one of {', '.join(names)}",
        )


def renew_air(wires: Sequence[HeardWire]) -> None:
    """Tells echo wires what the thermometer that they go by has read since.

    Args:
        wires: the wires of the listener.
    """
    for wire in wires:
        air = wire.setup.choices.air
        if air is None or wire.live is None or not air.label.startswith(FROM):
            continue
        newer = _read(wires, air.label)
        if newer is None or (air.given and newer.times_ns[-1] <= air.times_ns[-1]):
            continue
        wire.learn(replace(wire.live.choices, air=_joined(air, newer)))


def _read(wires: Sequence[HeardWire], label: str) -> Air | None:
    """What a thermometer has read lately."""
    named = [(wire.name, wire.shown, wire.shown.tracks) for wire in wires if wire.shown is not None]
    sources = air_sources(named)
    exact = [source for source in sources if FROM + source.label == label]
    rough = [source for source in sources if (FROM + source.label).startswith(f"{label},")]
    return next((source.air() for source in (*exact, *rough)), None)


def _joined(air: Air, newer: Air) -> Air:
    """All that is known: what was read before, too."""
    if not air.given:
        return replace(newer, label=air.label)
    older = air.times_ns < newer.times_ns[0]
    return Air(
        air.label,
        np.concatenate((air.times_ns[older], newer.times_ns)),
        np.concatenate((air.values[older], newer.values)),
    )
