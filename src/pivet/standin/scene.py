"""A stand-in sensor asked a number of times: values, times and faults of one line."""

from collections.abc import Mapping, Sequence

import msgspec
import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject, replace
from pivet.progress import Progress, each, silent
from pivet.sheets.load import find_sheet
from pivet.sheets.model import Sheet
from pivet.signal.seconds import ns_of
from pivet.signal.trace import Level, Line, Trace
from pivet.standin.encode import encode
from pivet.standin.faults import OF_THE_CAPTURE, Fault, spread
from pivet.standin.humidity import Conditions, line_edges

FloatArray = npt.NDArray[np.float64]

FIRST_ASK_S = 0.02
REST_S = 0.05
OTHER_TYPE = {"dht22": "dht11-early", "dht11": "dht22", "dht11-early": "dht22"}
TOO_SOON_SHARE = 0.4
HELD_S = 0.4


class Scene(FrozenObject):
    """What one stand-in does.

    Attributes:
        name: the name of its line.
        sheet: the sensor type.
        humidity, temperature: what it measures at each ask, float64 (n,), %RH and °C.
        interval_s: from ask to ask, s.
        conditions: how it deviates from the sheet.
        faults: by number of the exchange.
        whole: faults of the whole capture.
        first_ask_s: start of the first ask, s.
    """

    name: str
    sheet: Sheet
    humidity: FloatArray
    temperature: FloatArray
    interval_s: float
    conditions: Conditions = msgspec.field(default_factory=Conditions)
    faults: Mapping[int, Sequence[Fault]] = msgspec.field(default_factory=dict)
    whole: frozenset[Fault] = frozenset()
    first_ask_s: float = FIRST_ASK_S


def scene_line(scene: Scene, seed: int) -> Line:
    """The edges of a scene; the same seed gives the same edges."""
    random = np.random.default_rng(seed)
    sheet = scene.sheet
    if Fault.WRONG_TYPE in scene.whole:
        sheet = find_sheet(OTHER_TYPE[sheet.id])
    frames = encode(sheet, _values(scene, sheet))
    for row, kinds in scene.faults.items():
        _change_bytes(frames[row], kinds, sheet)
    starts = _starts_us(scene)
    edges = line_edges(sheet, frames, starts, scene.conditions, scene.faults, random)
    return Line(scene.name, Level.HIGH, edges)


def _values(scene: Scene, sheet: Sheet) -> dict[str, FloatArray]:
    wanted = {"humidity": scene.humidity, "temperature": scene.temperature}
    values = {}
    for rule in sheet.values:
        raw = wanted[rule.quantity].astype(np.float64)
        if sheet.id != scene.sheet.id:
            raw = np.clip(raw, rule.low, rule.high)
        values[rule.quantity] = raw.copy()
    for row, kinds in scene.faults.items():
        if Fault.SCALE_EDGE in kinds:
            values["humidity"][row] = sheet.values[0].most
        if Fault.OUT_OF_RANGE in kinds and sheet.values[0].low > sheet.values[0].least:
            values["humidity"][row] = sheet.values[0].low - 8
        if Fault.TOO_SOON in kinds and row > 0:
            for column in values.values():
                column[row] = column[row - 1]
    return values


def _change_bytes(frame: npt.NDArray[np.uint8], kinds: Sequence[Fault], sheet: Sheet) -> None:
    if Fault.ALL_ZEROS in kinds:
        frame[:] = 0
    no_margin = sheet.values[0].low <= sheet.values[0].least
    if Fault.IMPOSSIBLE_VALUE in kinds or (Fault.OUT_OF_RANGE in kinds and no_margin):
        frame[0] = 0x05 if sheet.values[0].form == "tenths" else 130
        frame[4] = frame[:4].sum(dtype=np.uint8)


def _starts_us(scene: Scene) -> FloatArray:
    steps = np.full(scene.humidity.size, scene.interval_s)
    steps[0] = scene.first_ask_s
    for row, kinds in scene.faults.items():
        if Fault.TOO_SOON in kinds and row > 0:
            steps[row] = TOO_SOON_SHARE * scene.sheet.interval_s
        if Fault.LINE_HELD_LOW in kinds and row + 1 < steps.size:
            steps[row + 1] += HELD_S
    starts: FloatArray = np.cumsum(steps) * 1e6
    return starts


def scenes_trace(scenes: Sequence[Scene], seed: int, progress: Progress = silent) -> Trace:
    """Several scenes on one clock; faults of the whole capture are those of the first."""
    lines = tuple(
        scene_line(scene, seed + number) for number, scene in enumerate(each(scenes, progress))
    )
    step_ns = scenes[0].conditions.step_ns
    last = max(int(line.edges_ns[-1]) for line in lines)
    end_ns = -(-(last + ns_of(REST_S)) // step_ns) * step_ns
    trace = Trace(lines, 0, end_ns, step_ns)
    whole = scenes[0].whole
    if Fault.CAPTURE_BEGAN in whole:
        trace = _from(trace, int(lines[0].edges_ns[0]) + 300_000)
    if Fault.CAPTURE_ENDED in whole:
        trace = _until(trace, int(lines[0].edges_ns[-30]))
    return trace


def _from(trace: Trace, start_ns: int) -> Trace:
    start_ns -= start_ns % trace.resolution_ns
    lines = tuple(
        replace(
            line, initial=line.level_at(start_ns), edges_ns=line.edges_ns[line.edges_ns > start_ns]
        )
        for line in trace.lines
    )
    return replace(trace, lines=lines, start_ns=start_ns)


def _until(trace: Trace, end_ns: int) -> Trace:
    lines = tuple(
        replace(line, edges_ns=line.edges_ns[line.edges_ns <= end_ns]) for line in trace.lines
    )
    return replace(trace, lines=lines, end_ns=end_ns)


def spread_faults(
    chosen: Sequence[tuple[Fault, int | None]], count: int
) -> tuple[dict[int, tuple[Fault, ...]], frozenset[Fault]]:
    """Faults by exchange, and those of the whole capture; a fault without place hits all."""
    single = [(fault, place) for fault, place in chosen if fault not in OF_THE_CAPTURE]
    return spread(single, count), frozenset(fault for fault, _ in chosen) & OF_THE_CAPTURE
