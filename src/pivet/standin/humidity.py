"""A humidity sensor on a line with host and pull-up, as pulse widths in columns.

Column 0 is the ask, 1 the release, 2 and 3 the answer, then low and high of each bit,
last the end.  Faults change columns of single rows, or add and drop edges.
"""

from collections.abc import Callable, Mapping, Sequence

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenValue
from pivet.sheets.model import Sheet
from pivet.signal.trace import Int64Array
from pivet.standin.faults import Fault
from pivet.standin.steps import seen_in_steps

BITS = 40
ASK, RELEASE, ANSWER_LOW, ANSWER_HIGH, FIRST_LOW, FIRST_HIGH = range(6)
END = FIRST_LOW + 2 * BITS
COLUMNS = END + 1

FloatArray = npt.NDArray[np.float64]
Random = np.random.Generator


class Conditions(FrozenValue):
    """How sensor, host and line deviate from the sheet.

    Attributes:
        clock: sensor's pulses over typical ones; 1.05 is 5 % slow.
        jitter_us: spread of each pulse, µs.
        rise_us: the pull-up lifts the line so much late, µs.
        step_ns: step of the capture, ns.
    """

    clock: float = 1.0
    jitter_us: float = 0.15
    rise_us: float = 0.0
    step_ns: int = 100


def pulse_table(
    sheet: Sheet, frames: npt.NDArray[np.uint8], conditions: Conditions, random: Random
) -> FloatArray:
    """Widths of all pulses, µs.

    Args:
        sheet: the sensor type.
        frames: what it sends, uint8 (n, 5).
        conditions: how it deviates.
        random: source of the jitter.

    Returns:
        float64 (n, 85).
    """
    typical = {key: window.typ_us for key, window in sheet.windows.items()}
    bits = np.unpackbits(frames, axis=1)
    table = np.empty((len(frames), COLUMNS))
    table[:, ANSWER_LOW] = typical["answer_low"]
    table[:, ANSWER_HIGH] = typical["answer_high"]
    table[:, FIRST_LOW:END:2] = typical["bit_low"]
    table[:, FIRST_HIGH:END:2] = np.where(bits, typical["one_high"], typical["zero_high"])
    table[:, END] = typical["end_low"]
    table[:, ANSWER_LOW:] *= conditions.clock
    table[:, ASK], table[:, RELEASE] = typical["ask"], typical["release"]
    jitter = random.normal(0.0, conditions.jitter_us, table.shape)
    table += np.clip(jitter, -2.5 * conditions.jitter_us, 2.5 * conditions.jitter_us)
    lows = np.arange(COLUMNS) % 2 == 0
    table += np.where(lows, conditions.rise_us, -conditions.rise_us)
    return table


def edges_of(table: FloatArray, starts_us: FloatArray) -> FloatArray:
    """Edge times of whole exchanges, float64 (n, 86), µs."""
    edges = np.empty((len(table), COLUMNS + 1))
    edges[:, 0] = starts_us
    np.cumsum(table, axis=1, out=edges[:, 1:])
    edges[:, 1:] += starts_us[:, None]
    return edges


def line_edges(
    sheet: Sheet,
    frames: npt.NDArray[np.uint8],
    starts_us: FloatArray,
    conditions: Conditions,
    faults: Mapping[int, Sequence[Fault]],
    random: Random,
) -> Int64Array:
    """Edges of a line on which exchanges start at given times.

    Args:
        sheet: the sensor type.
        frames: what the sensor sends, uint8 (n, 5).
        starts_us: falls of the asks, float64 (n,), µs.
        conditions: how sensor and line deviate.
        faults: by number of the exchange.
        random: source of jitter and of the places of faults.

    Returns:
        strictly rising times, int64, ns.
    """
    table = pulse_table(sheet, frames, conditions, random)
    for row, kinds in faults.items():
        for kind in kinds:
            if kind in ON_WIDTHS:
                ON_WIDTHS[kind](table[row], sheet, random)
    pieces = list(edges_of(table, starts_us)) if faults else [edges_of(table, starts_us).ravel()]
    for row, kinds in faults.items():
        for kind in kinds:
            if kind in ON_EDGES:
                pieces[row] = ON_EDGES[kind](pieces[row], random)
    return seen_in_steps(np.concatenate(pieces), conditions.step_ns)


