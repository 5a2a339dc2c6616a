"""Direct labels: each line's name stands at its right end."""

from collections.abc import Sequence

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QFont, QFontMetricsF
from PySide6.QtWidgets import QGraphicsSimpleTextItem

GAP_PX = 6
FONT_SHARE = 0.88


class EndLabels:
    """The labels of one plot.

    Args:
        plot: on whose right axis they stand.
    """

    def __init__(self, plot: pg.PlotItem) -> None:
        self._plot = plot
        self._items: list[QGraphicsSimpleTextItem] = []

    def show(self, rows: Sequence[tuple[str, QColor, float]]) -> None:
        """Shows names at heights; those without a height have none.

        Args:
            rows: text, colour, and the last value in sight in the plot's unit.
        """
        _forget(self._items)
        box = self._plot.getViewBox()
        there = [row for row in rows if np.isfinite(row[2])]
        if not there:
            return
        font, metrics = _font(self._plot)
        right = box.mapRectToItem(self._plot, box.rect()).right()
        top, bottom = box.y(), box.y() + box.height()
        heights = [
            self._plot.mapFromScene(box.mapViewToScene(QPointF(0, row[2]))).y() for row in there
        ]
        order = np.argsort(heights)
        placed = spread([heights[at] for at in order], metrics.height() * 0.92, top, bottom)
        room = self._plot.getAxis("right").width() - 2 * GAP_PX
        for at, y in zip(order, placed, strict=True):
            text, colour, _ = there[at]
            item = QGraphicsSimpleTextItem(_elided(metrics, text, room), self._plot)
            item.setFont(font)
            item.setBrush(colour)
            item.setPos(right + GAP_PX, y - metrics.height() / 2)
            self._items.append(item)


class TopLabels:
    """Names of moments, at the top of a plot; what would cover another one is left out.

    Args:
        plot: over which they stand.
    """

    def __init__(self, plot: pg.PlotItem) -> None:
        self._plot = plot
        self._items: list[QGraphicsSimpleTextItem] = []

    def show(self, rows: Sequence[tuple[str, float]], colour: QColor) -> None:
        """Shows names at places of the time axis."""
        _forget(self._items)
        box = self._plot.getViewBox()
        inside = box.mapRectToItem(self._plot, box.rect())
        font, metrics = _font(self._plot)
        free = inside.left()
        for text, x in rows:
            place = self._plot.mapFromScene(box.mapViewToScene(QPointF(x, 0))).x()
            if not inside.left() <= place <= inside.right():
                continue
            width = metrics.horizontalAdvance(text)
            left = place + 4 if place + 4 + width < inside.right() else place - 4 - width
            if left < free:
                continue
            item = QGraphicsSimpleTextItem(text, self._plot)
            item.setFont(font)
            item.setBrush(colour)
            item.setPos(left, inside.top())
            self._items.append(item)
            free = left + width + GAP_PX


def _forget(items: list[QGraphicsSimpleTextItem]) -> None:
    for item in items:
        scene = item.scene()
        if scene is not None:
            scene.removeItem(item)
    items.clear()


def _font(plot: pg.PlotItem) -> tuple[QFont, QFontMetricsF]:
    font = QFont(plot.font())
    font.setPointSizeF(max(font.pointSizeF() * FONT_SHARE, 7.0))
    return font, QFontMetricsF(font)


def _elided(metrics: QFontMetricsF, text: str, room: float) -> str:
    if metrics.horizontalAdvance(text) <= room:
        return text
    while text and metrics.horizontalAdvance(text + "…") > room:
        text = text[:-1]
    return text + "…"


def spread(heights: Sequence[float], least: float, top: float, bottom: float) -> list[float]:
    """Heights, rising, moved apart so that neighbours are ``least`` from each other."""
    placed: list[float] = []
    for height in heights:
        placed.append(max(height, placed[-1] + least) if placed else max(height, top))
    limit = bottom
    for at in range(len(placed) - 1, -1, -1):
        placed[at] = min(placed[at], limit)
        limit = placed[at] - least
    return placed
