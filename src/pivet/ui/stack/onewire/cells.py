"""Painting bytes of a 1-Wire transaction: bands, lows, who speaks, numbers."""

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen
from PySide6.QtWidgets import QWidget

from pivet.decode.onewire import Speaker
from pivet.judge.onewire.detail import ByteRow
from pivet.judge.pulses import Pulse
from pivet.judge.verdict import Verdict
from pivet.ui.painting import LEFT, RIGHT, draw_text, font_of, with_alpha
from pivet.ui.stack.onewire.geometry import Cell, Geometry, Place
from pivet.ui.theme import theme

MARK = 5.0
SHOWS_WIDTH_PX = 38.0
"""From this width on a cell shows the length of its low too."""


Kind = tuple[Verdict, bool]
"""How a piece of line is drawn: the verdict of its pulse, and whether it is lit."""


def paint_rows(
    painter: QPainter,
    geometry: Geometry,
    rows: tuple[ByteRow, ...],
    pulses: dict[int, Pulse],
    lit: frozenset[int],
    widget: QWidget,
) -> None:
    """All bytes: names, bands, cells, meanings; what is alike is painted at once."""
    colours, places = theme(), geometry.places
    painter.setPen(QPen(with_alpha(colours.edge, 160), 1))
    painter.drawLines([QLineF(row.box.bottomLeft(), row.box.bottomRight()) for row in places])
    _paint_bands(painter, geometry)
    pieces: dict[Kind, list[QLineF]] = {}
    numbers: list[tuple[Cell, Pulse, Speaker]] = []
    for place, row in zip(places, rows, strict=True):
        _paint_label(painter, place, row, widget)
        for cell in place.cells:
            pulse = pulses.get(2 * cell.slot)
            if pulse is not None:
                _paint_light(painter, cell, pulse.column in lit)
                _add_pieces(pieces, cell, pulse, pulse.column in lit)
                numbers.append((cell, pulse, row.speaker))
        if place.meaning is not None:
            font = font_of(widget, 0.9)
            draw_text(painter, place.meaning, row.meaning, font, colours.ink, LEFT)
    for kind in sorted(pieces):
        painter.setPen(_pen(*kind))
        painter.drawLines(pieces[kind])
    _paint_numbers(painter, numbers, widget)


def _paint_label(painter: QPainter, place: Place, row: ByteRow, widget: QWidget) -> None:
    colours = theme()
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


def _paint_bands(painter: QPainter, geometry: Geometry) -> None:
    """Where the low may end, and the point at which the host samples a read."""
    colours, bands = theme(), geometry.bands
    painter.setPen(Qt.PenStyle.NoPen)
    for boxes, colour in ((bands.zeros, colours.zero), (bands.ones, colours.one)):
        painter.setBrush(colour)
        painter.drawRects(boxes)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colours.faint, 1, Qt.PenStyle.DotLine))
    painter.drawLines(bands.samples)


def _paint_light(painter: QPainter, cell: Cell, lit: bool) -> None:
    if lit:
        box = cell.wave.adjusted(-1, -4, 1, 4)
        painter.fillRect(box, with_alpha(theme().live, 190))
        painter.setPen(QPen(theme().accent, 1))
        painter.drawRect(box)


def _add_pieces(pieces: dict[Kind, list[QLineF]], cell: Cell, pulse: Pulse, lit: bool) -> None:
    """The line through one cell: a bit of idle, the fall, the low, the rise, the rest."""
    wave, fall, rise = cell.wave, cell.x_of(0.0), cell.x_of(pulse.width_us)
    top, bottom = wave.top(), wave.bottom()
    pieces.setdefault((pulse.verdict, lit), []).extend(
        (
            QLineF(wave.left(), top, fall, top),
            QLineF(fall, top, fall, bottom),
            QLineF(fall, bottom, rise, bottom),
            QLineF(rise, bottom, rise, top),
            QLineF(rise, top, wave.right(), top),
        )
    )


def _pen(verdict: Verdict, lit: bool) -> QPen:
    colours = theme()
    pen = QPen(colours.trace if verdict is Verdict.SOUND else colours.verdict(verdict))
    pen.setWidthF(2.2 if lit or verdict is Verdict.UNSOUND else 1.5)
    if verdict is Verdict.UNKNOWN:
        pen.setStyle(Qt.PenStyle.DashLine)
    return pen


def _paint_numbers(
    painter: QPainter, numbers: list[tuple[Cell, Pulse, Speaker]], widget: QWidget
) -> None:
    """Under each cell: the bit on its speaker's side, and the low's length if there is room."""
    colours = theme()
    lines = [
        QRectF(cell.box.left(), cell.wave.bottom() + 1, cell.box.width(), 13)
        for cell, _, _ in numbers
    ]
    painter.setFont(font_of(widget, 0.82, bold=True))
    for (_, pulse, speaker), line in zip(numbers, lines, strict=True):
        value = "1" if pulse.window.key.endswith("one") else "0"
        painter.setPen(_number_colour(pulse, colours.ink))
        painter.drawText(line, int(LEFT if speaker is Speaker.HOST else RIGHT), value)
    painter.setFont(font_of(widget, 0.78))
    for (cell, pulse, speaker), line in zip(numbers, lines, strict=True):
        if cell.box.width() >= SHOWS_WIDTH_PX or pulse.verdict is not Verdict.SOUND:
            text = f"{pulse.width_us:.0f}" if pulse.width_us >= 10 else f"{pulse.width_us:.1f}"
            painter.setPen(_number_colour(pulse, colours.faint))
            painter.drawText(line, int(RIGHT if speaker is Speaker.HOST else LEFT), text)


def _number_colour(pulse: Pulse, quiet: QColor) -> QColor:
    return quiet if pulse.verdict is Verdict.SOUND else theme().verdict(pulse.verdict)
