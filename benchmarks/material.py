"""What the benchmarks work on: made-up captures of any size."""

from pathlib import Path

import numpy as np
import numpy.typing as npt

from pivet.bench.decoding import decode_lines
from pivet.bench.families import FAMILIES
from pivet.decode.humidity import HumidityExchanges
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level, Line, Trace
from pivet.standin.encode import encode
from pivet.standin.humidity import Conditions, line_edges

EDGES_IN_EXCHANGE = 86
STEP_NS = 10
BLOCK = 4096
INTERVAL_US = 2.1e6


def humidity_edges(count: int) -> npt.NDArray[np.int64]:
    """About ``count`` edges of 22-type frames with random values, int64, ns."""
    sheet, random = find_sheet("dht22"), np.random.default_rng(1)
    size = count // EDGES_IN_EXCHANGE
    values = {
        "humidity": random.uniform(20, 99, size),
        "temperature": random.uniform(-20, 40, size),
    }
    frames, parts = encode(sheet, values), []
    for first in range(0, size, BLOCK):
        rows = np.arange(first, min(size, first + BLOCK))
        starts = rows * INTERVAL_US + 20_000
        conditions = Conditions(step_ns=STEP_NS)
        parts.append(line_edges(sheet, frames[rows], starts, conditions, {}, random))
    return np.concatenate(parts)


def trace_of(edges_ns: npt.NDArray[np.int64]) -> Trace:
    """A trace of one line."""
    line = Line("cave.data", Level.HIGH, edges_ns)
    return Trace((line,), 0, int(edges_ns[-1]) + 10**8, STEP_NS)


def write_plain_vcd(edges_ns: npt.NDArray[np.int64], path: Path) -> None:
    """A VCD of one line, one stamp a change, written quickly."""
    stamps = (edges_ns // STEP_NS).tolist()
    head = "$timescale 10 ns $end $scope module cave $end $var wire 1 ! data $end "
    head += "$upscope $end $enddefinitions $end\n#0\n1!\n"
    body = "\n".join(f"#{stamp}\n{(number + 1) % 2}!" for number, stamp in enumerate(stamps, 1))
    path.write_text(head + body + "\n", encoding="ascii")


def decode_line(line: Line, trace: Trace) -> HumidityExchanges:
    """Humidity exchanges of one line."""
    return decode_lines(FAMILIES["humidity"], (line,), trace)
