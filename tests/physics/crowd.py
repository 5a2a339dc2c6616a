"""Very many exchanges in which some pulses are just as long as a limit, or a nanosecond beside it.

Made, decoded and judged as columns: what compares a pulse with a limit meets each limit here.
"""

from collections.abc import Callable, Iterator
from functools import cache

import numpy as np

from pivet.frozen import FrozenObject, replace
from pivet.signal.trace import Trace
from tests.physics import echo, humidity, onewire
from tests.physics.line import Random, Times, joined, pulled_low, spans_at, traced

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

FRAMES, PAIRS, SESSIONS, SHOTS = 1500, 300, 150, 3000
BESIDE_US = (-0.001, 0.0, 0.001)
POOL = np.array(LIMITS)


class Crowd(FrozenObject):
    """Exchanges of one family.

    Attributes:
        name: for people.
        family: key of it.
        sensor: as which they are judged.
        trace: the lines.
    """

    name: str
    family: str
    sensor: str
    trace: Trace


def changed(random: Random, widths: Times, share: float) -> Times:
    """Some widths, µs, are a limit near to what they were, some any limit."""
    at = np.searchsorted(POOL, widths) + random.integers(-4, 5, widths.shape)
    anywhere = random.integers(0, POOL.size, widths.shape)
    at = np.where(random.random(widths.shape) < 0.2, anywhere, at)
    limit = POOL[at.clip(0, POOL.size - 1)] + random.choice(BESIDE_US, widths.shape)
    return np.where(random.random(widths.shape) < share, limit, widths)


def _bytes(random: Random, eleven: bool) -> Times:
    """Believable payloads; one sum of five is wrong."""
    highest = (100, 10, 55, 10) if eleven else (5, 256, 4, 256)
    data = random.integers(0, highest, (FRAMES, 4))
    data[:, 3 if eleven else 2] |= np.where(random.random(FRAMES) < 0.3, 0x80, 0)
    sums = data.sum(axis=1) + (random.random(FRAMES) < 0.2)
    return np.column_stack((data, sums & 255)).astype(np.uint8)


def _frames(random: Random, share: float, eleven: bool, step_ns: int) -> Trace:
    """Asks and answers; of some the sensor's clock is off, some break off."""
    bits = np.unpackbits(_bytes(random, eleven), axis=1)
    usual = (18_000, 30, 83, 87, 54, 24, 71) if eleven else (1_000, 30, 80, 80, 50, 26, 70)
    widths = np.ones((FRAMES, 86))
    widths[:, :4], widths[:, 4:85:2] = usual[:4], usual[4]
    widths[:, 5:84:2] = np.where(bits, usual[6], usual[5])
    off = random.choice((0.88, 0.97, 1.05, 1.12), (FRAMES, 1))
    widths[:, 2:] *= np.where(random.random((FRAMES, 1)) < 0.15, off, 1.0)
    touched = random.random((FRAMES, 1)) < 0.6
    widths = np.where(touched, changed(random, widths, share), widths)
    kept = np.where(random.random(FRAMES) < 0.08, 2 * random.integers(1, 43, FRAMES), 86)
    rest = random.choice((100.0, 120.0, 121.0, 1e5, 1.2e6, 2.1e6), FRAMES)
    rest[kept == 86] = 2.1e6
    widths[np.arange(FRAMES), kept - 1] = rest
    rows = widths[np.arange(86) < kept[:, None]]
    edges = 50_000.0 + np.concatenate(([0.0], np.cumsum(rows)))
    return traced({"dht": (edges[:-1], True)}, step_ns=step_ns)


CODES = [onewire.code(0x28, 0x51B2C7D), onewire.code(0x10, 0x2B3A1C4), onewire.code(0x22, 7)]


