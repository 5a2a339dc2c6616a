"""Painting reset and presence on a scale of their own."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QWidget

from pivet.decode.onewire import Speaker
from pivet.insight.drawn.place import Rect
from pivet.insight.drawn.reset import ResetLayout, meant_words
from pivet.judge.onewire.detail import Transaction
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.ui.drawing.painting import draw_mark, draw_text, font_of, with_alpha
from pivet.ui.drawing.theme import theme
from pivet.ui.many.shapes import colour_of
from pivet.ui.stack.onewire.cells import paint_speaker


class Head:
    """Reset and presence with their windows, and what the transaction is about."""

    def __init__(self) -> None:
        self._places: list[tuple[Rect, int]] = []

    def paint(
        self,
        painter: QPainter,
        box: Rect,
        report: Report,
        detail: Transaction,
        lit: frozenset[int],
        widget: QWidget,
    ) -> None:
        """Paints the wave at the left, the words at the right."""
        place = ResetLayout(box, report, detail.fast)
        self._places = [(part, pulse.column) for pulse, part in place.parts()]
        for band, kind in place.bands(report.sheet):
            painter.fillRect(QRectF(*band), with_alpha(colour_of(kind), 170))
        for part, column in self._places:
            if column in lit:
                painter.fillRect(QRectF(*part), with_alpha(theme().live, 190))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme().trace, 1.6))
        painter.drawPolyline([QPointF(x, y) for x, y in place.line()])
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        self._paint_names(painter, place, widget)
        _paint_words(painter, QRectF(*place.words), detail, widget)

    def column_at(self, point: QPointF) -> int | None:
        """The pulse under a point."""
        x, y = point.x(), point.y()
        return next((column for box, column in self._places if box.holds(x, y)), None)

    def _paint_names(self, painter: QPainter, place: ResetLayout, widget: QWidget) -> None:
        """Under the wave: each part with its verdict and length."""
        colours, wave = theme(), place.wave
        left = wave.left
        for pulse, text, verdict in place.names():
            draw_mark(painter, verdict, QPointF(left + 6, wave.bottom + 17), 9)
            colour = colours.ink if verdict is Verdict.SOUND else colours.verdict(verdict)
            box = QRectF(left + 16, wave.bottom + 8, 130, 18)
            used = draw_text(painter, box, text, font_of(widget, 0.92), colour)
            if pulse is not None:
                self._places.append((Rect(left, box.top(), used + 16, 18), pulse.column))
            left += used + 34


def _paint_words(painter: QPainter, line: QRectF, detail: Transaction, widget: QWidget) -> None:
    """Who is meant, and at which speed."""
    colours = theme()
    first, *rest = meant_words(detail)
    draw_text(painter, line, first, font_of(widget, 1.05, bold=True), colours.ink)
    for number, text in enumerate(rest, 1):
        at = line.translated(0, 18 * number)
        draw_text(painter, at, text, font_of(widget, 0.88), colours.faint)
    left = line.left()
    for speaker, text in ((Speaker.HOST, "host speaks"), (Speaker.DEVICE, "device speaks")):
        at = QRectF(left + 14, line.top() + 54, 120, 18)
        paint_speaker(painter, QPointF(left + 4, at.center().y()), speaker)
        left += 30 + draw_text(painter, at, text, font_of(widget, 0.88), colours.faint)
