"""Wires of many exchanges by the sheets' figures, with what a test wants wrong in them."""

from collections.abc import Sequence

import numpy as np

from pivet.captures.wire import Wire
from pivet.families import FAMILIES
from pivet.signal.trace import Int64Array, Level, Line
from tests.base import wire_of
from tests.physics.echo import flight_us
from tests.physics.humidity import AM, Part, frame_11, frame_22, random_frames
from tests.physics.line import Random, Times
from tests.physics.onewire import Bus, code, pad_28

EVERY_US = 2.5e6


def widths_of(data: bytes, part: Part, release: float = 30.0) -> Times:
    """Release, answer, 40 bits and the end of a frame, 84 widths, µs."""
    lows, highs = [part.answer[0]], [part.answer[1]]
    for bit in np.unpackbits(np.frombuffer(data, np.uint8)):
        lows.append(part.low)
        highs.append(part.one if bit else part.zero)
    pairs = [width for pair in zip(lows, highs, strict=True) for width in pair]
    return np.array([release, *pairs, part.end])


def jittered(widths: Times, random: Random, jitter: float) -> Times:
    """The same with each width off by a normal error, µs."""
    return widths + random.normal(0, jitter, widths.shape) if jitter else widths


def humidity_wire(
    frames: Sequence[bytes],
    part: Part = AM,
    random: Random | None = None,
    jitter: float = 0.0,
    step_ns: int = 10,
    ask: float = 1000.0,
    widths: Sequence[Times] | None = None,
) -> Wire:
    """A wire that carries frames, captured in steps; ``widths`` are theirs when given."""
    rng, edges = random or np.random.default_rng(1), []
    for number, data in enumerate(frames):
        own = widths[number] if widths is not None else widths_of(data, part)
        at = 1000 + number * EVERY_US
        times = np.concatenate(([0.0, ask], ask + np.cumsum(jittered(own, rng, jitter))))
        edges.append(at + times)
    return _wire("humidity-frame", (Line("data", Level.HIGH, _steps(edges, step_ns)),), step_ns)


def thermometer_wire(
    readings: Sequence[Sequence[float]], bits: int = 12, hold: float = 30.0, one: float = 6.0
) -> Wire:
    """A 1-Wire line: in each round every device converts and is read, °C by round and device."""
    bus = Bus(hold=hold, one=one)
    codes = [code(0x28, 1000 + 7 * at) for at in range(len(readings[0]))]
    for rows in readings:
        bus.convert()
        for device, celsius in zip(codes, rows, strict=True):
            bus.scratchpad(pad_28(celsius, bits), device)
        bus.rest(500_000)
    return _wire("one-wire", (Line("dq", Level.HIGH, _steps([bus.edges()], 10)),), 10)


def echo_wire(metres: Times, celsius: float = 20.0) -> Wire:
    """An echo sensor's two lines."""
    starts = 1000.0 + np.arange(metres.size) * 100_000.0
    flights = flight_us(metres, celsius)
    trigger = np.stack([starts, starts + 12], axis=1)
    echo = np.stack([starts + 472, starts + 472 + flights], axis=1)
    lines = tuple(
        Line(name, Level.LOW, _steps([rows.ravel()], 10))
        for name, rows in (("trig", trigger), ("echo", echo))
    )
    return _wire("echo-pulse", lines, 10)


def _steps(edges: Sequence[Times], step_ns: int) -> Int64Array:
    """Edges as a recorder keeps them that looks once a step, ns."""
    every = np.concatenate(edges) * 1000
    found: Int64Array = (np.ceil(every / step_ns) * step_ns).astype(np.int64)
    return found


def _wire(key: str, lines: tuple[Line, ...], step_ns: int) -> Wire:
    return wire_of(FAMILIES[key], lines, step_ns)


def cave_frames(count: int, seed: int = 1, eleven: bool = False) -> list[bytes]:
    """Believable frames."""
    return random_frames(np.random.default_rng(seed), count, eleven)


def slow_air(count: int, seed: int = 3) -> list[tuple[float, float]]:
    """Humidity and temperature that change a little from read to read."""
    random = np.random.default_rng(seed)
    damp = np.clip(70 + np.cumsum(random.normal(0, 0.6, count)), 5, 99)
    warm = np.clip(-3 + np.cumsum(random.normal(0, 0.4, count)), -35, -0.2)
    return [(round(a, 1), round(b, 1)) for a, b in zip(damp.tolist(), warm.tolist(), strict=True)]


__all__ = ["frame_11", "frame_22"]