def _bus(random: Random, share: float, fast: bool, step_ns: int) -> Trace:
    """A host that converts and reads, of three thermometers; lows and pauses are changed."""
    bus = onewire.Bus()
    if fast:
        bus.reset().write(0x3C)
        bus.slot, bus.one, bus.zero, bus.hold = 10.0, 1.0, 7.5, 3.0
        bus.reset_low, bus.wait, bus.presence_low = 50.0, 3.0, 10.0
    for number in range(SESSIONS):
        rom = CODES[number % 3]
        bus.answers = number % 11 != 5
        bus.convert(rom if number % 4 else None, float(random.choice((93_750, 187_500, 750_000))))
        celsius = float(random.choice((-55, -10.25, 0, 21.5, 85, 125)))
        pad = onewire.pad_10(celsius) if rom[0] == 0x10 else onewire.pad_28(celsius, 9 + number % 4)
        pad = pad if number % 7 else bytes([pad[0] ^ 4, *pad[1:]])
        bus.scratchpad(pad[: 9 if number % 9 else 5], rom if number % 5 else None)
        _other(random, bus, rom, pad)
    spans = np.array(bus.spans)
    lows, pauses = spans[:, 1] - spans[:, 0], spans[1:, 0] - spans[:-1, 1]
    some = np.repeat(random.random(len(spans) // 100 + 1) < 0.5, 100)[: len(spans)]
    lows = np.where(some, changed(random, lows, share), lows)
    pauses = np.where(some[1:], changed(random, pauses, share), pauses)
    widths = np.empty(lows.size + pauses.size)
    widths[0::2], widths[1::2] = lows, pauses
    edges = 1000.0 + np.concatenate(([0.0], np.cumsum(widths)))
    return traced({"dq": (edges, True)}, step_ns=step_ns)


def _other(random: Random, bus: onewire.Bus, rom: bytes, pad: bytes) -> None:
    """What hosts do more seldom, now and then cut short."""
    first, some = len(bus.spans), random.integers(0, 256, 3).tolist()
    kinds: tuple[Callable[[], object], ...] = (
        lambda: bus.reset().write(0x33).read(rom),
        lambda: bus.reset().write(0x55, *rom, 0x4E, *some),
        lambda: bus.reset().write(0xCC, 0xB4).read(b"\x00" if some[0] % 2 else b"\xff"),
        lambda: bus.reset().write(0x55, *rom, (0x48, 0xB8, 0x44)[some[0] % 3]),
        lambda: bus.reset().write(0xCC, 0x44).read(bytes(some[0] % 4) + b"\xff"),
        lambda: bus.reset().write(*some),
        lambda: bus.reset().write(0xA5, 0xBE).read(pad),
        lambda: bus.reset().write(0x55, *rom[:7], rom[7] ^ (some[0] % 3 == 0), 0xBE).read(pad),
        lambda: bus.reset().write((0xF0, 0xEC)[some[0] % 2]).read(rom[: some[1] % 9]),
        bus.reset,
    )
    kinds[random.integers(len(kinds))]()
    if random.random() < 0.1:
        del bus.spans[first + int(random.integers(1, len(bus.spans) - first + 1)) :]
    bus.rest(2000)


def _pairs(random: Random) -> Trace:
    """Two sensors answer on one line, the second later and by another clock."""
    pieces = []
    for number in range(PAIRS):
        frames = humidity.random_frames(random, 2)
        part = replace(humidity.AM, clock=float(random.choice((1.0, 1.02, 1.06, 1.1))))
        late = changed(random, np.array([34.0]), 0.5)[0]
        spans = (
            humidity.answer(frames[0]),
            humidity.answer(frames[1 - number % 3 // 2], part, late),
        )
        start = 50_000.0 + 2.1e6 * number
        pieces.append(np.concatenate(([start, start + 1000], start + 1000 + pulled_low(*spans))))
    return traced({"dht": (joined(pieces), True)}, step_ns=1)


def _shots(random: Random, share: float, one_pin: bool, step_ns: int) -> Trace:
    """Shots at walls from very near to out of range; triggers or echoes are missing."""
    metres = random.choice((0.018, 0.02, 0.03, 0.5, 1.2, 2.99, 3.0, 4.0, 4.01, 6.0, 6.4), SHOTS)
    waits, every = np.full(SHOTS, 460.0), np.full(SHOTS, 60_000.0)
    widths = [np.full(SHOTS, 12.0), waits, np.array(echo.flight_us(metres)), every]
    touched = random.random(SHOTS) < 0.6
    trigger, wait, flight, rest = (
        np.where(touched, changed(random, row, share), row) for row in widths
    )
    starts = 5000.0 + np.concatenate(([0.0], np.cumsum(trigger + wait + flight + rest)[:-1]))
    asked, heard = random.random(SHOTS) > 0.03, random.random(SHOTS) > 0.05
    triggers = spans_at(starts, trigger)[asked]
    echoes = spans_at(starts + trigger + wait, flight)[heard]
    if one_pin:
        return traced({"sig": (pulled_low(triggers, echoes), False)}, step_ns=step_ns)
    return traced(
        {"trigger": (triggers.ravel(), False), "echo": (echoes.ravel(), False)}, step_ns=step_ns
    )


@cache
def crowds() -> tuple[Crowd, ...]:
    """All of them, made once."""
    return tuple(_made())


def _made() -> Iterator[Crowd]:
    """Few changes show what one does, many what several do together."""
    random = np.random.default_rng(16)
    for step_ns in (1, 1_000, 4_000):
        for share in (0.01, 0.08) if step_ns == 1 else (0.02,):
            for sensor in ("dht22", "dht11", "am2320", "dht12"):
                trace = _frames(random, share, sensor in ("dht11", "dht12"), step_ns)
                yield Crowd(f"{sensor} {share} {step_ns}", "humidity-frame", sensor, trace)
            if step_ns == 1:
                yield Crowd(f"pairs {share}", "humidity-frame", "dht22", _pairs(random))
            for fast in (False, True):
                trace = _bus(random, share / 5, fast, min(step_ns, 500))
                yield Crowd(f"bus {fast} {share} {step_ns}", "one-wire", "onewire", trace)
            for sensor in ("hc-sr04", "ping3", "echo-6m", "echo-18ms"):
                trace = _shots(random, 5 * share, sensor == "ping3", step_ns)
                yield Crowd(f"{sensor} {share} {step_ns}", "echo-pulse", sensor, trace)
