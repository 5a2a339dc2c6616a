"""Made-up captures by what was asked for on the command line."""

from collections.abc import Callable

import numpy as np

from pivet.errors import InputError
from pivet.frozen import FrozenValue
from pivet.sheets.families import ECHO_PULSE, HUMIDITY_FRAME, ONE_WIRE
from pivet.sheets.model import Sheet
from pivet.signal.trace import Line, Trace
from pivet.standin import onewire
from pivet.standin.echo import EchoFault, EchoScene, echo_lines
from pivet.standin.faults import Fault, parse_fault, spread
from pivet.standin.humidity import Conditions
from pivet.standin.onewire.session import OneWireFault, Session, session_line
from pivet.standin.scene import Scene, scenes_trace, spread_faults

ANSWER_US = 10_000
"""Longer than any answer."""

REST_NS = 50_000_000


class Wish(FrozenValue):
    """What was asked for on the command line."""

    sheet: Sheet
    count: int
    interval: float | None
    faults: tuple[str, ...]
    humidity: float
    temperature: float
    distance: float
    devices: int
    resolution: int
    fast: bool
    clock: float
    jitter: float
    rise: float
    step: int
    seed: int


def _humidity(wish: Wish) -> Trace:
    sheet = wish.sheet
    least_s = (sheet.windows["ask"].typ_us + ANSWER_US) / 1e6
    if wish.interval is not None and not wish.interval >= least_s:
        raise InputError(
            f"an interval of {wish.interval:g} s leaves no time for ask and answer",
            f"give at least {least_s:g} s",
        )
    rows, whole = spread_faults([parse_fault(text, Fault) for text in wish.faults], wish.count)
    scene = Scene(
        name="cave.data",
        sheet=sheet,
        humidity=np.full(wish.count, wish.humidity),
        temperature=np.full(wish.count, wish.temperature),
        interval_s=wish.interval if wish.interval is not None else sheet.interval_s * 1.05,
        conditions=Conditions(1 + wish.clock / 100, wish.jitter, wish.rise, wish.step),
        faults=rows,
        whole=whole,
    )
    return scenes_trace((scene,), wish.seed)


def _onewire(wish: Wish) -> Trace:
    chosen = [parse_fault(text, OneWireFault) for text in wish.faults]
    session = Session(
        devices=wish.devices,
        rounds=wish.count,
        temperature=wish.temperature,
        resolution=wish.resolution,
        interval_s=2.0 if wish.interval is None else wish.interval,
        fast=wish.fast,
        conditions=onewire.Conditions(wish.jitter, wish.rise, wish.step),
        faults=spread(chosen, wish.count),
    )
    return _trace((session_line(session, "cave.dq", wish.seed),), wish.step)


def _echo(wish: Wish) -> Trace:
    chosen = [parse_fault(text, EchoFault) for text in wish.faults]
    rule = wish.sheet.echo
    if rule is None or not rule.nearest_m <= wish.distance <= rule.farthest_m:
        raise InputError(
            f"the {wish.sheet.name} cannot measure {wish.distance:g} m",
            "take a value from 0.02 to 4 (four pins) or 3 (three pins)",
        )
    scene = EchoScene(
        name="cave.vat",
        sheet=wish.sheet,
        distance=np.full(wish.count, wish.distance),
        air_c=np.full(wish.count, wish.temperature),
        interval_s=0.1 if wish.interval is None else wish.interval,
        jitter_us=wish.jitter,
        step_ns=wish.step,
        faults=spread(chosen, wish.count),
    )
    return _trace(echo_lines(scene, wish.seed), wish.step)


def _trace(lines: tuple[Line, ...], step_ns: int) -> Trace:
    last = max(int(line.edges_ns[-1]) for line in lines if line.edges_ns.size)
    return Trace(lines, 0, -(-(last + REST_NS) // step_ns) * step_ns, step_ns)


MAKERS: dict[str, Callable[[Wish], Trace]] = {
    HUMIDITY_FRAME: _humidity,
    ONE_WIRE: _onewire,
    ECHO_PULSE: _echo,
}
"""By family."""

EPILOG = " ".join(
    f"Faults of {name}: {', '.join(kinds)}."
    for name, kinds in (("humidity", Fault), ("1-Wire", OneWireFault), ("echo", EchoFault))
)
