"""Readings over time, and an exchange on the wire, true to time."""

from collections.abc import Iterator, Sequence

import numpy as np
import numpy.typing as npt

from pivet.insight.drawn.picture import Box, Kind, Picture, Shape, Stroke, Words, kind_of
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report
from pivet.readings.track import Track

FloatArray = npt.NDArray[np.float64]

HEIGHT, LEFT, TOP, BOTTOM = 150.0, 56.0, 12.0, 22.0
WAVE_HEIGHT, WAVE_HIGH, WAVE_LOW = 96.0, 26.0, 62.0
NS_IN_S = 1e9
DOT = 4.0


def track_picture(track: Track, starts_ns: npt.NDArray[np.int64], width: float) -> Picture | None:
    """Readings over time, with their gaps; None of none.

    Args:
        track: the track of a wire.
        starts_ns: of all its exchanges, int64 (n,).
        width: of the picture.
    """
    if not track.given.any():
        return None
    times = starts_ns[track.at] / NS_IN_S
    values = np.where(track.given, track.values, np.nan)
    low, high = float(np.nanmin(values)), float(np.nanmax(values))
    room = max(high - low, 10.0**-track.decimals)
    first, last = float(times[0]), max(float(times[-1]), float(times[0]) + 1e-3)

    def x(at: float) -> float:
        return LEFT + (at - first) / (last - first) * (width - LEFT - 8)

    def y(value: float) -> float:
        return TOP + (high - value) / room * (HEIGHT - TOP - BOTTOM)

    shapes: list[Shape] = [
        Stroke([(LEFT, HEIGHT - BOTTOM), (width - 8, HEIGHT - BOTTOM)], Kind.AXIS),
        Words(LEFT - 6, y(high) + 4, track.text(high), Kind.QUIET, "end", 11),
        Words(LEFT - 6, y(low) + 4, track.text(low), Kind.QUIET, "end", 11),
        Words(LEFT, HEIGHT - 6, f"{first:.1f} s", Kind.QUIET, "start", 11),
        Words(width - 8, HEIGHT - 6, f"{last:.1f} s", Kind.QUIET, "end", 11),
    ]
    for piece in _pieces(times, values):
        points = [(x(at), y(value)) for at, value in piece]
        if len(points) == 1:
            (left, top), half = points[0], DOT / 2
            shapes.append(Box(left - half, top - half, DOT, DOT, Kind.AFTER))
        else:
            shapes.append(Stroke(points, Kind.AFTER, 1.3))
    says = f"{track.name}: {track.text(low)} to {track.text(high)} {track.unit}"
    return Picture(width, HEIGHT, tuple(shapes), says)


def _pieces(times: FloatArray, values: FloatArray) -> Iterator[list[tuple[float, float]]]:
    """Readings that follow each other without a gap; of very many those that make the outline."""
    step = max(values.size // 2000, 1)
    own: list[tuple[float, float]] = []
    for at, value in zip(times[::step].tolist(), values[::step].tolist(), strict=True):
        if np.isnan(value):
            if own:
                yield own
            own = []
        else:
            own.append((at, value))
    if own:
        yield own


def wave_picture(report: Report, width: float) -> Picture:
    """An exchange on the wire, true to time; pulses that are not sound stand out.

    Args:
        report: the report of the exchange.
        width: of the picture.
    """
    lines = sorted({pulse.line for pulse in report.pulses})
    pulses = report.pulses
    if not pulses:
        return Picture(width, 20, (Words(0, 14, "no pulse to draw", Kind.QUIET),), "no pulse")
    first, last = min(p.start_ns for p in pulses), max(p.end_ns for p in pulses)
    # What the host does before is long and says little: it is cut where it would crowd the rest.
    shown_first = _after_ask(pulses, first, last)
    shapes: list[Shape] = []
    for row, line in enumerate(lines):
        own = [pulse for pulse in pulses if pulse.line == line and pulse.end_ns > shown_first]
        shapes += _wave(own, shown_first, last, width, row * (WAVE_HEIGHT - 30))
    height = WAVE_HEIGHT + (len(lines) - 1) * (WAVE_HEIGHT - 30)
    span_us = (last - shown_first) / 1000
    shapes.append(Words(width, height - 4, f"{span_us:,.0f} µs shown", Kind.QUIET, "end", 11))
    return Picture(width, height, tuple(shapes), report.headline)


def _after_ask(pulses: Sequence[Pulse], first: int, last: int) -> int:
    ask = pulses[0]
    if last <= ask.end_ns:
        return first
    return ask.end_ns - (last - ask.end_ns) // 20 if ask.width_ns > (last - first) / 4 else first


def _wave(
    pulses: Sequence[Pulse], first: int, last: int, width: float, down: float
) -> Iterator[Shape]:
    scale = width / max(last - first, 1)
    points: list[tuple[float, float]] = []
    for pulse in pulses:
        left, right = max(pulse.start_ns - first, 0) * scale, (pulse.end_ns - first) * scale
        y = down + (WAVE_HIGH if pulse.high else WAVE_LOW)
        points += [(left, y), (right, y)]
        kind = kind_of(pulse.verdict)
        if kind is not Kind.INK:
            yield Box(
                left, down + WAVE_HIGH, max(right - left, 1.5), WAVE_LOW - WAVE_HIGH, kind, 0.35
            )
    yield Stroke(points, Kind.INK, 1.0)
