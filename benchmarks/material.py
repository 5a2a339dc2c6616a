"""What the benchmarks work on: made-up captures of any size."""

from pathlib import Path

import numpy as np
import numpy.typing as npt

from pivet.captures.decoding import decode_lines
from pivet.decode.humidity import HumidityExchanges
from pivet.families import FAMILIES
from pivet.person.choices import NO_CHOICE
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level, Line, Trace
from pivet.standin.echo import EchoScene, echo_lines
from pivet.standin.encode import encode
from pivet.standin.humidity import Conditions, line_edges
from pivet.standin.onewire import Conditions as OneWireConditions
from pivet.standin.onewire import Host, Thermometer, make_code

EDGES_IN_EXCHANGE = 86
STEP_NS = 10
BLOCK = 4096
INTERVAL_US = 2.1e6
ROUNDS, SEARCH_EVERY = 60, 20


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
        starts = (rows * INTERVAL_US + 20_000).astype(np.float64)
        conditions = Conditions(step_ns=STEP_NS)
        parts.append(line_edges(sheet, frames[rows], starts, conditions, {}, random))
    return np.concatenate(parts)


def onewire_edges(count: int) -> npt.NDArray[np.int64]:
    """About ``count`` edges of 20 thermometers: searches, conversions, scratchpads; int64, ns."""
    codes = [make_code(0x28, serial * 7919 + 3) for serial in range(20)]
    devices = [Thermometer(code, lambda t: 12 + 3 * np.sin(t / 50)) for code in codes]
    host = Host(devices, OneWireConditions(step_ns=STEP_NS))
    for number in range(ROUNDS):
        if number % SEARCH_EVERY == 0:
            host.search()
        host.skip()
        host.convert()
        for code in codes:
            host.match(code)
            host.read_scratchpad()
    edges = host.line("dq").edges_ns
    period = int(edges[-1]) + 10**9
    copies = -(-count // edges.size)
    parts = [edges + copy * period for copy in range(copies)]
    return np.concatenate(parts)[:count]


def echo_edges(count: int) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """About ``count`` edges of trigger and echo together, int64, ns."""
    size = count // 4
    random = np.random.default_rng(2)
    scene = EchoScene(
        "cave.vat",
        find_sheet("hc-sr04"),
        1.0 + 0.5 * np.sin(np.arange(size) / 500) + random.normal(0, 0.002, size),
        np.full(size, 12.0),
        0.07,
        step_ns=STEP_NS,
    )
    trigger, echo = echo_lines(scene, 1)
    return trigger.edges_ns, echo.edges_ns


def trace_of(*lines: npt.NDArray[np.int64], level: Level = Level.HIGH) -> Trace:
    """A trace of some lines."""
    made = tuple(Line(f"cave.line{at}", level, edges) for at, edges in enumerate(lines))
    return Trace(made, 0, max(int(edges[-1]) for edges in lines) + 10**8, STEP_NS)


def write_plain_vcd(edges_ns: npt.NDArray[np.int64], path: Path) -> None:
    """A VCD of one line, one stamp a change, written quickly."""
    stamps = (edges_ns // STEP_NS).tolist()
    head = "$timescale 10 ns $end $scope module cave $end $var wire 1 ! data $end "
    head += "$upscope $end $enddefinitions $end\n#0\n1!\n"
    body = "\n".join(f"#{stamp}\n{(number + 1) % 2}!" for number, stamp in enumerate(stamps, 1))
    path.write_text(head + body + "\n", encoding="ascii")


def decode_line(line: Line, trace: Trace) -> HumidityExchanges:
    """Humidity exchanges of one line."""
    found = decode_lines(FAMILIES["humidity-frame"], (line,), trace)
    assert isinstance(found, HumidityExchanges)
    return found


def whole_work(family: str, trace: Trace) -> None:
    """Decodes and judges all lines of a trace as one wire."""
    own = FAMILIES[family]
    found = decode_lines(own, trace.lines, trace)
    own.judge(found, len(trace.lines), trace.resolution_ns, NO_CHOICE)
