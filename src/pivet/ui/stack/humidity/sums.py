"""Painting what stands beside the cells: a byte's name and value, and the running sum."""

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QWidget

from pivet.insight.drawn.humidity import BYTES, FrameLayout, labels_of, sums_of
from pivet.judge.report import Report
from pivet.ui.drawing.painting import LEFT, RIGHT, draw_text, font_of
from pivet.ui.drawing.theme import theme


def paint_labels(painter: QPainter, place: FrameLayout, report: Report, widget: QWidget) -> None:
    """What each byte holds, and its value."""
    colours = theme()
    for byte, (name, value, wrong) in enumerate(labels_of(report)):
        box = place.label(byte)
        top = QRectF(box.left, box.top + 4, box.width, 18)
        draw_text(painter, top, name, font_of(widget, 0.82), colours.faint)
        big = QRectF(box.left, box.top + 20, box.width, box.height - 26)
        colour = colours.unsound if wrong else colours.ink
        draw_text(painter, big, value, font_of(widget, 1.7, bold=True), colour, LEFT)


def paint_sums(painter: QPainter, place: FrameLayout, report: Report, widget: QWidget) -> None:
    """The sum as a person adds it up on paper."""
    colours = theme()
    for byte, (above, below) in enumerate(sums_of(report)):
        box = place.sum(byte)
        upper = QRectF(box.left, box.middle - 20, box.width, 20)
        lower = QRectF(box.left, box.middle, box.width, 20)
        font, colour = font_of(widget), colours.ink
        if byte == BYTES - 1:
            font = font_of(widget, 1.0, bold=True)
            colour = colours.sound if report.check.ok else colours.unsound
        draw_text(painter, upper, above, font, colour, RIGHT)
        draw_text(painter, lower, below, font_of(widget, 0.85), colours.faint, RIGHT)
