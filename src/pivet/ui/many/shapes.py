"""Pictures of insight, painted in the colours of the window."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPainterPath, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from pivet.insight.drawn.picture import Box, Cross, Kind, Picture, Shape, Stroke, Words
from pivet.ui.drawing.painting import width_of, with_alpha
from pivet.ui.drawing.theme import Theme, theme

USUAL_PX = 12.0
ARM = 4.0
FILLED, COMMON = 110, 120
WEIGHTS = {"start": 0.0, "middle": 0.5, "end": 1.0}


def colour_of(kind: Kind) -> QColor:
    """The colour of a kind of shape."""
    now = theme()
    if id(now) not in _colours:
        _colours[id(now)] = _colours_in(now)
    return _colours[id(now)][kind]


_colours: dict[int, dict[Kind, QColor]] = {}


def _colours_in(now: Theme) -> dict[Kind, QColor]:
    return {
        Kind.PAPER: now.panel,
        Kind.BAND: now.gauge,
        Kind.COMMON: with_alpha(now.gauge, COMMON),
        Kind.AXIS: now.faint,
        Kind.INK: now.ink,
        Kind.QUIET: now.faint,
        Kind.BEFORE: now.ink,
        Kind.AFTER: now.accent,
        Kind.SECOND: now.trace,
        Kind.GOOD: now.sound,
        Kind.BAD: now.unsound,
        Kind.NEAR: now.near,
        Kind.MINE: now.glow,
        Kind.CELL: now.edge,
        Kind.LOW: now.low,
        Kind.ZERO: now.zero,
        Kind.ONE: now.one,
    }


def paint(painter: QPainter, picture: Picture, widget: QWidget) -> None:
    """Paints a picture at the painter's origin.

    Args:
        painter: with antialiasing.
        picture: what.
        widget: the widget whose font is used.
    """
    for shape in picture.shapes:
        _paint(painter, shape, widget)


def _paint(painter: QPainter, shape: Shape, widget: QWidget) -> None:
    colour = colour_of(shape.kind)
    if isinstance(shape, Box):
        if shape.strength < 1:
            colour = with_alpha(colour, round(255 * shape.strength))
        painter.fillRect(QRectF(shape.x, shape.y, shape.width, shape.height), colour)
    elif isinstance(shape, Stroke):
        _paint_stroke(painter, shape, colour)
    elif isinstance(shape, Words):
        font = font_px(widget, shape.size, shape.bold)
        left = shape.x - WEIGHTS[shape.anchor] * width_of(shape.text, font)
        painter.setFont(font)
        painter.setPen(colour)
        painter.drawText(QPointF(left, shape.y), shape.text)
    else:
        paint_cross(painter, shape, colour)


def _paint_stroke(painter: QPainter, shape: Stroke, colour: QColor) -> None:
    points = QPolygonF([QPointF(x, y) for x, y in shape.points])
    if shape.filled:
        path = QPainterPath()
        path.addPolygon(points)
        painter.fillPath(path, with_alpha(colour, FILLED))
    painter.setPen(QPen(colour, shape.width))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(points)


def paint_cross(painter: QPainter, shape: Cross, colour: QColor, lit: bool = False) -> None:
    """A mark; a lit one in a ring."""
    painter.setPen(QPen(colour, 2.0))
    x, y = shape.x, shape.y
    painter.drawLine(QPointF(x - ARM, y - ARM), QPointF(x + ARM, y + ARM))
    painter.drawLine(QPointF(x - ARM, y + ARM), QPointF(x + ARM, y - ARM))
    if lit:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QPointF(x, y), 2.2 * ARM, 2.2 * ARM)


_fonts: dict[tuple[str, float, bool, float], QFont] = {}


def font_px(widget: QWidget, size: float, bold: bool = False) -> QFont:
    """The widget's font in a size of a picture: 12 is as large as the widget's own."""
    own = widget.font()
    key = (own.family(), size, bold, own.pointSizeF())
    if key not in _fonts:
        font = QFont(own)
        font.setPointSizeF(max(own.pointSizeF() * size / USUAL_PX, 6.0))
        font.setBold(bold)
        _fonts[key] = font
    return _fonts[key]
