"""1-Wire transactions of which one figure grows."""

from collections.abc import Callable
from typing import Any

import numpy as np

from pivet.signal.trace import Trace
from tests.physics import onewire
from tests.physics.line import pulled_low, slow_fall, slow_rise, spans_at, traced, without_instants
from tests.physics.sweeps.sweep import Make, Sweep

ROM = onewire.code(0x28, 0x51B2C7D)
GOOD = onewire.pad_28(21.5)


def _bus(fill: Callable[[onewire.Bus, float], object], change: Any = None) -> Make:
    """A healthy read, then what the figure changes."""

    def make(figure: float) -> Trace:
        bus = onewire.Bus(at=20_000.0)
        bus.convert(ROM).scratchpad(GOOD, ROM)
        fill(bus, figure)
        edges = pulled_low(np.array(sorted(bus.spans)))
        return traced({"dq": (change(edges, figure) if change else edges, True)}, step_ns=1)

    return make


def _with(name: str) -> Callable[[onewire.Bus, float], object]:
    """The whole second read with one figure of the host or of the device."""

    def fill(bus: onewire.Bus, figure: float) -> None:
        setattr(bus, name, figure)
        bus.convert(ROM).scratchpad(GOOD, ROM)

    return fill


def _slot(number: int, figure_of: str = "low") -> Callable[[onewire.Bus, float], object]:
    """One slot of the second read is low for so long, or begins so late."""

    def fill(bus: onewire.Bus, figure: float) -> None:
        first = len(bus.spans)
        bus.scratchpad(GOOD, ROM)
        at = first + 2 + number
        start = bus.spans[at][0]
        if figure_of == "low":
            bus.spans[at] = (start, start + figure)
            return
        bus.spans[at:] = [(a + figure, b + figure) for a, b in bus.spans[at:]]

    return fill


def _extra(after: int) -> Callable[[onewire.Bus, float], object]:
    """A low of 3 µs, so long after a slot begins."""

    def fill(bus: onewire.Bus, figure: float) -> None:
        first = len(bus.spans)
        bus.scratchpad(GOOD, ROM)
        start = bus.spans[first + 2 + after][0] + figure
        bus.spans.append((start, start + 3.0))

    return fill


def _count(bus: onewire.Bus, figure: float) -> None:
    """So many slots of the pad, then nothing."""
    first = len(bus.spans)
    bus.scratchpad(GOOD, ROM)
    del bus.spans[first + 2 + 80 + int(figure) :]
    bus.rest(5000).scratchpad(GOOD, ROM)


def _convert(bus: onewire.Bus, figure: float) -> None:
    bus.rest(2_000_000).convert(ROM, figure).scratchpad(onewire.pad_28(22.0), ROM)


def _power_on(bus: onewire.Bus, figure: float) -> None:
    bus.rest(2_000_000).convert(ROM, figure).scratchpad(onewire.pad_28(85.0), ROM)


def _raw(bus: onewire.Bus, figure: float) -> None:
    """The sensor's number, from far below to far above."""
    bus.convert(ROM).scratchpad(onewire.pad_28(figure / 16), ROM)


def _resolution(bus: onewire.Bus, figure: float) -> None:
    body = bytearray(GOOD[:8])
    body[4] = int(figure)
    bus.convert(ROM).scratchpad(bytes(body) + bytes([onewire.crc8(bytes(body))]), ROM)


def _cut_reset(bus: onewire.Bus, figure: float) -> None:
    bus.spans.append((bus.at, bus.at + figure))
    bus.rest(20_000).scratchpad(GOOD, ROM)


def _resets(length: float = 500.0, third: float = 0.0, every: float = 1e6) -> Trace:
    """Resets that nobody answers, the third of them so much longer."""
    lows = spans_at(20_000.0 + every * np.arange(5), np.array([length] * 5))
    lows[2, 1] += third
    return traced({"dq": (pulled_low(lows), True)}, step_ns=1)


BAD = GOOD[:3] + bytes([GOOD[3] ^ 4]) + GOOD[4:]


def _scattered(at: int, others: dict[int, float]) -> Callable[[onewire.Bus, float], object]:
    """Slots of a read that is wrong are so long, one as long as the figure."""

    def fill(bus: onewire.Bus, figure: float) -> None:
        first = len(bus.spans) + 2
        bus.scratchpad(BAD, ROM)
        for number, low in (others | {at: figure}).items():
            start = bus.spans[first + number][0]
            bus.spans[first + number] = (start, start + low)

    return fill


def _pieces(bus: onewire.Bus, figure: float) -> None:
    """So many slots of a read are in two pieces."""
    first = len(bus.spans) + 2
    bus.scratchpad(GOOD, ROM)
    starts = [bus.spans[first + 80 + number][0] for number in range(int(figure))]
    bus.spans += [(start + 35.0, start + 38.0) for start in starts]


def _polled(bus: onewire.Bus, figure: float) -> None:
    """After a conversion has begun so many slots are read."""
    bus.reset().write(0x55, *ROM, 0x44)
    first = len(bus.spans)
    bus.read(b"\x00\x00\xff")
    del bus.spans[first + int(figure) :]
    bus.rest(1_000_000).scratchpad(GOOD, ROM)


def _silent_bytes(bus: onewire.Bus, figure: float) -> None:
    """The last so many bytes of a pad are read from nobody."""
    count = 9 - int(figure)
    bus.convert(ROM).scratchpad(GOOD[:count] + b"\xff" * int(figure), ROM)


