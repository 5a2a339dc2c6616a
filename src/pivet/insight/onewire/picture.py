"""A 1-Wire transaction as its bytes stand under each other, each slot from its fall on."""

from collections.abc import Iterator

from pivet.insight.drawn.picture import Box, Kind, Picture, Shape, Stroke, Words, kind_of
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report

BITS = 8
MOST_ROWS = 24
"""How many bytes are drawn; a search has more, and its tree is the window's matter."""

HEAD, TOP = 96.0, 40.0
ROW, CELL = 38.0, 74.0
HIGH, LOW = 8.0, 26.0
SHOWN_US, FAST_US = 76.0, 11.0
"""A cell shows so much from the fall on, at standard and at overdrive speed."""


def transaction_picture(report: Report) -> Picture:
    """Reset and presence as words, then a row a byte; pulses that are not sound stand out.

    Args:
        report: the report of the transaction.
    """
    slots = {
        pulse.bit: pulse for pulse in report.pulses if pulse.bit is not None and not pulse.high
    }
    rows = min((max(slots, default=-1) + BITS) // BITS, MOST_ROWS)
    shapes: list[Shape] = [*_head(report)]
    for row in range(rows):
        top = TOP + row * ROW
        name = f"{report.data[row]:02x}" if row < len(report.data) else f"byte {row + 1}"
        shapes.append(Words(0, top + 22, name, Kind.INK, size=14, bold=True))
        for place in range(BITS):
            pulse = slots.get(row * BITS + place)
            if pulse is not None:
                shapes += _cell(pulse, HEAD + place * CELL, top)
    return Picture(HEAD + BITS * CELL, TOP + rows * ROW, tuple(shapes), report.headline)


def _head(report: Report) -> Iterator[Shape]:
    at = 0.0
    for pulse in report.pulses:
        if pulse.bit is None:
            text = f"{pulse.window.label} {pulse.width_us:.1f} µs"
            yield Words(at, 18, text, kind_of(pulse.verdict), size=11)
            at += 200.0


def _cell(pulse: Pulse, left: float, top: float) -> Iterator[Shape]:
    window = pulse.window
    shown = FAST_US if window.key.startswith("fast_") else SHOWN_US
    scale = (CELL - 8) / shown
    ends = (window.min_us, window.typ_us if window.max_us is None else window.max_us)
    begin, end = (left + min(us, shown) * scale for us in ends)
    yield Box(begin, top + HIGH, end - begin, LOW - HIGH, Kind.BAND)
    rise = left + min(pulse.width_us, shown) * scale
    points = [
        (left - 3, top + HIGH),
        (left, top + HIGH),
        (left, top + LOW),
        (rise, top + LOW),
        (rise, top + HIGH),
        (left + CELL - 8, top + HIGH),
    ]
    yield Stroke(points, kind_of(pulse.verdict), 1.4)
    bit = "1" if window.key.endswith("one") else "0"
    yield Words(left + 12, top + LOW + 11, bit, Kind.QUIET, "middle", 10)
