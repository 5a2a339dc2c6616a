"""An echo sensor above a target: triggers and echoes as edges of one or two lines."""

from collections.abc import Mapping, Sequence
from enum import StrEnum

import msgspec
import numpy as np
import numpy.typing as npt

from pivet.errors import InputError
from pivet.frozen import FrozenObject
from pivet.readings.sound import speed_of_sound
from pivet.sheets.model import Sheet
from pivet.signal.trace import Level, Line
from pivet.standin.steps import seen_in_steps

FloatArray = npt.NDArray[np.float64]

TIMEOUT_US = 38_000.0
ROOMY = 1.2
"""A host holds the trigger a little longer than it must."""
WALL_M = 2.6
FOAM_US = 8.0
"""Spread of the echo from a soft target, µs."""


class EchoFault(StrEnum):
    """What goes wrong in a measurement."""

    NO_ECHO = "no-echo"
    NOTHING_IN_RANGE = "nothing-in-range"
    TRIGGER_SHORT = "trigger-short"
    RETRIGGERED = "retriggered"
    TOO_SOON = "too-soon"
    TOO_NEAR = "too-near"
    TOO_FAR = "too-far"
    LATE_RISE = "late-rise"
    SOFT_TARGET = "soft-target"


class EchoScene(FrozenObject):
    """What one echo sensor does.

    Attributes:
        name: the name of its wire; two lines are called ``name.trigger`` and ``name.echo``.
        sheet: the sensor type.
        distance: the distance of the target at each shot, float64 (n,), m.
        air_c: air temperature at each shot, float64 (n,), °C.
        interval_s: from shot to shot, s.
        jitter_us: spread of the echo, µs.
        step_ns: step of the capture, ns.
        faults: by number of the shot.
        first_s: time of the first trigger, s.
    """

    name: str
    sheet: Sheet
    distance: FloatArray
    air_c: FloatArray
    interval_s: float
    jitter_us: float = 0.6
    step_ns: int = 100
    faults: Mapping[int, Sequence[EchoFault]] = msgspec.field(default_factory=dict)
    first_s: float = 0.01


def echo_lines(scene: EchoScene, seed: int) -> tuple[Line, ...]:
    """The lines of a scene; the same seed gives the same edges.

    Raises:
        InputError: the interval leaves no time for the echo.
    """
    random = np.random.default_rng(seed)
    typical = {key: window.typ_us for key, window in scene.sheet.windows.items()}
    size = scene.distance.size
    flight = 2e6 * scene.distance / speed_of_sound(scene.air_c)
    flight += random.normal(0.0, scene.jitter_us, size) if scene.jitter_us else 0.0
    trigger = np.full(size, ROOMY * typical["trigger"])
    wait = np.full(size, typical["wait"])
    start = scene.interval_s * 1e6 * np.arange(size, dtype=np.float64)
    start += scene.first_s * 1e6
    _refuse_crowd(scene, float(np.max(flight, initial=0.0)))
    for row, kinds in scene.faults.items():
        for kind in kinds:
            _change(kind, row, scene, trigger, wait, flight, start, random)
    return _lines(scene, start, trigger, wait, flight)


def _refuse_crowd(scene: EchoScene, longest_us: float) -> None:
    if scene.interval_s * 1e6 < longest_us + 2_000:
        raise InputError(
            f"an interval of {scene.interval_s:g} s leaves no time for the echo",
            f"give at least {(longest_us + 2_000) / 1e6:.3f} s",
        )


def _change(
    kind: EchoFault,
    row: int,
    scene: EchoScene,
    trigger: FloatArray,
    wait: FloatArray,
    flight: FloatArray,
    start: FloatArray,
    random: np.random.Generator,
) -> None:
    """Lets a fault befall a shot; a flight of 0 stands for no echo."""
    rule = scene.sheet.echo
    assert rule is not None
    speed = float(speed_of_sound(scene.air_c[row : row + 1])[0])
    if kind is EchoFault.NO_ECHO:
        flight[row] = 0.0
    elif kind is EchoFault.NOTHING_IN_RANGE:
        flight[row] = max(TIMEOUT_US, rule.timeout_us) if rule.lines == 2 else rule.timeout_us
    elif kind is EchoFault.TRIGGER_SHORT:
        trigger[row] = 0.6 * scene.sheet.windows["trigger"].min_us
    elif kind is EchoFault.TOO_NEAR:
        flight[row] = 2e6 * 0.8 * rule.nearest_m / speed
    elif kind is EchoFault.TOO_FAR:
        flight[row] = 2e6 * 1.1 * rule.farthest_m / speed
    elif kind is EchoFault.LATE_RISE:
        wait[row] *= 1.5
    elif kind is EchoFault.SOFT_TARGET:
        flight[row] = 2e6 * WALL_M / speed + random.normal(0.0, FOAM_US)
    elif kind is EchoFault.TOO_SOON and row:
        start[row] = start[row - 1] + 0.6e6 * max(scene.sheet.interval_s, 0.02)
    elif kind is EchoFault.RETRIGGERED and row:
        start[row] = start[row - 1] + trigger[row - 1] + wait[row - 1] + flight[row - 1] / 2
        flight[row] = 0.0


def _lines(
    scene: EchoScene,
    start: FloatArray,
    trigger: FloatArray,
    wait: FloatArray,
    flight: FloatArray,
) -> tuple[Line, ...]:
    order = np.argsort(start, kind="stable")
    start, trigger, wait, flight = (times[order] for times in (start, trigger, wait, flight))
    triggers = np.stack((start, start + trigger), axis=1)
    rise = start + trigger + wait
    echoes = np.stack((rise, rise + flight), axis=1)[flight > 0]
    rule = scene.sheet.echo
    if rule is not None and rule.lines == 1:
        both = np.concatenate((triggers, echoes))
        both = both[np.argsort(both[:, 0], kind="stable")]
        return (_line(scene.name, both, scene.step_ns),)
    return (
        _line(f"{scene.name}.trigger", triggers, scene.step_ns),
        _line(f"{scene.name}.echo", echoes, scene.step_ns),
    )


def _line(name: str, highs_us: FloatArray, step_ns: int) -> Line:
    return Line(name, Level.LOW, seen_in_steps(highs_us.ravel(), step_ns))
