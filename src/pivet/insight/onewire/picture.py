"""A 1-Wire transaction as the stack draws it: a row a byte, each slot from its fall on."""

from collections.abc import Iterator, Mapping

from pivet.decode.onewire import Speaker
from pivet.insight.drawn.onewire import (
    FEW_ROWS,
    HEAD_HEIGHT,
    RowPlace,
    TransactionLayout,
    band,
    sample,
    width_text,
)
from pivet.insight.drawn.picture import Box, Kind, Picture, Shape, Stroke, Words, kind_of
from pivet.insight.drawn.place import Rect
from pivet.insight.drawn.reset import ResetLayout, meant_words
from pivet.insight.drawn.search import SearchLayout
from pivet.judge.onewire.detail import Transaction, Walk
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.sheets.model import Sheet

WIDTH, ROW, TREE = 760.0, 38.0, 240.0
NAME_WIDTH = 150.0
SHOWS_WIDTH_PX = 38.0
"""From this width on a cell shows the length of its low too."""

NO_NAMES: Mapping[str, str] = {}


def transaction_picture(report: Report) -> Picture:
    """Reset and presence, a row a byte, the tree of a search; what is not sound stands out.

    Args:
        report: the report of the transaction.
    """
    detail = report.detail
    assert isinstance(detail, Transaction)
    parts = [sum(row.part == part for row in detail.rows) for part in (0, 1)]
    rows = sum(parts) if sum(parts) <= FEW_ROWS else max(parts)
    walk = detail.walk if detail.walk is not None and detail.walk.steps else None
    height = HEAD_HEIGHT + rows * ROW + (TREE if walk is not None else 0.0)
    place = TransactionLayout(Rect(0.0, 0.0, WIDTH, height), detail)
    pulses = {pulse.column: pulse for pulse in report.pulses}
    shapes: list[Shape] = [*_head(ResetLayout(place.head, report, detail.fast), report, detail)]
    for row in place.places:
        shapes += _row(row, pulses, report.sheet)
    if walk is not None:
        shapes += _search(SearchLayout(place.tree, walk), walk)
    return Picture(WIDTH, height, tuple(shapes), report.headline)


def _head(place: ResetLayout, report: Report, detail: Transaction) -> Iterator[Shape]:
    for box, kind in place.bands(report.sheet):
        yield Box(*box, kind)
    yield Stroke(place.line(), Kind.INK, 1.4)
    for number, (_, text, verdict) in enumerate(place.names()):
        left = place.wave.left + number * NAME_WIDTH
        bold = verdict is not Verdict.SOUND
        yield Words(left, place.wave.bottom + 20, text, kind_of(verdict), size=11, bold=bold)
    for number, text in enumerate(meant_words(detail)):
        at, kind = place.words.top + 14 + 18 * number, Kind.QUIET if number else Kind.INK
        yield Words(place.words.left, at, text, kind, size=11, bold=not number)


def _row(place: RowPlace, pulses: Mapping[int, Pulse], sheet: Sheet) -> Iterator[Shape]:
    """A byte: its value and name, its slots, what it means."""
    row, label = place.row, place.label
    one, zero = place.bands(sheet)
    yield Words(
        label.left,
        label.middle + 2,
        row.value,
        Kind.BAD if row.wrong else Kind.INK,
        size=14,
        bold=True,
    )
    yield Words(label.left + 32, label.middle + 2, row.label, Kind.QUIET, size=10)
    for cell in place.cells:
        pulse = pulses.get(2 * cell.slot)
        if pulse is None:
            continue
        yield Box(*band(cell, zero), Kind.ZERO)
        yield Box(*band(cell, one), Kind.ONE)
        yield Stroke(sample(cell, one), Kind.QUIET, 0.6)
        kind = kind_of(pulse.verdict)
        yield Stroke((*cell.fall_line(), *cell.low_line(pulse.width_us)), kind, 1.4)
        bit = "1" if pulse.window.key.endswith("one") else "0"
        # The bit stands on the side of who speaks: the host left, a device right.
        ends = ((cell.number.left, "start"), (cell.number.right, "end"))
        own, other = ends if row.speaker is Speaker.HOST else ends[::-1]
        base = cell.number.bottom - 2
        yield Words(own[0], base, bit, kind, own[1], 10, True)
        if cell.box.width >= SHOWS_WIDTH_PX or pulse.verdict is not Verdict.SOUND:
            kind = Kind.QUIET if pulse.verdict is Verdict.SOUND else kind
            yield Words(other[0], base, width_text(pulse), kind, other[1], 9)
    if place.meaning is not None:
        yield Words(place.meaning.left, place.meaning.middle + 2, row.meaning, Kind.INK, size=10)


def _search(tree: SearchLayout, walk: Walk) -> Iterator[Shape]:
    yield from _triplets(tree, walk)
    yield from _branches(tree)
    for box, text, own in tree.names(NO_NAMES):
        kind = Kind.AFTER if own else Kind.INK
        yield Words(box.left, box.bottom - 5, text, kind, size=10, bold=own)
    if tree.open and tree.named:
        box = tree.still_to_walk()
        yield Words(box.left, box.bottom - 5, "still to walk", Kind.NEAR, size=10)


def _triplets(tree: SearchLayout, walk: Walk) -> Iterator[Shape]:
    for box, text in tree.scale():
        yield Stroke([(box.left, box.top + 2), (box.left, tree.box.bottom)], Kind.CELL)
        yield Words(box.left + 4, box.bottom - 3, text, Kind.QUIET, size=10)
    for box, text in tree.captions():
        yield Words(box.right, box.bottom - 3, text, Kind.QUIET, "end", 10)
    for place, step in enumerate(walk.steps):
        kind = Kind.NEAR if step.fork else Kind.BAD if step.nobody else Kind.INK
        for box, value, is_direction in tree.squares(place, step):
            strength = 1.0 if value else 0.25
            yield Box(*box, Kind.AFTER if is_direction else kind, strength)


def _branches(tree: SearchLayout) -> Iterator[Shape]:
    for points, own in tree.branches():
        yield Stroke(points, Kind.AFTER if own else Kind.SECOND, 2.4 if own else 1.3)
    for points in tree.open_ends():
        yield Stroke(points, Kind.NEAR, 1.4)
    for points in tree.own_path():
        yield Stroke(points, Kind.AFTER, 2.4)
    dead_end = tree.dead_end()
    if dead_end is not None:
        x, y = dead_end
        yield Stroke([(x - 5, y - 5), (x + 5, y + 5)], Kind.BAD, 2.4)
        yield Stroke([(x - 5, y + 5), (x + 5, y - 5)], Kind.BAD, 2.4)
