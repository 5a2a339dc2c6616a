"""A humidity exchange as its bits stand under each other, all on one scale."""

from collections.abc import Iterator

from pivet.decode.humidity import layout
from pivet.insight.drawn.picture import Box, Kind, Picture, Shape, Stroke, Words, kind_of
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report
from pivet.sheets.model import Window

BITS = 8
HEAD, FOOT = 56.0, 8.0
ROW, CELL = 44.0, 80.0
HIGH, LOW = 8.0, 28.0
BEFORE_US, AFTER_US = 62.0, 84.0
"""A cell shows so much before and after the rise at which a bit's timing starts."""

SCALE = (CELL - 6) / (BEFORE_US + AFTER_US)


def frame_picture(
    report: Report, taken: bytes | None = None, mark_us: float | None = None
) -> Picture:
    """Bytes under each other, a cell a bit; pulses that are not sound stand out.

    Args:
        report: the report of the exchange.
        taken: the bytes as a firmware took them; bits that differ stand out instead.
        mark_us: how long after the rise it decides, µs; None where it does not.
    """
    by_column = {pulse.column: pulse for pulse in report.pulses}
    windows = report.sheet.windows
    shapes: list[Shape] = []
    for byte in range(layout.BYTES):
        top = FOOT + byte * ROW
        if len(report.data) > byte:
            shapes.append(
                Words(0, top + 24, f"{report.data[byte]:02x}", Kind.INK, size=15, bold=True)
            )
        if taken is not None and len(report.data) > byte:
            other = taken[byte] != report.data[byte]
            kind = Kind.BAD if other else Kind.QUIET
            shapes.append(
                Words(0, top + 38, f"taken: {taken[byte]:02x}", kind, size=10, bold=other)
            )
        for bit in range(BITS):
            number = byte * BITS + bit
            low = by_column.get(layout.low_column(number))
            high = by_column.get(layout.high_column(number))
            if low is not None:
                left = HEAD + bit * CELL
                own = None if taken is None else bool(taken[byte] >> (7 - bit) & 1)
                shapes += _cell(low, high, left, top, windows, own)
                if mark_us is not None:
                    at = left + (BEFORE_US + mark_us) * SCALE
                    shapes.append(Stroke([(at, top + 3), (at, top + LOW + 3)], Kind.MINE, 1.2))
    height = FOOT + layout.BYTES * ROW
    return Picture(HEAD + BITS * CELL, height, tuple(shapes), report.headline)


def _cell(
    low: Pulse,
    high: Pulse | None,
    left: float,
    top: float,
    windows: dict[str, Window],
    taken: bool | None,
) -> Iterator[Shape]:
    scale = SCALE
    rise = left + BEFORE_US * scale
    for key, begins in (("bit_low", -1), ("zero_high", 1), ("one_high", 1)):
        window = windows[key]
        top_us = window.max_us if window.max_us is not None else window.typ_us
        ends = sorted((rise + begins * window.min_us * scale, rise + begins * top_us * scale))
        yield Box(ends[0], top + HIGH, ends[1] - ends[0], LOW - HIGH, Kind.BAND)
    begin = max(rise - low.width_us * scale, left)
    points = [(begin, top + HIGH), (begin, top + LOW), (rise, top + LOW), (rise, top + HIGH)]
    kind = kind_of(low.verdict)
    if high is not None:
        end = min(rise + high.width_us * scale, left + CELL - 4)
        points += [(end, top + HIGH), (end, top + LOW)]
        kind = kind_of(max(low.verdict, high.verdict))
        sent = high.window.key == "one_high"
        bit, ink = "1" if sent else "0", Kind.QUIET
        if taken is not None:
            ink = kind = Kind.INK if taken is sent else Kind.BAD
            bit = bit if taken is sent else f"{bit} → {int(taken)}"
        bold = taken is not None and taken is not sent
        yield Words(rise, top + LOW + 12, bit, ink, "middle", 10, bold)
    yield Stroke(points, kind, 1.4)
