"""Humidity frames of which one figure grows."""

from collections.abc import Callable

import numpy as np

from pivet.frozen import replace
from pivet.signal.trace import Trace
from tests.physics import humidity
from tests.physics.line import (
    Times,
    flipped,
    joined,
    pulled_low,
    slow_fall,
    slow_rise,
    spans_at,
    traced,
)
from tests.physics.sweeps.sweep import Make, Sweep

FRAME = humidity.frame_22(65.3, 11.8)
ELEVEN = humidity.frame_11(53.0, 24.4)
FIRST, EVERY = 50_000.0, 2_100_000.0


def _frames(
    change: Callable[[Times, float], Times],
    count: int = 3,
    data: bytes = FRAME,
    part: humidity.Part = humidity.AM,
    changed: int = 1,
    ask: float = 1000.0,
) -> Make:
    """Exchanges, of which one (-1: all) is changed by the figure."""

    def make(figure: float) -> Trace:
        pieces = [humidity.exchange(data, FIRST + n * EVERY, part, ask) for n in range(count)]
        pieces = [change(p, figure) if changed in (n, -1) else p for n, p in enumerate(pieces)]
        return traced({"data": (joined(pieces), True)}, step_ns=1)

    return make


def _widened(*at: int, count: int = 1) -> Callable[[Times, float], Times]:
    """Pulses at these places (0 the ask) are as long as the figure; what follows moves."""

    def change(edges: Times, figure: float) -> Times:
        widths = np.diff(edges)
        widths[list(at)] = figure
        return np.concatenate((edges[:1], edges[0] + np.cumsum(widths)))

    return change


def _bits(of: int, data: bytes = FRAME) -> tuple[int, ...]:
    """Places of the highs of zeros or ones."""
    bits = np.unpackbits(np.frombuffer(data, np.uint8))
    return tuple((5 + 2 * np.flatnonzero(bits == of)).tolist())


LOWS = tuple(range(4, 84, 2))


def _clock(figure: float) -> Trace:
    """The sensor's clock, so many thousandths."""
    part = replace(humidity.AM, clock=figure / 1000)
    pieces = [humidity.exchange(FRAME, FIRST + n * EVERY, part) for n in range(3)]
    return traced({"data": (joined(pieces), True)}, step_ns=1)


def _pace(eleven: bool) -> Make:
    how = (ELEVEN, humidity.ELEVEN, 18_000.0) if eleven else (FRAME, humidity.AM, 1000.0)

    def make(figure: float) -> Trace:
        data, part, ask = how
        pieces = [humidity.exchange(data, FIRST + n * figure, part, ask) for n in range(4)]
        return traced({"data": (joined(pieces), True)}, step_ns=1)

    return make


def _spike(at: int, after: float) -> Callable[[Times, float], Times]:
    return lambda edges, figure: flipped(
        edges, np.array([[edges[at] + after, edges[at] + after + figure]])
    )


def _extra_low(before: float) -> Callable[[Times, float], Times]:
    """A low by itself, so long, before the ask."""
    return lambda edges, figure: np.concatenate(
        ([edges[0] - before, edges[0] - before + figure], edges)
    )


def _held(edges: Times, figure: float) -> Times:
    return np.append(edges[:31], edges[31] + figure)


def _cut(edges: Times, figure: float) -> Times:
    return edges[: int(figure)]


def _byte(place: int, eleven: bool) -> Make:
    """A byte of the payload, the sum right."""

    def make(figure: float) -> Trace:
        body = bytearray((ELEVEN if eleven else FRAME)[:4])
        body[place] = int(figure)
        sent = bytes(body) + bytes([sum(body) & 255])
        part, ask = (humidity.ELEVEN, 18_000.0) if eleven else (humidity.AM, 1000.0)
        pieces = [humidity.exchange(sent, FIRST + n * EVERY, part, ask) for n in range(2)]
        return traced({"data": (joined(pieces), True)}, step_ns=1)

    return make


def _end(figure: float) -> Trace:
    """The capture ends so long after a low begins that nobody lifts."""
    edges = np.append(humidity.exchange(FRAME, FIRST), FIRST + EVERY)
    return traced({"data": (edges, True)}, FIRST + EVERY + figure, step_ns=1)


