"""The demo's wheels: four 1-Wire probes in cheeses and brine, read all through the night."""

import math
from collections.abc import Callable

import numpy as np

from pivet.progress import Progress, silent
from pivet.signal.trace import Line
from pivet.standin.onewire import Conditions, Host, Thermometer, make_code

EVERY_S = 30.0
SEARCH_EVERY = 20
"""Every so many rounds the firmware searches the line anew."""

CODES = {
    "wheel 1, core": make_code(0x28, 0x0000051B2C7D),
    "wheel 2, core": make_code(0x28, 0x0000061B2C7D),
    "wheel 3, core": make_code(0x28, 0x01193CF2E5D0),
    "brine": make_code(0x10, 0x000802B3A1C4),
}
"""The roles of the demo's probes."""

NEW_PROBE = make_code(0x28, 0x00000A41D9B2)
"""Plugged in late in the night in place of the one that was pulled off; it has no role yet."""

PULLED_S = 22 * 60 + 10.0
REPLACED_S = 41 * 60 + 5.0
DIP_ROUND, EARLY_ROUND, SPOILED_ROUND, WEAK_ROUNDS = 63, 34, 97, range(104, 108)


def wheels_line(
    seed: int,
    night_s: float,
    step_ns: int,
    every_s: float = EVERY_S,
    progress: Progress = silent,
) -> Line:
    """A night of the wheels' wire, read every so many seconds.

    Args:
        seed: the seed of all that is drawn.
        night_s: how long the night lasts, s.
        step_ns: of the capture, ns.
        every_s: how often the wheels are read, s.
        progress: called with the share done, 0 to 1.
    """
    dip_s = DIP_ROUND * every_s + 3.5
    probes = _probes(dip_s)
    host = Host(probes, Conditions(step_ns=step_ns), seed, start_s=3.0)
    known = host.search()
    for number in range(round(night_s / every_s)):
        progress(number * every_s / night_s)
        host.wait_until(3.0 + number * every_s + 0.2)
        host.wire.rise_us = 7.5 if number in WEAK_ROUNDS else 0.0
        if number and number % SEARCH_EVERY == 0:
            known = host.search() or known
        host.skip()
        host.convert(wait_s=0.31 if number == EARLY_ROUND else None)
        for place, code in enumerate(known):
            host.match(code)
            if number == SPOILED_ROUND and place == 1:
                host.spoil = _spoil
            host.read_scratchpad()
    return host.line("cave.wheels")


def _probes(dip_s: float) -> list[Thermometer]:
    courses = {
        "wheel 1, core": _swing(12.4, 0.25, 0.3),
        "wheel 2, core": _swing(12.9, 0.2, 1.4),
        "wheel 3, core": _swing(11.6, 0.3, 2.2),
        "brine": _swing(9.8, 0.5, 0.0),
    }
    probes = [Thermometer(code, courses[role]) for role, code in CODES.items()]
    probes[0].dips = (dip_s,)
    probes[2].away = ((PULLED_S, math.inf),)
    new = Thermometer(NEW_PROBE, courses["wheel 3, core"], away=((-math.inf, REPLACED_S),))
    return [*probes, new]


def _swing(mean: float, by: float, phase: float) -> Callable[[float], float]:
    return lambda t_s: mean + by * math.sin(2 * math.pi * t_s / 2700.0 + phase)


def _spoil(bits: np.ndarray) -> np.ndarray:
    """A bit that is read wrongly."""
    bits = bits.copy()
    bits[13] ^= 1
    return bits
