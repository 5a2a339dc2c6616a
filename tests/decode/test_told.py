"""What the decoders make of real captures and of faults, column by column, in sums."""

from collections.abc import Iterator
from typing import Any

import numpy as np

from pivet.captures.decoding import decode_lines
from pivet.decode.humidity import HumidityExchanges
from pivet.decode.humidity.layout import bit_of
from pivet.decode.onewire import OneWireExchanges
from pivet.files.captures import read_capture
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Line, Trace
from pivet.standin.echo import EchoFault, EchoScene, echo_lines
from pivet.standin.faults import Fault
from pivet.standin.humidity import Conditions
from pivet.standin.onewire.session import OneWireFault, Session, session_line
from pivet.standin.scene import Scene, scenes_trace
from tests.base import CAPTURES, FAMILIES, PivetTest
from tests.pages import Page

PAGE = Page(__file__)
REAL = (
    ("humidity-frame", "av_dht22.vcd", ("DHT",)),
    ("humidity-frame", "iv_dht11_old.vcd", ()),
    ("one-wire", "av_ow_read.vcd", ("DQ",)),
    ("one-wire", "av_ow_search.vcd", ("DQ",)),
    ("one-wire", "iv_ow_basic.vcd", ()),
    ("echo-pulse", "av_echo.vcd", ("TRIG", "ECHO")),
    ("echo-pulse", "iv_ping3.vcd", ()),
)


def traces() -> Iterator[tuple[str, str, tuple[Line, ...], Trace]]:
    """Family, name and lines of each."""
    for family, name, meant in REAL:
        trace = read_capture(CAPTURES / name)
        ends = tuple(line for word in meant for line in trace.lines if line.name.endswith(word))
        yield family, name, ends or trace.lines[:1], trace
    rows = np.arange(12, dtype=float)
    faults = {at % 12: (fault,) for at, fault in enumerate(Fault)}
    frames = Scene("d", find_sheet("dht22"), 60 + rows, rows, 2.2, Conditions(), faults)
    trace = scenes_trace((frames,), 7)
    yield "humidity-frame", "faults", trace.lines, trace
    wrong = {at: (fault,) for at, fault in enumerate(OneWireFault)}
    for fast in (False, True):
        session = Session(devices=2, rounds=len(wrong), faults=wrong, fast=fast)
        line = session_line(session, "dq", 7)
        yield "one-wire", f"faults, fast {fast}", (line,), whole(line)
    kinds = {at: (fault,) for at, fault in enumerate(EchoFault)}
    far = np.linspace(0.3, 1.2, len(kinds))
    for sensor in ("hc-sr04", "ping3"):
        shots = EchoScene("e", find_sheet(sensor), far, 12 + 0 * far, 0.1, faults=kinds)
        lines = echo_lines(shots, 7)
        yield "echo-pulse", f"faults of {sensor}", lines, whole(*lines)


def whole(*lines: Line) -> Trace:
    """Lines as a capture."""
    return Trace(lines, 0, max(int(line.edges_ns[-1]) for line in lines) + 10**9, 100)


def columns(found: Any) -> Iterator[str]:
    """The size of each column, what it sums up to, and where its weight lies."""
    for column in (name for name in found.__struct_fields__ if not name.startswith("_")):
        values = getattr(found, column)
        flat = values.reshape(-1).astype(np.int64)
        weighed = int((flat % 1_000_003 * (np.arange(flat.size) % 97 + 1)).sum())
        yield f"  {column} {values.shape} {values.dtype}: {weighed}"


def more(found: Any) -> Iterator[str]:
    """What is asked of single exchanges."""
    middle = found.rows(len(found) // 3, len(found) - 1)
    yield f"  middle {len(middle)} {int(middle.start_ns.sum())} ended {found.ended.tolist()}"
    if isinstance(found, OneWireExchanges):
        yield f"  slots {[found.slots_of(at).stop for at in range(len(found))]}"
        yield f"  fast {int(found.slot_is_fast().sum())} {middle.low_ns.size}"
    elif isinstance(found, HumidityExchanges):
        highs, lows = int(found.highs_ns.sum()), int(found.lows_ns.sum())
        yield f"  asks {found.ask_ns.tolist()} {highs} {lows}"
        for at in range(len(found)):
            spikes = [side.tolist() for side in found.spikes_in(at)]
            starts = found.pulse_starts_ns(at)
            yield f"  {at}: {found.bits(at).tolist()} {int(starts.sum())} {spikes}"


def lines() -> Iterator[str]:
    """The page."""
    yield f"{[bit_of(column) for column in range(85)]}"
    for family, name, chosen, trace in traces():
        found = decode_lines(FAMILIES[family], chosen, trace)
        yield f"# {family} {name}: {len(found)}"
        yield from columns(found)
        yield from more(found)


class Told(PivetTest):
    """Against the page that was last looked through."""

    def test_column_by_column(self) -> None:
        PAGE.same(self, lines())