def _share(figure: float) -> Trace:
    """So many of 30 exchanges stay without an answer."""
    pieces = [humidity.exchange(FRAME, FIRST + n * EVERY) for n in range(30)]
    pieces = [piece[:2] if n % 2 and n < 2 * figure else piece for n, piece in enumerate(pieces)]
    return traced({"data": (joined(pieces), True)}, step_ns=1)


def _ask_lengths(figure: float) -> Trace:
    """Asks of such a length without an answer."""
    starts = FIRST + 1_000_000.0 * np.arange(4)
    return traced({"data": (pulled_low(spans_at(starts, np.full(4, figure))), True)}, step_ns=1)


def _asks_spread(figure: float) -> Trace:
    starts = FIRST + 1_000_000.0 * np.arange(4)
    lows = spans_at(starts, 1200.0 + np.array([0.0, 0.0, figure, 0.0]))
    return traced({"data": (pulled_low(lows), True)}, step_ns=1)


def _asks_apart(figure: float) -> Trace:
    starts = FIRST + figure * np.arange(4)
    return traced({"data": (pulled_low(spans_at(starts, np.full(4, 1200.0))), True)}, step_ns=1)


def _wrong_sums(figure: float) -> Trace:
    """So many of 30 frames hold their sum."""
    bad = FRAME[:4] + bytes([FRAME[4] ^ 0x5A])
    part = replace(humidity.AM, clock=1.3)
    sent = [FRAME if n < figure else bad for n in range(30)]
    pieces = [humidity.exchange(data, FIRST + n * EVERY, part) for n, data in enumerate(sent)]
    return traced({"data": (joined(pieces), True)}, step_ns=1)


def _sums_of_none(figure: float) -> Trace:
    """Frames of which no sum holds, the clock in thousandths."""
    bad = FRAME[:4] + bytes([FRAME[4] ^ 0x5A])
    part = replace(humidity.AM, clock=figure / 1000)
    pieces = [humidity.exchange(bad, FIRST + n * EVERY, part) for n in range(3)]
    return traced({"data": (joined(pieces), True)}, step_ns=1)


def _begun(change: Callable[[Times, float], Times], answered: int = 6) -> Make:
    """Asks and answers of which nothing but the beginning is whole."""

    def make(figure: float) -> Trace:
        pieces = [humidity.exchange(FRAME, FIRST + n * EVERY)[:6] for n in range(answered)]
        return traced({"data": (joined([change(p, figure) for p in pieces]), True)}, step_ns=1)

    return make


def _begun_share(figure: float) -> Trace:
    """So many of ten asks are answered, and break off."""
    pieces = [humidity.exchange(FRAME, FIRST + n * EVERY) for n in range(10)]
    pieces = [p[:6] if n < figure else p[:2] for n, p in enumerate(pieces)]
    return traced({"data": (joined(pieces), True)}, step_ns=1)


def _among_noise(figure: float) -> Trace:
    """Three frames, and so many bursts of ten pulses."""
    pieces = [humidity.exchange(FRAME, FIRST + n * EVERY) for n in range(3)]
    for number in range(int(figure)):
        widths = np.resize([31.0, 44.0, 17.0, 90.0, 62.0], 19) + number % 7
        start = FIRST + 3 * EVERY + number * 20_000.0
        pieces.append(start + np.concatenate(([0.0], np.cumsum(widths))))
    return traced({"data": (joined(pieces), True)}, step_ns=1)


def _runs_on(edges: Times, figure: float) -> Times:
    """So many pulses more than a frame has."""
    return np.concatenate((edges, edges[-1] + 40.0 * np.arange(1, 2 * int(figure) + 1)))


def _odd_lows(edges: Times, figure: float) -> Times:
    """So many of the bits' lows are half as long again."""
    return _widened(*(4 + 2 * n for n in range(int(figure))))(edges, 76.0) if figure else edges


