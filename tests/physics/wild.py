"""Sessions in which anything may be as long as a limit: seeded, of every family, then spoiled.

A figure of a signal is now and then taken from ``LIMITS``, exactly or a nanosecond beside it: what
turns there is met where it turns.
"""

from collections.abc import Callable

import numpy as np

from pivet.frozen import replace
from pivet.person.choices import WireChoices
from pivet.readings.sound import Vessel, fixed_air
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Trace
from tests.physics import echo, humidity, onewire
from tests.physics.line import (
    NOTHING,
    Random,
    Times,
    flipped,
    jitter,
    joined,
    pulled_low,
    sampled,
    slow_fall,
    slow_rise,
    spans_at,
    traced,
    without_instants,
)

LIMITS = (
    *(0.4, 0.5, 0.8, 1, 1.5, 2, 2.5, 3, 4, 5, 5.5, 6, 6.2, 7, 7.5, 8, 9, 10, 11, 13, 15),
    *(16, 17, 18, 19, 20, 22, 23, 24, 25, 26, 27, 28, 30, 32, 35, 36, 40, 42, 43, 45, 48),
    *(50, 52, 54, 55, 56, 57, 58, 60, 62, 65, 68, 69, 70, 71, 72, 74, 75, 78, 80, 82, 83),
    *(85, 86, 87, 88, 90, 95, 100, 115, 116, 120, 145, 150, 160, 180, 185, 199, 200, 240),
    *(250, 300, 400, 420, 430, 450, 480, 500, 640, 700, 750, 800, 900, 960, 1_000, 2_000),
    *(3_000, 5_000, 10_000, 15_000, 17_000, 18_000, 18_500, 20_000, 25_000, 30_000, 38_000),
    *(40_000, 45_000, 50_000, 60_000, 65_000, 93_750, 100_000, 187_500, 200_000, 250_000),
    *(300_000, 375_000, 500_000, 750_000, 1e6, 2e6),
)
"""Of data sheets, standards, and between what they allow; µs."""

BESIDE = (-0.001, 0.0, 0.0, 0.0, 0.001)
STEPS_NS = (1, 1, 1, 1, 1, 10, 100, 500, 1_000, 1_000, 4_000, 25_000)


def near(random: Random, usual: float, share: float = 0.1) -> float:
    """A figure as usual; now and then the limit next above or below, or any."""
    if random.random() > share:
        return usual
    at = int(np.searchsorted(LIMITS, usual)) + int(random.choice((-3, -1, 0, 0, 1, 3)))
    return LIMITS[min(max(at, 0), len(LIMITS) - 1)] + random.choice(BESIDE)


def _frames(random: Random) -> dict[str, Times]:
    part = [humidity.AM, humidity.ELEVEN, humidity.COPY][random.integers(3)]
    share = float(random.choice((0.0, 0.0, 0.2)))
    names = ("low", "zero", "one", "end", "first_low")
    changed = {name: near(random, getattr(part, name), share) for name in names}
    low, high = (near(random, value, share) for value in part.answer)
    clock = float(random.choice((1.0,) * 8 + (0.85, 0.93, 1.07, 1.15)))
    part = replace(part, answer=(low, high), clock=clock, **changed)
    ask = float(random.choice((1_000.0, 1_000.0, 18_000.0, 20_000.0, near(random, 500, 1))))
    every = float(random.choice((2.1e6, 2.1e6, 1.2e6, near(random, 5e5, 1))))
    parts, at = [], 50_000.0
    eleven = bool(random.random() < 0.3)
    for _ in range(int(random.integers(1, 5))):
        frame = _frame(random, eleven)
        parts.append(
            humidity.exchange(
                frame, at, part, near(random, ask, share / 3), near(random, 30, share)
            )
        )
        at += every + near(random, 1_000, 0.3) + 5_000
    return {"dht": joined(parts)}


def _frame(random: Random, eleven: bool) -> bytes:
    if random.random() < 0.1:
        return bytes(random.integers(0, 256, 5).tolist())
    rh = float(random.choice((0, 0.1, 20, 53, 65.3, 90, 95, 99.9, 100, 100.1, 110)))
    t = float(random.choice((-40.1, -40, -20, -11.8, -0.1, 0, 0.1, 24.4, 50, 50.1, 80, 80.1, 125)))
    kind = humidity.frame_11 if eleven else humidity.frame_22
    data = bytearray(kind(rh, t, bool(random.random() < 0.3)))
    if random.random() < 0.15:
        data[random.integers(5)] ^= 1 << int(random.integers(8))
    return bytes(data)


