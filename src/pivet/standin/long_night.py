"""A whole night in the cave: breaths and hands, an hour of trouble, all in their time."""

from collections.abc import Mapping, Sequence

import numpy as np
import numpy.typing as npt

from pivet.frozen import replace
from pivet.progress import Progress, each, part, silent
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Trace
from pivet.standin.demo import DEPTH_M, STEP_NS
from pivet.standin.echo import EchoFault, EchoScene, echo_lines
from pivet.standin.faults import Fault
from pivet.standin.humidity import Conditions
from pivet.standin.live.climate import (
    HUMIDITY_TAU_S,
    TEMPERATURE_TAU_S,
    ClimatePlace,
    Disturbance,
    Felt,
)
from pivet.standin.scene import Scene, scenes_trace
from pivet.standin.wheels import wheels_line

SEED = 51
HOUR_S = 3600.0
NIGHT_S = 8 * HOUR_S

BREATH_S = 1.6 * HOUR_S
HAND_S = 7.2 * HOUR_S
WET_FROM_S, WET_TO_S = 5 * HOUR_S, 6 * HOUR_S
"""For an hour there is water at the wash room's plug."""

SHELF_EVERY_S, WASH_EVERY_S, CHILLER_EVERY_S = 3.0, 6.0, 20.0
WHEELS_EVERY_S, VAT_EVERY_S = 120.0, 15.0

FELT_AT_ONCE = 64
"""Asks between two progresses."""

STEPS, MOST_STEP_S = 6, 2.0
"""What a sensor feels is worked out in this many steps between two asks."""

HAPPENED: Sequence[tuple[float, str, str]] = (
    (BREATH_S, "breath", "shelf_A"),
    (HAND_S, "warm hand", "shelf_A"),
)
"""What the people of the cave noted: when (s), what, where."""


def long_night(progress: Progress = silent) -> Trace:
    """Eight hours on five wires; always the same.

    Args:
        progress: called with the share done, 0 to 1.
    """
    shelf_a = _shelf_a(part(progress, 0.0, 0.4))
    wash_room = _wash_room(part(progress, 0.4, 0.6))
    chiller = _chiller(part(progress, 0.6, 0.7))
    frames = scenes_trace((shelf_a, wash_room, chiller), SEED, part(progress, 0.7, 0.8))
    wheels = wheels_line(SEED + 10, NIGHT_S, STEP_NS, WHEELS_EVERY_S, part(progress, 0.8, 1.0))
    lines = (*frames.lines[:2], wheels, *echo_lines(_vat(), SEED + 20), *frames.lines[2:])
    last = max(int(line.edges_ns[-1]) for line in lines)
    return replace(frames, lines=lines, end_ns=max(frames.end_ns, last + STEP_NS))


def _felt(
    place: ClimatePlace, first_s: float, every_s: float, progress: Progress
) -> tuple[npt.NDArray[np.float64], ...]:
    """What a sensor there feels at each ask: humidity and temperature."""
    moments = first_s + every_s * np.arange(round(NIGHT_S / every_s))
    step_s = min(every_s / STEPS, MOST_STEP_S)
    humidity = Felt(place.humidities, HUMIDITY_TAU_S, step_s)
    temperature = Felt(place.temperatures, TEMPERATURE_TAU_S, step_s)
    parts = np.array_split(moments, -(-moments.size // FELT_AT_ONCE))
    rows = [(humidity.along(part), temperature.along(part)) for part in each(parts, progress)]
    return tuple(np.concatenate(column) for column in zip(*rows, strict=True))


def _scene(
    name: str,
    sheet: str,
    place: ClimatePlace,
    every_s: float,
    first_s: float,
    faults: Mapping[int, tuple[Fault, ...]],
    progress: Progress,
    rise_us: float = 0.0,
) -> Scene:
    humidity, temperature = _felt(place, first_s, every_s, progress)
    conditions = Conditions(rise_us=rise_us, step_ns=STEP_NS)
    return Scene(
        f"cave.{name}",
        find_sheet(sheet),
        humidity,
        temperature,
        every_s,
        conditions,
        faults,
        first_ask_s=first_s,
    )


def _now_and_then(random: np.random.Generator, count: int, share: float) -> list[int]:
    return np.flatnonzero(random.random(count) < share).tolist()


def _shelf_a(progress: Progress) -> Scene:
    """92 %RH, 11.8 °C; somebody breathes on it, later holds it in a warm hand."""
    place = ClimatePlace(92.0, 11.8, 0.3, 2 * HOUR_S)
    place.disturbed = [(Disturbance.BREATH, BREATH_S), (Disturbance.HAND, HAND_S)]
    random = np.random.default_rng(SEED + 1)
    count = round(NIGHT_S / SHELF_EVERY_S)
    faults = dict.fromkeys(_now_and_then(random, count, 0.002), (Fault.SUM_WRONG,))
    return _scene("shelf_A", "dht22", place, SHELF_EVERY_S, 1.25, faults, progress)


def _wash_room(progress: Progress) -> Scene:
    """11-type, drier and warmer; for an hour water at its plug keeps it from answering."""
    place = ClimatePlace(78.0, 13.4, 0.5, 3 * HOUR_S, phase=1.0)
    random = np.random.default_rng(SEED + 2)
    count = round(NIGHT_S / WASH_EVERY_S)
    faults: dict[int, tuple[Fault, ...]] = {}
    for wash in range(round(WET_FROM_S / WASH_EVERY_S), round(WET_TO_S / WASH_EVERY_S)):
        draw = random.random()
        if draw < 0.62:
            faults[wash] = (Fault.NO_ANSWER,)
        elif draw < 0.70:
            faults[wash] = (Fault.SUM_WRONG,)
    faults |= dict.fromkeys(_now_and_then(random, count, 0.001), (Fault.SPIKE,))
    return _scene("wash_room", "dht11", place, WASH_EVERY_S, 2.5, faults, progress)


def _chiller(progress: Progress) -> Scene:
    """-18 °C behind a long cable with a weak pull-up."""
    place = ClimatePlace(61.0, -18.0, 0.7, 1200.0)
    random = np.random.default_rng(SEED + 3)
    count = round(NIGHT_S / CHILLER_EVERY_S)
    faults = dict.fromkeys(_now_and_then(random, count, 0.03), (Fault.WEAK_PULL_UP,))
    return _scene("blast_chiller", "dht22", place, CHILLER_EVERY_S, 4.0, faults, progress, 0.6)


def _vat() -> EchoScene:
    """Brine is drawn off slowly, and filled up towards morning."""
    count = round(NIGHT_S / VAT_EVERY_S)
    night = np.linspace(0.0, 1.0, count)
    level = 0.95 - 0.3 * np.clip(night / 0.8, 0, 1) + 0.35 * np.clip(night * 12 - 10.5, 0, 1)
    random = np.random.default_rng(SEED + 4)
    foam = _now_and_then(random, count, 0.01)
    return EchoScene(
        "cave.brine_vat",
        find_sheet("hc-sr04"),
        DEPTH_M - level + 0.0015 * np.sin(300 * np.pi * night),
        11.8 + 0.3 * np.sin(8 * np.pi * night),
        VAT_EVERY_S,
        step_ns=STEP_NS,
        faults=dict.fromkeys(foam, (EchoFault.SOFT_TARGET,)),
        first_s=5.0,
    )
