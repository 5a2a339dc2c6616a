"""Painting bytes of a 1-Wire transaction: bands, lows, who speaks, numbers."""

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen
from PySide6.QtWidgets import QWidget

from pivet.decode.onewire import Speaker
from pivet.insight.drawn.onewire import Cell, RowPlace, width_text
from pivet.judge.onewire.detail import ByteRow
from pivet.judge.pulses import Pulse
from pivet.judge.verdict import Verdict
from pivet.ui.drawing.painting import (
    LEFT,
    RIGHT,
    draw_text,
    font_of,
    laid_out,
    pulse_pen,
    with_alpha,
)
from pivet.ui.drawing.theme import theme
from pivet.ui.stack.onewire.geometry import Geometry

MARK = 5.0
VALUE_WIDTH = 34.0
SHOWS_WIDTH_PX = 38.0
"""From this width on a cell shows the length of its low too."""


Kind = tuple[Verdict, bool]
"""How a piece of line is drawn: the verdict of its pulse, and whether it is lit."""


def paint_ground(painter: QPainter, geometry: Geometry, widget: QWidget) -> None:
    """What is alike for transactions that are laid out alike: names, speakers, bands."""
    colours, places = theme(), geometry.places
    painter.setPen(QPen(with_alpha(colours.edge, 160), 1))
    boxes = [place.box for place in places]
    painter.drawLines([QLineF(box.left, box.bottom, box.right, box.bottom) for box in boxes])
    _paint_bands(painter, geometry)
    painter.setPen(pulse_pen(Verdict.SOUND))
    painter.drawLines([line for fall in geometry.falls.values() for line in fall])
    for place in places:
        name = QRectF(*place.label.inside(VALUE_WIDTH, 0, 12, 0))
        draw_text(painter, name, place.row.label, font_of(widget, 0.82), colours.faint)
        host = place.row.speaker is Speaker.HOST
        side, y = place.label.right - 8, place.label.middle - 5
        spot = QPointF(side, y) if host else QPointF(side + 2, y + 10)
        paint_speaker(painter, spot, place.row.speaker)


def paint_rows(
    painter: QPainter,
    geometry: Geometry,
    rows: tuple[ByteRow, ...],
    pulses: dict[int, Pulse],
    lit: frozenset[int],
    widget: QWidget,
) -> None:
    """Values, lines, numbers, meanings; what is drawn alike is drawn at once."""
    lines: dict[Kind, list[QLineF]] = {}
    numbers: list[tuple[Cell, Pulse, Speaker]] = []
    for place, row in zip(geometry.places, rows, strict=True):
        _paint_value(painter, place, row, widget)
        for cell in place.cells:
            pulse = pulses.get(2 * cell.slot)
            if pulse is not None:
                _paint_light(painter, cell, pulse.column in lit)
                own = lines.setdefault((pulse.verdict, pulse.column in lit), [])
                own += _low(geometry, cell, pulse)
                if pulse.column in lit or pulse.verdict is not Verdict.SOUND:
                    own += geometry.falls[cell.slot]
                numbers.append((cell, pulse, row.speaker))
        if place.meaning is not None:
            font = font_of(widget, 0.9)
            draw_text(painter, QRectF(*place.meaning), row.meaning, font, theme().ink, LEFT)
    for kind in sorted(lines):
        painter.setPen(pulse_pen(*kind))
        painter.drawLines(lines[kind])
    _paint_numbers(painter, geometry, numbers, widget)


def _paint_value(painter: QPainter, place: RowPlace, row: ByteRow, widget: QWidget) -> None:
    colour = theme().unsound if row.wrong else theme().ink
    box = QRectF(*place.label._replace(width=VALUE_WIDTH))
    draw_text(painter, box, row.value, font_of(widget, 1.25, bold=True), colour)


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
        box = QRectF(*cell.wave.inside(-1, -4, -1, -4))
        painter.fillRect(box, with_alpha(theme().live, 190))
        painter.setPen(QPen(theme().accent, 1))
        painter.drawRect(box)


def _low(geometry: Geometry, cell: Cell, pulse: Pulse) -> tuple[QLineF, ...]:
    """``Cell.low_line`` of a pulse; by what is kept of each cell: hundreds are painted at once.

    The idle and the fall at its beginning are ground if sound.
    """
    x, top, bottom, right = geometry.ends[cell.slot]
    rise = cell.x_of(pulse.width_us)
    return (
        QLineF(x, bottom, rise, bottom),
        QLineF(rise, bottom, rise, top),
        QLineF(rise, top, right, top),
    )


def _paint_numbers(
    painter: QPainter,
    geometry: Geometry,
    numbers: list[tuple[Cell, Pulse, Speaker]],
    widget: QWidget,
) -> None:
    """Under each cell: the bit on its speaker's side, and the low's length if there is room."""
    colours = theme()
    font = font_of(widget, 0.82, bold=True)
    painter.setFont(font)
    painter.setPen(colours.ink)
    zero, one = laid_out("0", font), laid_out("1", font)
    shift = QPointF(zero.width, 0.0)
    for cell, pulse, speaker in numbers:
        digit = one if pulse.window.key.endswith("one") else zero
        host = speaker is Speaker.HOST
        box = geometry.numbers[cell.slot]
        spot = box.topLeft() if host else box.topRight() - shift
        quiet = pulse.verdict is Verdict.SOUND
        if not quiet:
            painter.setPen(colours.verdict(pulse.verdict))
        painter.drawStaticText(spot, digit.drawn)
        if not quiet:
            painter.setPen(colours.ink)
    font = font_of(widget, 0.78)
    for cell, pulse, speaker in numbers:
        if cell.box.width >= SHOWS_WIDTH_PX or pulse.verdict is not Verdict.SOUND:
            colour = _number_colour(pulse, colours.faint)
            side = RIGHT if speaker is Speaker.HOST else LEFT
            draw_text(painter, geometry.numbers[cell.slot], width_text(pulse), font, colour, side)


def _number_colour(pulse: Pulse, quiet: QColor) -> QColor:
    return quiet if pulse.verdict is Verdict.SOUND else theme().verdict(pulse.verdict)