FAST = {"slot": 10.0, "one": 1.0, "zero": 7.5, "hold": 3.0, "reset_low": 50.0, "wait": 3.0}


def _bus(random: Random) -> dict[str, Times]:
    share = float(random.choice((0.0, 0.0, 0.1, 0.2)))
    own = onewire.Bus()
    fast = {**FAST, "presence_low": 10.0}
    usual = {name: getattr(own, name) for name in fast}
    if random.random() < 0.2:
        usual = fast
    bus = onewire.Bus(**{name: near(random, value, share) for name, value in usual.items()})
    codes = [
        onewire.code(int(random.choice((0x28, 0x10, 0x22, 0x42, 0x3B, 0x1D, 0x01))), serial)
        for serial in (0x51B2C7D, 0x2B3A1C4, 7)
    ]
    for _ in range(int(random.integers(1, 6))):
        bus.answers = bool(random.random() < 0.93)
        _transaction(random, bus, codes[random.integers(3)])
        bus.rest(near(random, 2_000, 0.3))
    spans = np.array(bus.spans)
    for row in np.flatnonzero(random.random(len(spans)) < share / 8).tolist():
        spans[row, 1] = spans[row, 0] + near(random, float(np.diff(spans[row])[0]), 1)
    return {"dq": pulled_low(spans)}


def _pad(random: Random, rom: bytes) -> bytes:
    celsius = float(random.choice((-55, -10.25, -0.5, 0, 0.0625, 21.5, 25, 85, 125, 126)))
    if rom[0] == 0x10:
        pad = bytearray(onewire.pad_10(celsius))
    else:
        reserved = random.choice((None, 0x0C, 0xFF))
        pad = bytearray(onewire.pad_28(celsius, int(random.integers(9, 13)), reserved))
    if random.random() < 0.2:
        pad[random.integers(9)] ^= 1 << int(random.integers(8))
    if random.random() < 0.05:
        return bytes([int(random.choice((0x00, 0xFF)))] * 9)
    return bytes(pad)


def _transaction(random: Random, bus: onewire.Bus, rom: bytes) -> None:
    """One of what hosts do, now and then cut short."""
    kinds: list[Callable[[], object]] = [
        lambda: bus.convert(rom, near(random, 750_000, 0.7)),
        lambda: bus.convert(None, near(random, 187_500, 0.7)),
        lambda: bus.scratchpad(_pad(random, rom), rom),
        lambda: bus.scratchpad(_pad(random, rom)),
        lambda: bus.scratchpad(_pad(random, rom)[: random.integers(9)], rom),
        lambda: bus.reset().write(0x33).read(rom),
        lambda: bus.reset().write(0x55, *rom, 0x4E, *random.integers(0, 256, 3).tolist()),
        lambda: bus.reset().write(0xCC, 0xB4).read(bytes([int(random.choice((0, 255)))])),
        lambda: bus.reset().write(0x55, *rom, int(random.choice((0x48, 0xB8, 0x44)))),
        lambda: bus.reset().write(*random.integers(0, 256, 3).tolist()),
        lambda: bus.reset().write(0xA5).write(0xBE).read(_pad(random, rom)),
        lambda: bus.reset().write(int(random.choice((0xF0, 0xEC)))).read(rom),
        lambda: bus.reset().write(int(random.choice((0x3C, 0x69))), *rom[: random.integers(9)]),
        lambda: bus.reset(),
    ]
    first = len(bus.spans)
    kinds[random.integers(len(kinds))]()
    if random.random() < 0.15:
        del bus.spans[first + int(random.integers(1, len(bus.spans) - first + 1)) :]


