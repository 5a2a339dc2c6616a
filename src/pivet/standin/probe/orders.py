"""What a person can tell the stand-in, a line of words each; see docs/standin.md."""

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from pivet.errors import InputError
from pivet.standin.live.cave import Cave
from pivet.standin.live.climate import Disturbance

MOST_CLOCK = 30.0
CRASH_S = 3.0


@dataclass(slots=True)
class Mishaps:
    """What is to go wrong between probe and host.

    Attributes:
        drop: how many of the next bytes get lost.
        crash_s: the probe is to crash, and to come back after so long, s; None: not.
    """

    drop: int = 0
    crash_s: float | None = None


Words = Sequence[str]
Order = Callable[[Cave, Mishaps, Words, float], str]

USAGE = {
    "breathe": "PLACE",
    "hand": "PLACE",
    "cold": "PLACE",
    "set": "PLACE humidity|temperature|level VALUE",
    "unplug": "WIRE|PROBE",
    "plug": "WIRE|PROBE",
    "swap": "PROBE PROBE",
    "pull-up": "WIRE weak|good",
    "noise": "WIRE on|off",
    "clock": "WIRE PERCENT",
    "brown-out": "WIRE",
    "drop": "BYTES",
    "crash": "[SECONDS]",
    "state": "",
}
"""The orders and what follows them."""


def carry_out(line: str, cave: Cave, mishaps: Mishaps, now_s: float) -> str:
    """Does what a line says; gives the answer to print.

    Args:
        line: the order, as it was typed.
        cave: to which it is done.
        mishaps: the mishaps of the probe.
        now_s: what the clock says, s.

    Raises:
        InputError: it makes no sense.
    """
    words = line.split()
    if not words:
        return ""
    order = _ORDERS.get(words[0])
    if order is None:
        raise InputError(f"there is no order {words[0]!r}", f"take one of {', '.join(USAGE)}")
    try:
        return order(cave, mishaps, words[1:], now_s)
    except (IndexError, ValueError) as error:
        if isinstance(error, InputError):
            raise
        raise InputError(
            f"{line.strip()!r} is not whole", f"write: {words[0]} {USAGE[words[0]]}"
        ) from error


def _disturb(kind: Disturbance) -> Order:
    def order(cave: Cave, _mishaps: Mishaps, words: Words, now_s: float) -> str:
        cave.disturb(words[0], kind, now_s)
        return "ok"

    return order


def _set(cave: Cave, _mishaps: Mishaps, words: Words, _now_s: float) -> str:
    cave.set_rest(words[0], words[1], float(words[2]))
    return "ok"


def _plug(plugged: bool) -> Order:
    def order(cave: Cave, _mishaps: Mishaps, words: Words, now_s: float) -> str:
        cave.plug(words[0], plugged, now_s * 1e6)
        return "ok"

    return order


def _swap(cave: Cave, _mishaps: Mishaps, words: Words, _now_s: float) -> str:
    cave.swap(words[0], words[1])
    return "ok"


def _pull_up(cave: Cave, _mishaps: Mishaps, words: Words, _now_s: float) -> str:
    cave.circuit(words[0]).troubles.weak = _either(words[1], "weak", "good")
    return "ok"


def _noise(cave: Cave, _mishaps: Mishaps, words: Words, _now_s: float) -> str:
    cave.circuit(words[0]).troubles.noisy = _either(words[1], "on", "off")
    return "ok"


def _either(word: str, one: str, other: str) -> bool:
    if word not in (one, other):
        raise ValueError(word)
    return word == one


def _clock(cave: Cave, _mishaps: Mishaps, words: Words, _now_s: float) -> str:
    percent = float(words[1])
    if not abs(percent) <= MOST_CLOCK:
        raise InputError(
            f"a clock cannot be off by {percent:g} %", f"take -{MOST_CLOCK:g} to {MOST_CLOCK:g}"
        )
    cave.circuit(words[0]).troubles.clock = 1 + percent / 100
    return "ok"


def _brown_out(cave: Cave, _mishaps: Mishaps, words: Words, now_s: float) -> str:
    cave.circuit(words[0]).power_dips(now_s * 1e6)
    return "ok"


def _drop(_cave: Cave, mishaps: Mishaps, words: Words, _now_s: float) -> str:
    mishaps.drop += max(int(words[0]), 0)
    return "ok"


def _crash(_cave: Cave, mishaps: Mishaps, words: Words, _now_s: float) -> str:
    mishaps.crash_s = max(float(words[0]), 0.0) if words else CRASH_S
    return "ok"


def _state(cave: Cave, _mishaps: Mishaps, _words: Words, now_s: float) -> str:
    places = {
        name: {
            "humidity": round(place.humidity_at(now_s), 2),
            "temperature": round(place.temperature_at(now_s), 2),
        }
        for name, place in cave.places.items()
    }
    wires = {
        name: {
            "unplugged": circuit.troubles.unplugged,
            "weak": circuit.troubles.weak,
            "noisy": circuit.troubles.noisy,
            "clock": round(100 * (circuit.troubles.clock - 1), 2),
        }
        for name, circuit in cave.circuits.items()
    }
    probes = {name: probe.plugged(now_s) for name, probe in cave.probes.items()}
    return json.dumps({"places": places, "wires": wires, "probes": probes, "level": cave.level_m})


_ORDERS: dict[str, Order] = {
    "breathe": _disturb(Disturbance.BREATH),
    "hand": _disturb(Disturbance.HAND),
    "cold": _disturb(Disturbance.COLD),
    "set": _set,
    "unplug": _plug(False),
    "plug": _plug(True),
    "swap": _swap,
    "pull-up": _pull_up,
    "noise": _noise,
    "clock": _clock,
    "brown-out": _brown_out,
    "drop": _drop,
    "crash": _crash,
    "state": _state,
}