def _set(widths: dict[int, float], at: int, cut: int = 86) -> Callable[[Times, float], Times]:
    """Some pulses are so long, one as long as the figure; then the frame may be cut."""

    def change(edges: Times, figure: float) -> Times:
        lengths = np.diff(edges)
        for place, width in (widths | {at: figure}).items():
            lengths[place] = width
        return np.concatenate((edges[:1], edges[0] + np.cumsum(lengths)))[:cut]

    return change


def _second_sensor(edges: Times, figure: float) -> Times:
    """Another sensor answers too, so long after the release."""
    other = humidity.answer(humidity.frame_22(48.1, 23.6), humidity.AM, figure) + edges[1]
    return pulled_low(edges.reshape(-1, 2), other)


def _second_clock(edges: Times, figure: float) -> Times:
    """Another sensor answers too, its clock in thousandths."""
    part = replace(humidity.AM, clock=figure / 1000)
    other = humidity.answer(humidity.frame_22(48.1, 23.6), part, 33.0) + edges[1]
    return pulled_low(edges.reshape(-1, 2), other)


def _asked_again(edges: Times, figure: float) -> Times:
    """Broken off, and asked again so long after."""
    part = edges[:40]
    return np.concatenate((part, humidity.exchange(FRAME, float(part[-1]) + figure)))


A_ZERO, A_ONE = _bits(0)[5], _bits(1)[5]
ALL = -1


def _elevens(change: Callable[[Times, float], Times], changed: int = 1) -> Make:
    return _frames(change, 3, ELEVEN, humidity.ELEVEN, changed, 18_000)


