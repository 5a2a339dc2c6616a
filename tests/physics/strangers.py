"""Lines that carry no sensor: each must be left alone."""

from collections.abc import Callable, Iterator

import numpy as np

from tests.physics.line import Random, Times, spans_at, without_instants

Lines = dict[str, tuple[Times, bool]]


def _pulses(starts: Times, widths: Times | float) -> Times:
    return spans_at(starts, np.broadcast_to(np.asarray(widths, float), starts.shape)).ravel()


def _levels(bits: np.ndarray, start: float, bit_us: float, idle: int = 1) -> Times:
    every = np.concatenate(([idle], bits, [idle]))
    return start + bit_us * np.flatnonzero(np.diff(every))


def uart(random: Random, baud: int = 9600, count: int = 200, gap: float = 3000.0) -> Times:
    """Bytes with a start and a stop bit."""
    bit, parts, at = 1e6 / baud, [], 2000.0
    for _ in range(count):
        byte = random.integers(0, 256)
        bits = np.array([0, *[byte >> n & 1 for n in range(8)], 1])
        parts.append(_levels(bits, at, bit))
        at += 10 * bit + gap * random.random()
    return np.concatenate(parts)


def uart_lines(random: Random, baud: int) -> Lines:
    """Both directions."""
    return {"rx": (uart(random, baud), True), "tx": (uart(random, baud), True)}


def spi(random: Random) -> Lines:
    """Clock and data, bursts of four bytes."""
    clock, data, at = [], [], 1000.0
    for _ in range(60):
        bits = random.integers(0, 2, 32)
        clock.append(_pulses(at + 2.0 * np.arange(32), 1.0))
        data.append(_levels(bits, at - 0.5, 2.0, 0))
        at += 64 + 5000 * random.random()
    return {"sck": (np.concatenate(clock), False), "mosi": (np.concatenate(data), False)}


def i2c(random: Random) -> Lines:
    """Clock and data at 100 kHz."""
    clock, data, at = [], [], 1000.0
    for _ in range(60):
        bits = random.integers(0, 2, 27)
        clock.append(at + 10 * np.repeat(np.arange(27), 2) + np.tile([2.0, 7.0], 27))
        bits_edges = _levels(np.concatenate(([0], bits, [0])), at - 10, 10.0)
        data.append(bits_edges)
        at += 300 + 8000 * random.random()
    return {"scl": (np.concatenate(clock), True), "sda": (np.concatenate(data), True)}


def remote(random: Random, idle_high: bool = True) -> Times:
    """A remote control's receiver: a long mark, then 32 bits by the length of the space."""
    parts, at = [], 3000.0
    for _ in range(12):
        marks = [9000.0] + [560.0] * 33
        spaces = [4500.0, *np.where(random.integers(0, 2, 32), 1690.0, 560.0).tolist(), 40_000.0]
        widths = np.stack((marks, spaces), axis=1).ravel()
        parts.append(at + np.concatenate(([0.0], np.cumsum(widths)[:-1])))
        at += float(widths.sum())
    return np.concatenate(parts)


def made_up_code(random: Random) -> Times:
    """A frame of its own: 40 bits, but other lengths than any sheet's."""
    parts, at = [], 5000.0
    for _ in range(30):
        widths = [2000.0, 100.0, 120.0, 120.0]
        for bit in random.integers(0, 2, 40):
            widths += [60.0, 130.0 if bit else 45.0]
        widths += [60.0]
        parts.append(at + np.concatenate(([0.0], np.cumsum(widths))))
        at += 2_000_000
    return np.concatenate(parts)


def servo(random: Random, count: int = 300) -> Times:
    """A position that moves, 50 times a second."""
    widths = 1500 + 400 * np.sin(np.arange(count) / 30 + random.uniform(0, 6))
    return _pulses(1000 + 20_000.0 * np.arange(count) + random.uniform(0, 9000), widths)


def ppm(random: Random, count: int = 200) -> Times:
    """Eight channels in a frame."""
    parts = []
    for frame in range(count):
        gaps = np.cumsum(np.concatenate(([0.0], random.uniform(1000, 2000, 8))))
        parts.append(_pulses(1000 + 22_500.0 * frame + gaps, 300.0))
    return np.concatenate(parts)


