"""Faults, captured ever more coarsely: the uncertainty grows, the stamps stay."""

import numpy as np

from pivet.frozen import replace
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Trace
from tests.physics.faults import FAULTS, Fault
from tests.physics.sweeps.sweep import Make, Sweep

CAPTURED_NS = 30_000


def _coarse(fault: Fault) -> Make:
    trace = fault.make(np.random.default_rng(2))

    def make(figure: float) -> Trace:
        return replace(trace, resolution_ns=round(figure * 1000))

    return make


def _family(fault: Fault) -> str:
    """Of the sheet by which it is judged, or by how many lines it has."""
    if fault.sensor is not None:
        return find_sheet(fault.sensor).family
    lines = fault.make(np.random.default_rng(2)).lines
    return {"data": "humidity-frame", "dq": "one-wire"}.get(lines[0].name, "echo-pulse")


SWEPT = (
    "weak pull-up",
    "weak pull-up, 11-type",
    "sensor pulled off later",
    "reflections",
    "long crosstalk",
    "two sensors on the wire",
    "asked too soon, late",
    "slow clock",
    "a copy",
    "nobody there",
    "weak pull-up, ones read as zeros",
    "weak pull-up, still read",
    "presence of 300 µs",
    "slots of 50 µs",
    "timeout of 20 ms",
    "gap in the echo",
    "crosstalk of the trigger",
)

COARSE = [
    Sweep(f"coarse {row.name}", _coarse(row), 0.001, CAPTURED_NS / 1000, row.sensor, _family(row))
    for row in FAULTS
    if row.name in SWEPT
]