HUMIDITY = [
    Sweep("ask", _frames(_widened(0)), 5, 30_000, "dht22", "humidity-frame"),
    Sweep("ask 11", _elevens(_widened(0)), 5, 35_000, "dht11", "humidity-frame"),
    Sweep("release", _frames(_widened(1)), 1, 400, "dht22", "humidity-frame"),
    Sweep("release of all", _frames(_widened(1), changed=ALL), 1, 400, "dht22", "humidity-frame"),
    Sweep("answer low", _frames(_widened(2)), 5, 400, "dht22", "humidity-frame"),
    Sweep("answer high", _frames(_widened(3)), 5, 400, "dht22", "humidity-frame"),
    Sweep("answer", _frames(_widened(2, 3), changed=ALL), 30, 220, "dht22", "humidity-frame"),
    Sweep("first low", _frames(_widened(4)), 2, 300, "dht22", "humidity-frame"),
    Sweep("a low", _frames(_widened(30)), 1, 1500, "dht22", "humidity-frame"),
    Sweep("two lows", _frames(_widened(30, 50), changed=ALL), 1, 300, "dht22", "humidity-frame"),
    Sweep("all lows", _frames(_widened(*LOWS)), 5, 200, "dht22", "humidity-frame"),
    Sweep("a zero", _frames(_widened(_bits(0)[5])), 0.5, 200, "dht22", "humidity-frame"),
    Sweep("a one", _frames(_widened(_bits(1)[5])), 0.5, 1500, "dht22", "humidity-frame"),
    Sweep("all zeros", _frames(_widened(*_bits(0))), 0.5, 80, "dht22", "humidity-frame"),
    Sweep(
        "zeros of all",
        _elevens(_widened(*_bits(0, ELEVEN)), ALL),
        0.5,
        80,
        "dht11",
        "humidity-frame",
    ),
    Sweep("all ones", _frames(_widened(*_bits(1))), 20, 200, "dht22", "humidity-frame"),
    Sweep("last low", _frames(_widened(84)), 2, 1500, "dht22", "humidity-frame"),
    Sweep("clock", _clock, 400, 1800, "dht22", "humidity-frame", 1000),
    Sweep("any clock", _clock, 400, 1800, None, "humidity-frame", 1000),
    Sweep("pace 22", _pace(False), 6000, 2_500_000, "dht22", "humidity-frame"),
    Sweep("pace 11", _pace(True), 25_000, 1_500_000, "dht11", "humidity-frame"),
    Sweep("spike in a zero", _frames(_spike(_bits(0)[3], 8)), 0.05, 17, "dht22", "humidity-frame"),
    Sweep("spike in a one", _frames(_spike(_bits(1)[3], 20)), 0.05, 49, "dht22", "humidity-frame"),
    Sweep("spike in a low", _frames(_spike(20, 15)), 0.05, 34, "dht22", "humidity-frame"),
    Sweep("spike in an answer", _frames(_spike(2, 15)), 0.05, 60, "dht22", "humidity-frame"),
    Sweep("spike in an ask", _frames(_spike(0, 300)), 0.05, 600, "dht22", "humidity-frame"),
    Sweep("low before the ask", _frames(_extra_low(3000)), 0.05, 2990, "dht22", "humidity-frame"),
    Sweep("held low", _frames(_held), 5, 2_000_000, "dht22", "humidity-frame"),
    Sweep("cut", _frames(_cut), 2, 86, "dht22", "humidity-frame", 2000),
    Sweep("all cut", _frames(_cut, changed=ALL), 2, 86, None, "humidity-frame", 2000),
    Sweep("slow rise", _frames(slow_rise, 4, changed=ALL), 0.1, 22, "dht22", "humidity-frame"),
    Sweep("slow rise of one", _frames(slow_rise), 0.1, 22, "dht22", "humidity-frame"),
    Sweep("slow fall", _frames(slow_fall, 4, changed=ALL), 0.1, 30, "dht22", "humidity-frame"),
    Sweep("never lifted", _end, 10, 3_000_000, "dht22", "humidity-frame"),
    Sweep("share silent", _share, 0, 4, "dht22", "humidity-frame", 1000),
    Sweep("scatter, a low", _frames(_set({A_ZERO: 41}, 30)), 50, 90, "dht22", "humidity-frame"),
    Sweep("scatter, a zero", _frames(_set({30: 70}, A_ZERO)), 20, 47, "dht22", "humidity-frame"),
    Sweep("scatter, a one", _frames(_set({30: 70}, A_ONE)), 55, 90, "dht22", "humidity-frame"),
    Sweep(
        "scatter, cut",
        _frames(_set({12: 70, A_ZERO: 41}, 16, 64)),
        20,
        60,
        "dht22",
        "humidity-frame",
    ),
    Sweep("second sensor", _frames(_second_sensor), 30, 60, "dht22", "humidity-frame", 100),
    Sweep("second clock", _frames(_second_clock), 1000, 1200, "dht22", "humidity-frame", 2000),
    Sweep("asked again", _frames(_asked_again), 60, 40_000, "dht22", "humidity-frame"),
    Sweep("length of asks", _ask_lengths, 5, 45_000, None, "humidity-frame"),
    Sweep("spread of asks", _asks_spread, 0, 400, None, "humidity-frame"),
    Sweep("rest of asks", _asks_apart, 2000, 300_000, None, "humidity-frame"),
    Sweep("sums that hold", _wrong_sums, 0, 30, None, "humidity-frame", 1000),
    Sweep("clock without sums", _sums_of_none, 500, 1800, None, "humidity-frame", 1000),
    Sweep("begun, ask", _begun(_widened(0)), 50, 45_000, None, "humidity-frame"),
    Sweep("begun, release", _begun(_widened(1)), 1, 200, None, "humidity-frame"),
    Sweep("begun, low", _begun(_widened(2)), 20, 200, None, "humidity-frame"),
    Sweep("begun, high", _begun(_widened(3)), 20, 200, None, "humidity-frame"),
    Sweep("begun of ten", _begun_share, 0, 10, None, "humidity-frame", 1000),
    Sweep("among noise", _among_noise, 0, 200, None, "humidity-frame", 1000),
    Sweep("runs on", _frames(_runs_on, changed=ALL), 0, 20, None, "humidity-frame", 1000),
    Sweep("odd lows", _frames(_odd_lows, changed=ALL), 0, 40, None, "humidity-frame", 1000),
    *(
        Sweep(f"byte {n}", _byte(n, False), 0, 255, "dht22", "humidity-frame", 1000)
        for n in range(4)
    ),
    *(
        Sweep(f"byte {n} 11", _byte(n, True), 0, 255, "dht11", "humidity-frame", 1000)
        for n in range(4)
    ),
]
