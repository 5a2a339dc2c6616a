"""What the stand-ins put on the wire: each fault, a dialog, the long night, in numbers."""

from collections.abc import Callable, Iterable, Iterator
from functools import partial
from itertools import pairwise
from typing import Any

import numpy as np

from pivet.captures.causes import causes_of
from pivet.captures.finding import find_wires
from pivet.person.choices import WireChoices
from pivet.progress import silent
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level, Line
from pivet.standin.demo import cave_night
from pivet.standin.echo import EchoFault, EchoScene, echo_lines
from pivet.standin.faults import Fault
from pivet.standin.humidity import Conditions
from pivet.standin.long_night import long_night
from pivet.standin.onewire import Host, Thermometer, make_code
from pivet.standin.onewire.session import OneWireFault, Session, session_line
from pivet.standin.scene import Scene, scenes_trace
from tests.base import HUMIDITY, PivetTest
from tests.pages import Page

PAGE = Page(__file__)
EXCHANGES, AT = 5, 2


def of(lines: Iterable[Line]) -> str:
    """So many edges, where they stand on average (s), and how long the line is low (ms)."""
    found = []
    for line in lines:
        edges = line.edges_ns
        low = np.diff(edges)[line.initial is Level.LOW :: 2]
        found.append(f"{edges.size} {edges.mean() / 1e9:.6f} {low.sum() / 1e6:.3f}")
    return ", ".join(found)


def dialog() -> Iterator[str]:
    """Two thermometers, one powered by the line, are told all that a host can tell."""
    codes = [make_code(0x28, 0x51B2C7D), make_code(0x42, 0x9)]
    devices = [Thermometer(codes[0], float), Thermometer(codes[1], lambda _: -4.5, parasite=True)]
    host = Host(devices, Conditions(jitter_us=0.0))
    steps: list[tuple[str, Callable[[], object]]] = [
        ("search", host.search),
        ("one code of two", host.read_rom),
        ("skip", host.skip),
        ("convert", partial(host.convert, polled=True)),
        ("match", partial(host.match, codes[1])),
        ("power", host.power),
        ("read", host.read_scratchpad),
        ("resume", host.resume),
        ("write", partial(host.write_scratchpad, bytes([5, 251, 0x3F]))),
        ("copy", host.copy),
        ("fast", partial(host.skip, fast=True)),
        ("recall", host.recall),
        ("slow", host.slow_down),
        ("alarm", partial(host.search, alarm=True)),
        ("match fast", partial(host.match, codes[0], fast=True)),
        ("read 2", partial(host.read_scratchpad, 2)),
        ("reset", partial(host.reset, 700.0)),
    ]
    for name, step in steps:
        gave: Any = step()
        said = "".join(map(str, gave)) if isinstance(gave, np.ndarray) else gave
        yield f"{name}: {said}, {host.now_s * 1000:.3f} ms, {of([host.line('dq')])}"


def lines() -> Iterator[str]:
    """The page."""
    rows = np.arange(EXCHANGES, dtype=float)
    for sensor in HUMIDITY:
        sheet = find_sheet(sensor)
        for fault in Fault:
            conditions = Conditions(rise_us=1.5, step_ns=100)
            scene = Scene("d", sheet, 60 + rows, 12 + rows, 4.0, conditions, {AT: (fault,)})
            yield f"{sensor} {fault.value}: {of(scenes_trace((scene,), 5).lines)}"
    for sensor in ("hc-sr04", "ping3"):
        for kind in EchoFault:
            shots = EchoScene(
                "e", find_sheet(sensor), 0.5 + rows / 10, 10 + rows, 0.1, faults={AT: (kind,)}
            )
            yield f"{sensor} {kind.value}: {of(echo_lines(shots, 5))}"
    for wrong in OneWireFault:
        yield f"onewire {wrong.value}: {of([session_line(Session(faults={1: (wrong,)}), 'dq', 5)])}"
    for made in (
        Session(family=0x10, devices=3),
        Session(family=0x3B, temperature=-20.0, resolution=9),
        Session(fast=True, devices=2, conditions=Conditions(1.05, 2.0, 1.0, 500)),
    ):
        yield f"onewire {made.family:02x} x {made.devices}: {of([session_line(made, 'dq', 5)])}"
    yield from dialog()
    yield from (f"demo, {line.name}: {of([line])}" for line in cave_night().lines)
    night = long_night()
    yield f"long night: {night.start_ns} to {night.end_ns}"
    yield from (f"{line.name}: {of([line])}" for line in night.lines)
    for wire in find_wires(night.lines, night, WireChoices(), False, silent).wires:
        yield f"# {wire.label}: {len(wire)}"
        for cause in causes_of(wire):
            yield f"{cause.verdict.word}, {cause.words}: {len(cause.at)} from {cause.at[0]}"


class Told(PivetTest):
    """Against the page that was last looked through."""

    def test_number_by_number(self) -> None:
        PAGE.same(self, lines())

    def test_progress(self) -> None:
        """The demos tell of themselves all along: whoever waits can look, and stop them."""
        for made in (cave_night, long_night):
            shares: list[float] = []
            made(shares.append)
            self.assertEqual((True, sorted(shares)), (len(shares) > 100, shares))
            self.assertTrue(shares[0] == 0.0 and 0.85 < shares[-1] <= 1.0, shares[-1])
            self.assertLess(max(b - a for a, b in pairwise(shares)), 0.12)
