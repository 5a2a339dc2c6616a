"""Points and shapes on lines: one item a plot paints them all, in points of the screen."""

import numpy as np
import numpy.typing as npt
import pyqtgraph as pg
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF
from PySide6.QtWidgets import QGraphicsItem, QStyleOptionGraphicsItem, QWidget

from pivet.frozen import FrozenObject

SHAPES: tuple[tuple[tuple[float, float], ...], ...] = (
    (),
    ((-1, -1), (1, -1), (1, 1), (-1, 1)),
    ((0, -1.2), (1.1, 0.9), (-1.1, 0.9)),
    ((0, -1.4), (1.1, 0), (0, 1.4), (-1.1, 0)),
    ((-0.4, -1.2), (0.4, -1.2), (0.4, 1.2), (-0.4, 1.2)),
    ((-1.2, -0.4), (1.2, -0.4), (1.2, 0.4), (-1.2, 0.4)),
    ((0, 1.2), (1.1, -0.9), (-1.1, -0.9)),
)
"""Corners, in halves of the size; without any a disc."""


class Signs(FrozenObject):
    """Shapes of one line.

    Attributes:
        x, y: where, as on the axes, float64 (k,).
        colour: the colour of the line.
        shape: number in ``SHAPES``.
        size: px.
    """

    x: npt.NDArray[np.float64]
    y: npt.NDArray[np.float64]
    colour: QColor
    shape: int
    size: float


class SignsItem(QGraphicsItem):
    """Paints the shapes of a plot.

    Args:
        box: the box of the plot.
    """

    def __init__(self, box: pg.ViewBox) -> None:
        super().__init__(box)
        self._box = box
        self._signs: list[Signs] = []
        self.setZValue(10)

    def show_signs(self, signs: list[Signs]) -> None:
        """Shows these."""
        self._signs = signs
        self.prepareGeometryChange()
        self.update()

    def boundingRect(self) -> QRectF:
        """The inside of the plot."""
        found: QRectF = self._box.rect()
        return found

    def paint(
        self, painter: QPainter, _option: QStyleOptionGraphicsItem, _widget: QWidget | None = None
    ) -> None:
        """Paints them."""
        inside = self.boundingRect()
        (low_x, high_x), (low_y, high_y) = self._box.viewRange()
        if high_x <= low_x or high_y <= low_y:
            return
        painter.setClipRect(inside)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for signs in self._signs:
            x = inside.left() + (signs.x - low_x) / (high_x - low_x) * inside.width()
            y = inside.bottom() - (signs.y - low_y) / (high_y - low_y) * inside.height()
            for left, top in zip(x.tolist(), y.tolist(), strict=True):
                draw_shape(painter, signs.shape, QPointF(left, top), signs.size, signs.colour)


def draw_shape(
    painter: QPainter, number: int, centre: QPointF, size: float, colour: QColor
) -> None:
    """Paints one shape.

    Args:
        painter: paints it.
        number: in ``SHAPES``; beyond them they begin again.
        centre: where.
        size: px.
        colour: of it.
    """
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    half, corners = size / 2, SHAPES[number % len(SHAPES)]
    if corners:
        points = [QPointF(centre.x() + x * half, centre.y() + y * half) for x, y in corners]
        painter.drawPolygon(QPolygonF(points))
    else:
        painter.drawEllipse(centre, half, half)