def square(hertz: float, duty: float = 0.5, count: int = 400) -> Times:
    """A square wave."""
    period = 1e6 / hertz
    return _pulses(500 + period * np.arange(count), duty * period)


def dimmer(random: Random, count: int = 400) -> Times:
    """Phase control of the mains that somebody turns."""
    widths = 2000 + 6000 * np.abs(np.sin(np.arange(count) / 60))
    return _pulses(700 + 10_000.0 * np.arange(count), widths + random.normal(0, 8, count))


def blinking(random: Random) -> Times:
    """An LED, twice a second, sometimes not."""
    starts = 500_000.0 * np.flatnonzero(random.random(60) < 0.8)
    return _pulses(starts + 1000, 60_000.0)


def button(random: Random) -> Times:
    """Presses of a finger, each with its bounces."""
    parts, at = [], 100_000.0
    for _ in range(12):
        press = random.uniform(80_000, 300_000)
        bounce = np.sort(random.uniform(0, 3000, 6))
        parts.append(np.concatenate(([at], at + bounce, [at + press])))
        at += press + random.uniform(300_000, 2_000_000)
    return without_instants(np.concatenate(parts))


def clean_button(random: Random) -> Times:
    """The same through a filter: no bounces, and short taps."""
    starts = np.cumsum(random.uniform(200_000, 2_000_000, 15))
    return _pulses(starts, random.uniform(5_000, 200_000, 15))


def motor(random: Random, count: int = 500) -> Times:
    """A motor's drive at 1 kHz, its duty rising and falling."""
    duty = 500 + 400 * np.sin(np.arange(count) / 40)
    return _pulses(300 + 1000.0 * np.arange(count), duty + random.normal(0, 0.3, count))


def noise(random: Random, count: int = 2000) -> Times:
    """An input that nobody drives."""
    return np.cumsum(random.exponential(200.0, count) + 0.2)


def encoder(random: Random, count: int = 400) -> Lines:
    """A wheel's two switches, a quarter apart."""
    steps = np.cumsum(random.uniform(2000, 5000, count))
    return {"a": (steps[0::2], False), "b": (steps[1::2], False)}


SINGLE: dict[str, Callable[[Random], Times]] = {
    "uart 300": lambda random: uart(random, 300, 40),
    "uart 1200": lambda random: uart(random, 1200),
    "uart 9600": uart,
    "uart 19200": lambda random: uart(random, 19200),
    "uart 115200": lambda random: uart(random, 115200),
    "remote": remote,
    "made-up code": made_up_code,
    "servo": servo,
    "ppm": ppm,
    "square 50 Hz": lambda random: square(50),
    "square 100 Hz": lambda random: square(100),
    "square 1 kHz": lambda random: square(1000),
    "square 20 kHz": lambda random: square(20_000),
    "pwm 490 Hz": lambda random: square(490, 0.1),
    "pwm 25 Hz, short": lambda random: square(25, 0.0004),
    "dimmer": dimmer,
    "blinking": blinking,
    "button": button,
    "clean button": clean_button,
    "motor": motor,
    "noise": noise,
}
PAIRS: dict[str, Callable[[Random], Lines]] = {
    "two servos": lambda random: {"pan": (servo(random), False), "tilt": (servo(random), False)},
    "uart pair": lambda random: uart_lines(random, 9600),
    "slow uart pair": lambda random: uart_lines(random, 1200),
    "spi": spi,
    "i2c": i2c,
    "encoder": encoder,
    "two pwm": lambda random: {
        "p": (square(50, 0.06), False),
        "q": (square(50, 0.08) + 1500, False),
    },
}


def every(random: Random) -> Iterator[tuple[str, Lines]]:
    """All of them, as they rest and turned over."""
    for name, make in SINGLE.items():
        edges = make(random)
        yield name, {"signal": (edges, False)}
        yield f"{name}, turned over", {"signal": (edges, True)}
    for name, made in PAIRS.items():
        yield name, made(random)
