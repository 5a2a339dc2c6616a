"""Painting bytes of a 1-Wire transaction: bands, lows, who speaks, numbers."""

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QWidget

from pivet.decode.onewire import Speaker
from pivet.judge.pulses import Pulse
from pivet.judge.verdict import Verdict
from pivet.sheets.model import Sheet, Window
from pivet.ui.painting import LEFT, RIGHT, draw_text, font_of, with_alpha
from pivet.ui.stack.onewire.geometry import Cell, Place
from pivet.ui.theme import theme

MARK = 5.0
SHOWS_WIDTH_PX = 38.0
"""From this width on a cell shows the length of its low too."""


def paint_row(
    painter: QPainter,
    place: Place,
    pulses: dict[int, Pulse],
    lit: frozenset[int],
    sheet: Sheet,
    fast: bool,
    widget: QWidget,
) -> None:
    """One byte: name, cells, meaning."""
    colours = theme()
    painter.setPen(QPen(with_alpha(colours.edge, 160), 1))
    painter.drawLine(place.box.bottomLeft(), place.box.bottomRight())
    _paint_label(painter, place, widget)
    bands = _bands(place, sheet, fast)
    for cell in place.cells:
        _paint_bands(painter, cell, bands)
    for cell in place.cells:
        pulse = pulses.get(2 * cell.slot)
        if pulse is not None:
            _paint_cell(painter, cell, pulse, place.row.speaker, lit, widget)
    if place.meaning is not None:
        draw_text(
            painter, place.meaning, place.row.meaning, font_of(widget, 0.9), colours.ink, LEFT
        )


def _paint_label(painter: QPainter, place: Place, widget: QWidget) -> None:
    colours, row = theme(), place.row
    colour = colours.unsound if row.wrong else colours.ink
    value = QRectF(place.label.left(), place.label.top(), 34, place.label.height())
    big = len(row.value) <= 2
    draw_text(painter, value, row.value, font_of(widget, 1.25 if big else 0.8, bold=True), colour)
    name = QRectF(value.right(), place.label.top(), place.label.width() - 46, place.label.height())
    draw_text(painter, name, row.label, font_of(widget, 0.82), colours.faint)
    side = place.label.right() - 8
    y = place.label.center().y() - 5
    if row.speaker is Speaker.HOST:
        paint_speaker(painter, QPointF(side, y), row.speaker)
    else:
        paint_speaker(painter, QPointF(side + 2, y + 10), row.speaker)


def paint_speaker(painter: QPainter, centre: QPointF, speaker: Speaker) -> None:
    """The host is a filled square, a device an open ring."""
    colours = theme()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    half = MARK / 2
    if speaker is Speaker.HOST:
        box = QRectF(centre.x() - half, centre.y() - half, MARK, MARK)
        painter.fillRect(box, colours.accent)
    else:
        painter.setPen(QPen(colours.trace, 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(centre, half + 0.4, half + 0.4)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)


def _bands(place: Place, sheet: Sheet, fast: bool) -> list[tuple[Window, bool]]:
    """The windows that a slot of this speaker can have; which of them stand for a 0."""
    head = "fast_" if fast else ""
    zero = "hold" if place.row.speaker is Speaker.DEVICE else "zero"
    return [(sheet.windows[head + "one"], False), (sheet.windows[head + zero], True)]


def _paint_bands(painter: QPainter, cell: Cell, bands: list[tuple[Window, bool]]) -> None:
    """Where the low may end, and the point at which the host samples a read."""
    colours, wave = theme(), cell.wave
    for window, is_zero in bands:
        left = cell.x_of(window.min_us)
        right = cell.x_of(window.max_us if window.max_us is not None else window.typ_us)
        box = QRectF(left, wave.top() - 2, max(right - left, 1.5), wave.height() + 4)
        painter.fillRect(box, colours.zero if is_zero else colours.one)
    sample = cell.x_of(bands[0][0].max_us or 0.0)
    painter.setPen(QPen(colours.faint, 1, Qt.PenStyle.DotLine))
    painter.drawLine(QPointF(sample, wave.top() - 2), QPointF(sample, wave.bottom() + 2))


def _paint_cell(
    painter: QPainter,
    cell: Cell,
    pulse: Pulse,
    speaker: Speaker,
    lit: frozenset[int],
    widget: QWidget,
) -> None:
    colours, wave = theme(), cell.wave
    chosen = pulse.column in lit
    if chosen:
        painter.fillRect(wave.adjusted(-1, -4, 1, 4), with_alpha(colours.live, 190))
        painter.setPen(QPen(colours.accent, 1))
        painter.drawRect(wave.adjusted(-1, -4, 1, 4))
    sound = pulse.verdict is Verdict.SOUND
    pen = QPen(colours.trace if sound else colours.verdict(pulse.verdict))
    pen.setWidthF(2.2 if chosen or pulse.verdict is Verdict.UNSOUND else 1.5)
    if pulse.verdict is Verdict.UNKNOWN:
        pen.setStyle(Qt.PenStyle.DashLine)
    painter.setPen(pen)
    fall, rise = cell.x_of(0.0), cell.x_of(pulse.width_us)
    top, bottom = wave.top(), wave.bottom()
    painter.drawLines(
        [
            QLineF(wave.left(), top, fall, top),
            QLineF(fall, top, fall, bottom),
            QLineF(fall, bottom, rise, bottom),
            QLineF(rise, bottom, rise, top),
            QLineF(rise, top, wave.right(), top),
        ]
    )
    _paint_numbers(painter, cell, pulse, speaker, widget)


def _paint_numbers(
    painter: QPainter, cell: Cell, pulse: Pulse, speaker: Speaker, widget: QWidget
) -> None:
    """Under the cell: the bit on its speaker's side, and the low's length if there is room."""
    colours = theme()
    line = QRectF(cell.box.left(), cell.wave.bottom() + 1, cell.box.width(), 13)
    value = "1" if pulse.window.key.endswith("one") else "0"
    quiet = pulse.verdict is Verdict.SOUND
    colour = colours.ink if quiet else colours.verdict(pulse.verdict)
    ours, theirs = (LEFT, RIGHT) if speaker is Speaker.HOST else (RIGHT, LEFT)
    draw_text(painter, line, value, font_of(widget, 0.82, bold=True), colour, ours)
    if cell.box.width() >= SHOWS_WIDTH_PX or not quiet:
        text = f"{pulse.width_us:.0f}" if pulse.width_us >= 10 else f"{pulse.width_us:.1f}"
        shade = colours.faint if quiet else colour
        draw_text(painter, line, text, font_of(widget, 0.78), shade, theirs)
