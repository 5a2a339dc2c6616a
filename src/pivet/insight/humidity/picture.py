"""A humidity exchange as the stack draws it: its bits under each other, all on one scale."""

from collections.abc import Iterator

from pivet.decode.humidity import layout
from pivet.insight.drawn.chips import chips
from pivet.insight.drawn.humidity import (
    BANDS,
    BITS_IN_ROW,
    BYTES,
    PREAMBLE,
    FrameLayout,
    bit_pulses,
    labels_of,
    sums_of,
)
from pivet.insight.drawn.picture import Box, Kind, Picture, Shape, Stroke, Words, kind_of
from pivet.insight.drawn.place import Rect
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict

WIDTH, HEIGHT = 760.0, 300.0
CHIP = 150.0
LINE = 1.4


def frame_picture(
    report: Report, taken: bytes | None = None, mark_us: float | None = None
) -> Picture:
    """Bytes under each other, a cell a bit; pulses that are not sound stand out.

    Args:
        report: the report of the exchange.
        taken: the bytes as a firmware took them; bits that differ stand out instead.
        mark_us: how long after the rise it decides, µs; None where it does not.
    """
    place = FrameLayout(Rect(0.0, 0.0, WIDTH, HEIGHT), report.sheet)
    pulses = bit_pulses(report)
    ahead, line = (one for one in report.pulses if one.window.key in PREAMBLE), place.preamble
    shapes: list[Shape] = [*chips(ahead, line.left, line.top + 16, CHIP)]
    for key, kind in BANDS:
        shapes += [
            Box(*band, kind)
            for bit, band in enumerate(place.bands[key])
            if layout.low_column(bit) in pulses
        ]
    shapes += _labels(report, place, taken)
    shapes += _sums(report, place)
    for bit in range(layout.BITS):
        low = pulses.get(layout.low_column(bit))
        high = pulses.get(layout.high_column(bit))
        if low is None:
            continue
        own = None if taken is None else bool(taken[bit // BITS_IN_ROW] >> (7 - bit % 8) & 1)
        shapes += _cell(place, bit, low, high, own)
        if mark_us is not None:
            at, wave = place.x_of(bit, mark_us), place.waves[bit]
            shapes.append(Stroke([(at, wave.top - 5), (at, wave.bottom + 3)], Kind.MINE, 1.2))
    return Picture(WIDTH, HEIGHT, tuple(shapes), report.headline)


def _labels(report: Report, place: FrameLayout, taken: bytes | None) -> Iterator[Shape]:
    """What each byte holds, its value, and what a firmware took it for."""
    for byte, (name, value, wrong) in enumerate(labels_of(report)):
        box = place.label(byte)
        yield Words(box.left, box.top + 14, name, Kind.QUIET, size=10)
        kind = Kind.BAD if wrong and taken is None else Kind.INK
        yield Words(box.left, box.top + 34, value, kind, size=17, bold=True)
        if taken is not None and byte < len(report.data):
            other = taken[byte] != report.data[byte]
            kind, text = Kind.BAD if other else Kind.QUIET, f"taken: {taken[byte]:02x}"
            yield Words(box.left, box.top + 50, text, kind, size=10, bold=other)


def _sums(report: Report, place: FrameLayout) -> Iterator[Shape]:
    for byte, (above, below) in enumerate(sums_of(report)):
        box, last = place.sum(byte), byte == BYTES - 1
        good = Kind.GOOD if report.check.ok else Kind.BAD
        kind = good if last else Kind.INK
        yield Words(box.right, box.middle - 6, above, kind, "end", 12, last)
        yield Words(box.right, box.middle + 12, below, Kind.QUIET, "end", 10)


def _cell(
    place: FrameLayout, bit: int, low: Pulse, high: Pulse | None, taken: bool | None
) -> Iterator[Shape]:
    """The line through a cell, the bit and the width of its high."""
    if high is None:
        yield Stroke(place.cut_line(bit, low.width_us), Kind.BAD, LINE)
        return
    sent = high.window.key == "one_high"
    number, ink = "1" if sent else "0", Kind.INK
    kinds = [kind_of(low.verdict), kind_of(high.verdict)]
    if taken is not None:
        ink = Kind.INK if taken is sent else Kind.BAD
        kinds = [ink, ink]
        number = number if taken is sent else f"{number} → {int(taken)}"
    yield Stroke(place.low_line(bit, low.width_us), kinds[0], LINE)
    yield Stroke(place.high_line(bit, high.width_us), kinds[1], LINE)
    _, middle, right = place.number_boxes(bit)
    yield Words(middle.left, middle.bottom - 4, number, ink, size=10, bold=True)
    if taken is None or taken is sent:
        kind = Kind.QUIET if high.verdict is Verdict.SOUND else kinds[1]
        width = f"{high.width_us:.0f}"
        yield Words(right.right, right.bottom - 4, width, kind, "end", 10)