def _shots(random: Random) -> dict[str, Times]:
    count, share = int(random.integers(1, 7)), float(random.choice((0.0, 0.0, 0.2, 0.4)))
    metres = random.choice((0.018, 0.02, 0.03, 0.5, 0.9, 1.2, 3.99, 4.0, 4.01, 5.9, 6.1), count)
    made = echo.shots(
        random,
        metres,
        near(random, 12, share),
        near(random, 460, share),
        float(random.choice((60_000.0, 100_000.0, 100_000.0, 250_000.0))),
        float(random.choice((0.0, 6.0))),
    )
    echoes = made.echoes.copy()
    for row in np.flatnonzero(random.random(count) < share).tolist():
        echoes[row, 1] = echoes[row, 0] + near(random, float(np.diff(echoes[row])[0]), 1)
    kept = random.random(count) > 0.1
    triggers, echoes = made.triggers[random.random(count) > 0.05], echoes[kept]
    if random.random() < 0.3:
        return {"sig": pulled_low(triggers, echoes) if kept.any() else NOTHING}
    if random.random() < 0.15:
        return {"echo": without_instants(echoes.ravel())}
    return {"trigger": triggers.ravel(), "echo": without_instants(np.sort(echoes.ravel()))}


def _spoiled(random: Random, edges: Times) -> Times:
    """One thing done to a line."""
    at, kind = int(random.integers(edges.size)), int(random.integers(8))
    width = near(random, float(random.choice((1, 4, 50, 250, 1_000))), 1)
    if kind <= 2 and at + 1 < edges.size:
        moved = edges.copy()
        moved[at + 1 :] += near(random, float(edges[at + 1] - edges[at]), 1) - np.diff(edges)[at]
        return moved
    if kind == 3:
        start = edges[at] + near(random, 10, 0.8)
        return flipped(edges, spans_at(np.array([start]), np.array([width])))
    if kind == 4:
        return np.delete(edges, at)
    if kind == 5:
        return np.delete(edges, [at, min(at + 1, edges.size - 1)])
    if kind == 6:
        return edges[at:] if random.random() < 0.5 else edges[:at]
    moved = edges.copy()
    moved[at] += float(random.choice((-1, 1))) * width
    return without_instants(np.sort(moved))


def _worn(random: Random, edges: Times) -> Times:
    """The whole line is slow, late or unsteady."""
    kind = int(random.integers(16))
    if kind == 0:
        return slow_rise(edges, near(random, 5, 0.7))
    if kind == 1:
        return slow_fall(edges, near(random, 3, 0.7))
    if kind == 2:
        return jitter(random, edges, float(random.choice((0.5, 2.0, 6.0))))
    if kind == 3:
        return sampled(random, edges, float(random.choice((1.0, 4.0, 9.0, 20.0))))
    return edges


FAMILIES = {"humidity-frame": _frames, "one-wire": _bus, "echo-pulse": _shots}
SHEETS = {
    "humidity-frame": ("dht22", "dht11", "am2320", "dht12", "dht21", "dht11-early"),
    "one-wire": ("onewire",),
    "echo-pulse": ("hc-sr04", "ping3", "echo-6m", "echo-18ms", "echo-60ms", "echo-200ms"),
}


def capture(seed: int) -> tuple[str, Trace, WireChoices]:
    """Family, lines, and what the person chose.

    Args:
        seed: of all of it.
    """
    random = np.random.default_rng(seed)
    family = list(FAMILIES)[seed % 3]
    lines = FAMILIES[family](random)
    idle = family != "echo-pulse"
    made: dict[str, tuple[Times, bool]] = {}
    for name, edges in lines.items():
        edges = _worn(random, edges) if edges.size > 1 else edges
        for _ in range(int(random.choice((0, 0, 0, 1, 1, 2)))):
            edges = _spoiled(random, edges) if edges.size else edges
        made[name] = (without_instants(edges[edges > 1]), idle ^ bool(random.random() < 0.04))
    last = max([1.0, *(float(edges[-1]) for edges, _ in made.values() if edges.size)])
    end = last + near(random, float(random.choice((200_000, 200_000, 50))), 0.2)
    step = int(random.choice(STEPS_NS))
    trace = traced(made, end + 0.001 * step, step)
    sheet = find_sheet(str(random.choice(SHEETS[family]))) if random.random() < 0.25 else None
    air = fixed_air(float(random.choice((-20, 5, 20, 40)))) if random.random() < 0.4 else None
    vessel = Vessel(1.0, 0.8, 0.5) if random.random() < 0.2 else None
    return family, trace, WireChoices(sheet=sheet, air=air, vessel=vessel)
