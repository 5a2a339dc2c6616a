"""What several views paint alike."""

import math
from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QFont,
    QFontMetricsF,
    QGlyphRun,
    QPaintEngine,
    QPainter,
    QPen,
    QPixmap,
    QPolygonF,
    QRawFont,
    QStaticText,
    QTransform,
)
from PySide6.QtWidgets import QLayout, QWidget
from shiboken6 import VoidPtr

from pivet.insight.drawn.picture import Points
from pivet.judge.verdict import Verdict
from pivet.ui.drawing.theme import theme

LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
CENTER = Qt.AlignmentFlag.AlignCenter

MOST_KEPT = 4000
MOST_PANELS = 12
"""Each is as large as its view; a window that is being drawn larger needs many."""

LEAST_PX = 6

_fonts: dict[tuple[str, float, float, bool], QFont] = {}
_fonts_px: dict[tuple[str, int, bool], QFont] = {}
_widths: dict[tuple[int, str], float] = {}
_texts: "dict[tuple[int, str], LaidOut]" = {}
_signs: dict[tuple[int, str], "Signs"] = {}
_panels: dict[tuple[float, float, float, bool, int], QPixmap] = {}
_marks: dict[tuple[Verdict, float, float, int], QPixmap] = {}


def is_on_screen(painter: QPainter) -> bool:
    """Whether a kept picture is as good as lines: not on paper, nor where all is enlarged."""
    return (
        painter.paintEngine().type() is QPaintEngine.Type.Raster
        and painter.deviceTransform().m11() == painter.device().devicePixelRatioF()
    )