def _healthy(bus: onewire.Bus, figure: float) -> None:
    bus.convert(ROM).scratchpad(GOOD, ROM)


def _strange(figure: float) -> Trace:
    """So many of ten transactions begin with a command that is none."""
    bus = onewire.Bus(at=20_000.0)
    for number in range(10):
        bus.reset().write(0x11 if number < figure else 0xCC, 0xBE).read(GOOD).rest(5000)
    return traced({"dq": (bus.edges(), True)}, step_ns=1)


def _absent(figure: float) -> Trace:
    """So many of ten transactions have no presence."""
    bus = onewire.Bus(at=20_000.0)
    for number in range(10):
        bus.answers = number >= figure
        bus.reset().write(0xCC, 0xBE).read(GOOD).rest(5000)
    return traced({"dq": (bus.edges(), True)}, step_ns=1)


def _coarse(figure: float) -> Trace:
    """Looked at once in so many µs."""
    bus = onewire.Bus(at=20_000.0, slot=70.0)
    bus.convert(ROM).scratchpad(GOOD, ROM)
    seen = np.ceil((bus.edges() - 1.7) / figure) * figure
    return traced({"dq": (without_instants(seen), True)}, step_ns=round(figure * 1000))


ONEWIRE = [
    Sweep("length of resets", _resets, 200, 1000, None, "one-wire"),
    Sweep("spread of resets", lambda more: _resets(third=more), 0, 60, None, "one-wire"),
    Sweep("rest of resets", lambda every: _resets(every=every), 2000, 60_000, None, "one-wire"),
    Sweep("strange commands", _strange, 0, 10, None, "one-wire", 1000),
    Sweep("without presence", _absent, 0, 10, None, "one-wire", 1000),
    Sweep("looked at", _coarse, 0.5, 60, None, "one-wire", 500),
    Sweep("reset", _bus(_with("reset_low")), 20, 1500, "onewire", "one-wire"),
    Sweep("presence wait", _bus(_with("wait")), 1, 450, "onewire", "one-wire"),
    Sweep("presence", _bus(_with("presence_low")), 1, 450, "onewire", "one-wire"),
    Sweep("ones", _bus(_with("one")), 0.2, 40, "onewire", "one-wire"),
    Sweep("zeros", _bus(_with("zero")), 10, 69, "onewire", "one-wire"),
    Sweep("hold", _bus(_with("hold")), 5, 69, "onewire", "one-wire"),
    Sweep("slot", _bus(_with("slot")), 60.1, 5000, "onewire", "one-wire"),
    Sweep("a written one", _bus(_slot(0)), 0.2, 69, "onewire", "one-wire"),
    Sweep("a written zero", _bus(_slot(1)), 0.2, 69, "onewire", "one-wire"),
    Sweep("a read one", _bus(_slot(83)), 0.2, 69, "onewire", "one-wire"),
    Sweep("a read zero", _bus(_slot(81)), 0.2, 69, "onewire", "one-wire"),
    Sweep("a long slot", _bus(_slot(100)), 60, 141, "onewire", "one-wire"),
    Sweep("a pause in the command", _bus(_slot(4, "late")), 0, 20_000, "onewire", "one-wire"),
    Sweep("a pause in the pad", _bus(_slot(100, "late")), 0, 20_000, "onewire", "one-wire"),
    Sweep("extra low", _bus(_extra(90)), 1, 66, "onewire", "one-wire"),
    Sweep("slots read", _bus(_count), 0, 73, "onewire", "one-wire", 1000),
    Sweep("conversion", _bus(_convert), 10, 1_000_000, "onewire", "one-wire"),
    Sweep("power on", _bus(_power_on), 10, 1_000_000, "onewire", "one-wire"),
    Sweep("raw", _bus(_raw), -1100, 2200, "onewire", "one-wire", 1000),
    Sweep("configuration", _bus(_resolution), 0, 255, "onewire", "one-wire", 1000),
    Sweep("a low alone", _bus(_cut_reset), 0.1, 3000, "onewire", "one-wire"),
    Sweep("scatter, a one", _bus(_scattered(83, {81: 60})), 1, 15, "onewire", "one-wire"),
    Sweep("scatter, least", _bus(_scattered(83, {81: 60, 96: 13})), 1, 12, "onewire", "one-wire"),
    Sweep(
        "scatter, a zero", _bus(_scattered(81, {83: 1.5, 96: 13})), 16, 66, "onewire", "one-wire"
    ),
    Sweep(
        "scatter, written", _bus(_scattered(1, {83: 1.5, 96: 13})), 31, 69, "onewire", "one-wire"
    ),
    Sweep("pieces", _bus(_pieces), 0, 60, "onewire", "one-wire", 1000),
    Sweep("polled", _bus(_polled), 0, 24, "onewire", "one-wire", 1000),
    Sweep("silent bytes", _bus(_silent_bytes), 0, 9, "onewire", "one-wire", 1000),
    Sweep("any reset", _bus(_with("reset_low")), 20, 1500, None, "one-wire"),
    Sweep("rise", _bus(_healthy, slow_rise), 0.1, 12, "onewire", "one-wire"),
    Sweep("fall", _bus(_healthy, slow_fall), 0.1, 5.5, "onewire", "one-wire"),
]
