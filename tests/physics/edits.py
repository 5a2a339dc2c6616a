"""Sound lines with one thing done to them, at many places, one after the other."""

from collections.abc import Callable, Iterator

import numpy as np

from pivet.files.captures import read_capture
from pivet.signal.trace import Trace
from tests.base import CAPTURES
from tests.physics import echo, humidity, onewire
from tests.physics.line import Times, flipped, joined, traced

Edit = Callable[[Times, int], Times]

MANY = 1000
FIRST = (1, 2, 3)
"""At these edges, too: an ask ends there, an answer begins.  Of many edges fewer are tried."""


def _spike(edges: Times, at: int) -> Times:
    begin = edges[at] + 0.4 * (edges[min(at + 1, edges.size - 1)] - edges[at])
    return flipped(edges, np.array([[begin, begin + 0.8]]))


def _late(us: float) -> Edit:
    def make(edges: Times, at: int) -> Times:
        moved = edges.copy()
        moved[at] += us
        return moved if np.all(np.diff(moved) > 0) else flipped(edges, edges[at : at + 2] + us)

    return make


def _stretched(edges: Times, at: int) -> Times:
    moved = edges.copy()
    moved[at:] += 400.0
    return moved


EDITS: dict[str, Edit] = {
    "begins at": lambda edges, at: edges[at:],
    "ends at": lambda edges, at: edges[:at],
    "no pulse at": lambda edges, at: np.delete(edges, [at, min(at + 1, edges.size - 1)]),
    "no edge at": lambda edges, at: np.delete(edges, at),
    "spike at": _spike,
    "3 µs late at": _late(3.0),
    "9 µs early at": _late(-9.0),
    "22 µs late at": _late(22.0),
    "rests 0.4 ms at": _stretched,
}


def _frames() -> Times:
    frame = humidity.frame_22(65.3, -11.8)
    return joined([humidity.exchange(frame, 50_000 + row * 2.1e6) for row in range(2)])


def _copies() -> Times:
    frame = humidity.frame_22(40.0, -7.5, complement=True)
    return joined(
        [humidity.exchange(frame, 50_000 + row * 2.1e6, humidity.COPY) for row in range(3)]
    )


def _elevens() -> Times:
    frame = humidity.frame_11(53.0, 24.4)
    return joined(
        [
            humidity.exchange(frame, 50_000 + row * 1.2e6, humidity.ELEVEN, 19_000.0)
            for row in range(2)
        ]
    )


def _bus() -> Times:
    one, other = onewire.code(0x28, 0x51B2C7D), onewire.code(0x10, 0x2B3A1C4)
    bus = onewire.Bus().reset().write(0x33).read(one).rest(3000).convert(one)
    bus.scratchpad(onewire.pad_28(21.5), one).scratchpad(onewire.pad_10(-3.25), other)
    bus.reset().write(0x55, *one, 0x4E, 0x4B, 0x46, 0x3F).rest(2000)
    bus.convert(wait_us=200_000).scratchpad(onewire.pad_28(21.5, 10)).reset().rest(3000)
    bus.reset().write(0x99, 0x12, 0x34).rest(3000)
    bus.answers = False
    return bus.reset().rest(3000).scratchpad(b"\xff" * 9).edges()


def _searches() -> Times:
    trace = read_capture(CAPTURES / "av_ow_search.vcd")
    (line,) = (row for row in trace.lines if row.name.endswith("DQ"))
    return line.edges_ns / 1000


def _shots() -> tuple[Times, Times]:
    made = echo.shots(np.random.default_rng(1), np.array([0.5, 0.9, 1.2, 0.7]))
    return made.triggers.ravel(), made.echoes.ravel()


def captures(places: int) -> Iterator[tuple[str, str, Trace]]:
    """Family, what was done, and the capture.

    Args:
        places: at about so many places of each line, beside the first ones.
    """
    trigger, shot = _shots()
    for family, name, edges in (
        ("humidity-frame", "22", _frames()),
        ("humidity-frame", "11", _elevens()),
        ("humidity-frame", "clone", _copies()),
        ("one-wire", "bus", _bus()),
        ("one-wire", "search", _searches()),
        ("echo-pulse", "echo", shot),
        ("echo-pulse", "trigger", trigger),
    ):
        many = edges.size > MANY
        spread = np.linspace(0, edges.size - 1, places - 1 if many else places)
        ats = np.unique((*spread.round().astype(int), *(() if many else FIRST)))
        for what, edit in EDITS.items():
            for at in ats.tolist():
                made = edit(edges, at)
                turned = edit is EDITS["begins at"] and at % 2 == 1
                lines = {name: (made, (family != "echo-pulse") ^ turned)}
                if family == "echo-pulse":
                    lines = {"trigger": (trigger, False), "echo": (shot, False)} | lines
                yield family, f"{name} {what} {at}", traced(lines)