def picture_of(
    width: float,
    height: float,
    ratio: float,
    paint: Callable[[QPainter], None],
    ground: QColor | Qt.GlobalColor = Qt.GlobalColor.transparent,
) -> QPixmap:
    """What something paints, as a picture to be kept.

    Args:
        width: of the picture, px of the window.
        height: of the picture, px of the window.
        ratio: pixels of the screen in a px of the window.
        paint: paints it at the origin.
        ground: the colour under it.
    """
    picture = QPixmap(math.ceil(width * ratio), math.ceil(height * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(ground)
    painter = QPainter(picture)
    paint(painter)
    painter.end()
    return picture


def draw_mark(painter: QPainter, verdict: Verdict, centre: QPointF, size: float) -> None:
    """The shape of a verdict: disc, triangle, ring, cross; on screen from a kept picture."""
    if not is_on_screen(painter):
        _paint_mark(painter, verdict, centre, size)
        return
    ratio = painter.device().devicePixelRatioF()
    room = math.ceil(size) + 4
    key = (verdict, size, ratio, theme().verdict(verdict).rgba())
    if key not in _marks:
        middle = QPointF(room / 2, room / 2)
        _marks[key] = picture_of(
            room, room, ratio, lambda own: _paint_mark(own, verdict, middle, size)
        )
    painter.drawPixmap(centre - QPointF(room / 2, room / 2), _marks[key])


def _paint_mark(painter: QPainter, verdict: Verdict, centre: QPointF, size: float) -> None:
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


def pulse_pen(verdict: Verdict, lit: bool = False) -> QPen:
    """The line of a pulse: broken where nobody can tell, strong where it is outside or lit."""
    colours = theme()
    pen = QPen(colours.trace if verdict is Verdict.SOUND else colours.verdict(verdict))
    pen.setWidthF(2.4 if lit or verdict is Verdict.UNSOUND else 1.6)
    if verdict is Verdict.UNKNOWN:
        pen.setStyle(Qt.PenStyle.DashLine)
    return pen


def font_of(widget: QWidget, scale: float = 1.0, bold: bool = False) -> QFont:
    """The widget's font, scaled; shared, so copy it before changing it."""
    own = widget.font()
    key = (own.family(), own.pointSizeF(), scale, bold)
    if key not in _fonts:
        font = QFont(own)
        font.setPointSizeF(max(font.pointSizeF() * scale, 6.0))
        font.setBold(bold)
        _fonts[key] = font
    return _fonts[key]


def font_of_px(widget: QWidget, size: float, bold: bool) -> QFont:
    """The widget's font, so many px high; shared, so copy it before changing it."""
    own = widget.font()
    key = (own.family(), max(round(size), LEAST_PX), bold)
    if key not in _fonts_px:
        font = QFont(own)
        font.setPixelSize(key[1])
        font.setBold(bold)
        _fonts_px[key] = font
    return _fonts_px[key]


def width_of(text: str, font: QFont) -> float:
    """Width of a text in a font of ``font_of`` or ``font_of_px``.

    It is kept, since measuring costs as much as drawing.
    """
    key = (id(font), text)
    if key not in _widths:
        if len(_widths) > MOST_KEPT:
            _widths.clear()
        _widths[key] = QFontMetricsF(font).horizontalAdvance(text)
    return _widths[key]


def draw_text(
    painter: QPainter,
    box: QRectF,
    text: str,
    font: QFont,
    colour: QColor,
    align: Qt.AlignmentFlag = LEFT,
    elide: Qt.TextElideMode = Qt.TextElideMode.ElideRight,
) -> float:
    """Text in a box, shortened with … where it does not fit; returns its width.

    Args:
        painter: paints it.
        box: where.
        text: what.
        font: of ``font_of`` or ``font_of_px``.
        colour: the colour of the text.
        align: in the box.
        elide: at which end it is shortened.
    """
    left, top, width, height = box.x(), box.y(), box.width(), box.height()
    kept = laid_out(text, font)
    if kept.width > width + 0.5:
        kept = laid_out(QFontMetricsF(font).elidedText(text, elide, width + 0.5), font)
    free = width - kept.width
    across = 0.0 if align == LEFT else free if align == RIGHT else free / 2
    painter.setFont(font)
    painter.setPen(colour)
    painter.drawStaticText(QPointF(left + across, top + (height - kept.height) / 2), kept.drawn)
    return kept.width


class LaidOut(NamedTuple):
    """A text that is laid out once: most are drawn again and again."""

    width: float
    height: float
    drawn: QStaticText


def laid_out(text: str, font: QFont) -> LaidOut:
    """A text in a font of ``font_of`` or ``font_of_px``; kept."""
    key = (id(font), text)
    kept = _texts.get(key)
    if kept is None:
        if len(_texts) > MOST_KEPT:
            _texts.clear()
        drawn = QStaticText(text)
        drawn.setTextFormat(Qt.TextFormat.PlainText)
        drawn.setPerformanceHint(QStaticText.PerformanceHint.AggressiveCaching)
        drawn.prepare(QTransform(), font)
        kept = _texts[key] = LaidOut(width_of(text, font), QFontMetricsF(font).height(), drawn)
    return kept


class Signs(NamedTuple):
    """A few signs of a font, each of which is drawn at many places.

    Attributes:
        width: of each, px: all are as wide as the first.
        height: of a line, px.
        down: from the top of a line to its base, px.
        raw: what draws them.
        numbers: of each sign in what draws them.
    """

    width: float
    height: float
    down: float
    raw: QRawFont
    numbers: list[int]

    def amid(self, box: QRectF) -> QPointF:
        """Where a sign in the middle of a box has the left end of its top."""
        left = box.x() + (box.width() - self.width) / 2
        return QPointF(left, box.y() + (box.height() - self.height) / 2)


def signs_of(text: str, font: QFont) -> Signs:
    """The signs of a text in a font of ``font_of``; kept."""
    key = (id(font), text)
    if key not in _signs:
        raw = QRawFont.fromFont(font)
        numbers = raw.glyphIndexesForString(text)
        metrics = QFontMetricsF(font)
        width, height = width_of(text[0], font), metrics.height()
        _signs[key] = Signs(width, height, metrics.ascent(), raw, numbers)
    return _signs[key]


def draw_signs(
    painter: QPainter, signs: Signs, which: Sequence[int], tops: Sequence[QPointF], colour: QColor
) -> None:
    """Single signs, hundreds at once.

    Args:
        painter: paints them.
        signs: among which they are.
        which: of each, its place among them, from 0.
        tops: of each, the left end of its top.
        colour: of all.
    """
    run = QGlyphRun()
    run.setRawFont(signs.raw)
    run.setGlyphIndexes([signs.numbers[number] for number in which])
    run.setPositions(tops)
    painter.setPen(colour)
    painter.drawGlyphRun(QPointF(0.0, signs.down), run)


def polygon_of(points: npt.NDArray[np.float64]) -> QPolygonF:
    """Points as Qt draws them, without an object for each.

    Args:
        points: x and y, float64 (n, 2), px.
    """
    polygon = QPolygonF()
    polygon.resize(len(points))
    if len(points):
        room: Any = VoidPtr(polygon.data(), points.nbytes, True)  # type: ignore[call-arg, arg-type]
        np.frombuffer(room, dtype=np.float64)[:] = points.ravel()
    return polygon


def pieces(points: Points) -> list[QLineF]:
    """A line from point to point; separate ones are painted faster than a joined one.

    Args:
        points: x and y of each, px.
    """
    return [QLineF(*begin, *end) for begin, end in pairwise(points)]


def draw_panel(painter: QPainter, box: QRectF, focused: bool) -> None:
    """The sheet of paper that a painted view stands on; an accent edge shows focus.

    It covers its corners too, so that nothing behind has to be painted with it.  On screen it comes
    from a kept picture.  The painter is as it was, on screen and elsewhere.
    """
    if not is_on_screen(painter):
        _paint_panel(painter, box, focused)
        return
    width, height, ratio = box.width(), box.height(), painter.device().devicePixelRatioF()
    key = (width, height, ratio, focused, id(theme()))
    if key not in _panels:
        if len(_panels) >= MOST_PANELS:
            _panels.clear()
        whole = QRectF(0.0, 0.0, width, height)
        # Its last pixels may be only partly within the box.
        _panels[key] = picture_of(
            width, height, ratio, lambda own: _paint_panel(own, whole, focused), theme().paper
        )
    painter.drawPixmap(box.topLeft(), _panels[key])


def _paint_panel(painter: QPainter, box: QRectF, focused: bool) -> None:
    colours = theme()
    painter.save()
    painter.fillRect(box, colours.paper)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(colours.accent if focused else colours.edge, 1.5 if focused else 1.0))
    painter.setBrush(colours.panel)
    painter.drawRoundedRect(box.adjusted(0.75, 0.75, -0.75, -0.75), 6, 6)
    painter.restore()


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
