"""Humidity frames by the data sheets' figures, edge by edge; µs."""

import numpy as np

from pivet.frozen import FrozenValue
from tests.physics.line import Random, Times


class Part(FrozenValue):
    """How one make of sensor times its answer."""

    answer: tuple[float, float] = (80, 80)
    low: float = 50
    zero: float = 26
    one: float = 70
    end: float = 50
    first_low: float = 0.0
    """The first low of each byte is longer by this."""
    clock: float = 1.0


AM = Part()
ELEVEN = Part((83, 87), 54, 24, 71, 54)
COPY = Part((80, 80), 64, 19, 78, 55, 4.0)


def frame_22(humidity: float, temperature: float, complement: bool = False) -> bytes:
    """Five bytes of a 22-type."""
    rh, t = round(humidity * 10), round(abs(temperature) * 10)
    if temperature < 0:
        t = (-t & 0xFFFF) if complement else t | 0x8000
    data = bytes((rh >> 8, rh & 0xFF, t >> 8, t & 0xFF))
    return data + bytes([sum(data) & 0xFF])


def frame_11(humidity: float, temperature: float, whole_sign: bool = False) -> bytes:
    """Five bytes of an 11-type with tenths."""
    rh, t = round(humidity * 10), round(abs(temperature) * 10)
    sign = 0x80 if temperature < 0 else 0
    whole = t // 10 | (sign if whole_sign else 0)
    tenth = t % 10 | (0 if whole_sign else sign)
    data = bytes((rh // 10, rh % 10, whole, tenth))
    return data + bytes([sum(data) & 0xFF])


def answer(data: bytes, part: Part = AM, release: float = 30.0) -> Times:
    """Spans (n, 2) in which the sensor pulls low, from the host's release at 0."""
    bits = np.unpackbits(np.frombuffer(data, np.uint8))
    lows = [part.answer[0]]
    highs = [part.answer[1]]
    for number, bit in enumerate(bits):
        lows.append(part.low + (part.first_low if number % 8 == 0 else 0.0))
        highs.append(part.one if bit else part.zero)
    lows.append(part.end)
    widths = np.zeros(2 * len(lows))
    widths[0::2] = lows
    widths[1:-1:2] = highs
    at = release + part.clock * np.concatenate(([0.0], np.cumsum(widths)))
    return at[:-1].reshape(-1, 2)


def exchange(
    data: bytes, start: float, part: Part = AM, ask: float = 1000.0, release: float = 30.0
) -> Times:
    """Edges of an ask and its answer."""
    spans = answer(data, part, release) + start + ask
    return np.concatenate(([start, start + ask], spans.ravel()))


def random_frames(random: Random, count: int, eleven: bool = False) -> list[bytes]:
    """Believable frames of a cave and its surroundings."""
    rh, t = random.uniform(30, 99.9, count), random.uniform(-20, 45, count)
    if eleven:
        return [frame_11(a, abs(b)) for a, b in zip(rh.clip(20, 90), t, strict=True)]
    return [frame_22(a, b) for a, b in zip(rh, t, strict=True)]