def _bit_high(random: Random, low: int = 1, high: int = BITS - 1) -> int:
    return FIRST_HIGH + 2 * int(random.integers(low, high))


def _sum_wrong(row: FloatArray, sheet: Sheet, random: Random) -> None:
    """A 0 stretched into the gap between the windows, just far enough to count as 1."""
    zero, one = sheet.windows["zero_high"].typ_us, sheet.windows["one_high"].typ_us
    highs = np.arange(FIRST_HIGH, END, 2)
    zeros = highs[row[highs] < (zero + one) / 2]
    row[int(random.choice(zeros[:-4]))] = zero + 0.62 * (one - zero)


def _ask_short(row: FloatArray, sheet: Sheet, _random: Random) -> None:
    row[ASK] = 0.4 * sheet.windows["ask"].min_us


def _late(row: FloatArray, _sheet: Sheet, _random: Random) -> None:
    row[RELEASE] = 2500.0


def _outside(row: FloatArray, sheet: Sheet, random: Random) -> None:
    window = sheet.windows["bit_low"]
    outer = window.max_us if window.common_us is None else window.common_us[1]
    row[_bit_high(random) - 1] = (outer or window.typ_us) + 6.0


def _near(row: FloatArray, sheet: Sheet, random: Random) -> None:
    window = sheet.windows["bit_low"]
    row[_bit_high(random) - 1] = window.min_us + 0.1 * window.room_us(above=False)


def _scaled(share: float) -> Callable[[FloatArray, Sheet, Random], None]:
    def change(row: FloatArray, _sheet: Sheet, _random: Random) -> None:
        row[ANSWER_LOW:] *= share

    return change


def _weak(row: FloatArray, _sheet: Sheet, _random: Random) -> None:
    row += np.where(np.arange(COLUMNS) % 2 == 0, 5.0, -5.0)


ON_WIDTHS: dict[Fault, Callable[[FloatArray, Sheet, Random], None]] = {
    Fault.SUM_WRONG: _sum_wrong,
    Fault.ASK_TOO_SHORT: _ask_short,
    Fault.LATE_ANSWER: _late,
    Fault.PULSE_OUTSIDE: _outside,
    Fault.PULSE_NEAR: _near,
    Fault.SLOW_CLOCK: _scaled(1.12),
    Fault.FAST_CLOCK: _scaled(0.88),
    Fault.WEAK_PULL_UP: _weak,
}


def _only_ask(edges: FloatArray, _random: Random) -> FloatArray:
    return edges[:2]


def _held(edges: FloatArray, _random: Random) -> FloatArray:
    return np.array([edges[0], edges[0] + 400_000.0])


def _cut(edges: FloatArray, random: Random) -> FloatArray:
    return edges[: _bit_high(random, 5) + 1]


def _split(edges: FloatArray, at: int, wide_us: float) -> FloatArray:
    middle = (edges[at] + edges[at + 1]) / 2
    return np.insert(edges, at + 1, [middle - wide_us / 2, middle + wide_us / 2])


def _spike(edges: FloatArray, random: Random) -> FloatArray:
    return _split(edges, _bit_high(random), 0.6)


def _extra(edges: FloatArray, random: Random) -> FloatArray:
    return _split(edges, _bit_high(random), 6.0)


ON_EDGES: dict[Fault, Callable[[FloatArray, Random], FloatArray]] = {
    Fault.NO_ANSWER: _only_ask,
    Fault.ASK_TOO_SHORT: _only_ask,
    Fault.LINE_HELD_LOW: _held,
    Fault.CUT_SHORT: _cut,
    Fault.SPIKE: _spike,
    Fault.EXTRA_PULSES: _extra,
}
