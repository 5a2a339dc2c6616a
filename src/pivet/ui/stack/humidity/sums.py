"""Painting what stands beside the cells: a byte's name and value, and the running sum."""

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QWidget

from pivet.decode.humidity.layout import BYTES
from pivet.judge.report import Report
from pivet.readings.forms import byte_names
from pivet.ui.drawing.painting import LEFT, RIGHT, draw_text, font_of
from pivet.ui.drawing.theme import theme
from pivet.ui.stack.humidity.geometry import Geometry


def paint_label(
    painter: QPainter, place: Geometry, report: Report, byte: int, widget: QWidget
) -> None:
    """What a byte holds, and its value."""
    box, colours = place.label(byte), theme()
    name = byte_names(report.sheet)[byte]
    top = QRectF(box.left(), box.top() + 4, box.width(), 18)
    draw_text(painter, top, name, font_of(widget, 0.82), colours.faint)
    value = f"{report.data[byte]:02x}" if byte < len(report.data) else "–"
    wrong = byte == BYTES - 1 and report.check.ok is False
    big = QRectF(box.left(), box.top() + 20, box.width(), box.height() - 26)
    draw_text(
        painter,
        big,
        value,
        font_of(widget, 1.7, bold=True),
        colours.unsound if wrong else colours.ink,
        LEFT,
    )


def paint_sum(
    painter: QPainter, place: Geometry, report: Report, byte: int, widget: QWidget
) -> None:
    """The sum as a person adds it up on paper."""
    if byte >= len(report.data):
        return
    box, colours = place.sum(byte), theme()
    upper = QRectF(box.left(), box.center().y() - 20, box.width(), 20)
    lower = QRectF(box.left(), box.center().y(), box.width(), 20)
    plain, small = font_of(widget), font_of(widget, 0.85)
    total = sum(report.data[: byte + 1])
    if byte < BYTES - 1:
        text = f"{report.data[0]}" if byte == 0 else f"+ {report.data[byte]}"
        draw_text(painter, upper, text, plain, colours.ink, RIGHT)
        if byte:
            draw_text(painter, lower, f"= {total}", small, colours.faint, RIGHT)
        return
    payload = sum(report.data[: BYTES - 1])
    low = payload % 256
    sign = "=" if report.check.ok else "≠"
    colour = colours.sound if report.check.ok else colours.unsound
    draw_text(
        painter,
        upper,
        f"{low} {sign} {report.data[byte]}",
        font_of(widget, 1.0, bold=True),
        colour,
        RIGHT,
    )
    draw_text(painter, lower, f"{payload} mod 256", small, colours.faint, RIGHT)
