"""What several views paint alike."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QLayout, QWidget

from pivet.judge.verdict import Verdict
from pivet.ui.theme import theme

LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
CENTER = Qt.AlignmentFlag.AlignCenter

_fonts: dict[tuple[str, float, bool], QFont] = {}


def draw_mark(painter: QPainter, verdict: Verdict, centre: QPointF, size: float) -> None:
    """The shape of a verdict: disc, triangle, ring, cross."""
    colour = theme().verdict(verdict)
    half = size / 2
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    pen = QPen(colour, max(size / 5, 1.4))
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    if verdict is Verdict.SOUND:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawEllipse(centre, half * 0.85, half * 0.85)
    elif verdict is Verdict.NEAR:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        x, y = centre.x(), centre.y()
        corners = [
            QPointF(x, y - half),
            QPointF(x + half, y + half * 0.85),
            QPointF(x - half, y + half * 0.85),
        ]
        painter.drawPolygon(QPolygonF(corners))
    elif verdict is Verdict.UNKNOWN:
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(centre, half * 0.75, half * 0.75)
    else:
        painter.setPen(pen)
        reach = half * 0.75
        painter.drawLine(centre + QPointF(-reach, -reach), centre + QPointF(reach, reach))
        painter.drawLine(centre + QPointF(-reach, reach), centre + QPointF(reach, -reach))
    painter.restore()


def font_of(widget: QWidget, scale: float = 1.0, bold: bool = False) -> QFont:
    """The widget's font, scaled; shared, so copy it before changing it."""
    own = widget.font()
    key = (own.key(), scale, bold)
    if key not in _fonts:
        font = QFont(own)
        font.setPointSizeF(max(font.pointSizeF() * scale, 6.0))
        font.setBold(bold)
        _fonts[key] = font
    return _fonts[key]


def draw_text(
    painter: QPainter,
    box: QRectF,
    text: str,
    font: QFont,
    colour: QColor,
    align: Qt.AlignmentFlag = LEFT,
    elide: Qt.TextElideMode = Qt.TextElideMode.ElideRight,
) -> float:
    """Text in a box, shortened with … where it does not fit; returns its width."""
    metrics = QFontMetricsF(font)
    width = metrics.horizontalAdvance(text)
    if width > box.width() + 0.5:
        text = metrics.elidedText(text, elide, box.width() + 0.5)
        width = metrics.horizontalAdvance(text)
    painter.setFont(font)
    painter.setPen(colour)
    painter.drawText(box, int(align), text)
    return width


def draw_panel(painter: QPainter, box: QRectF, focused: bool) -> None:
    """The sheet of paper that a painted view stands on; an accent edge shows focus."""
    colours = theme()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(colours.accent if focused else colours.edge, 1.5 if focused else 1.0))
    painter.setBrush(colours.panel)
    painter.drawRoundedRect(box.adjusted(0.75, 0.75, -0.75, -0.75), 6, 6)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)


def clear(layout: QLayout) -> None:
    """Takes all widgets out of a layout."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()


def with_alpha(colour: QColor, alpha: int) -> QColor:
    """The same colour, more or less transparent."""
    other = QColor(colour)
    other.setAlpha(alpha)
    return other
