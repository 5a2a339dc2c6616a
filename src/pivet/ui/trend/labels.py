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
        plot: beside which they stand.
        room: how wide they may be, px.
    """

    def __init__(self, plot: pg.PlotItem, room: float) -> None:
        self._plot, self._room = plot, room
        self._texts = _Texts(plot)

    def show(self, rows: Sequence[tuple[str, QColor, float]]) -> None:
        """Shows names at heights; those without a height have none.

        Args:
            rows: text, colour, and the last value in sight in the plot's unit.
        """
        box = self._plot.getViewBox()
        there = [label for label in rows if np.isfinite(label[2])]
        metrics, inside = self._texts.metrics, box.mapRectToItem(self._plot, box.rect())
        low, high = box.viewRange()[1]
        turned = -1 if box.state["yInverted"] else 1
        share = [(label[2] - low) / max(high - low, 1e-12) for label in there]
        heights = [
            inside.bottom() - part * inside.height()
            if turned > 0
            else inside.top() + part * inside.height()
            for part in share
        ]
        order = np.argsort(heights)
        line = metrics.height()
        placed = spread([heights[at] for at in order], line * 0.92, inside.top(), inside.bottom())
        room = self._room - 2 * GAP_PX
        shown = []
        for at, y in zip(order, placed, strict=True):
            text, colour, _ = there[at]
            place = QPointF(inside.right() + GAP_PX, y - line / 2)
            shown.append((_elided(metrics, text, room), colour, place))
        self._texts.show(shown)


class TopLabels:
    """Names of moments, at the top of a plot; what would cover another one is left out.

    Args:
        plot: over which they stand.
    """

    def __init__(self, plot: pg.PlotItem) -> None:
        self._plot, self._texts = plot, _Texts(plot)

    def show(self, rows: Sequence[tuple[str, float]], colour: QColor) -> None:
        """Shows names at places of the time axis."""
        box = self._plot.getViewBox()
        inside = box.mapRectToItem(self._plot, box.rect())
        low, high = box.viewRange()[0]
        free, shown = inside.left(), []
        for text, x in rows:
            place = inside.left() + (x - low) / max(high - low, 1e-12) * inside.width()
            if not inside.left() <= place <= inside.right():
                continue
            width = self._texts.metrics.horizontalAdvance(text)
            left = place + 4 if place + 4 + width < inside.right() else place - 4 - width
            if left >= free:
                shown.append((text, colour, QPointF(left, inside.top())))
                free = left + width + GAP_PX
        self._texts.show(shown)


class _Texts:
    """Small texts on a plot; those that are there are used again."""

    def __init__(self, plot: pg.PlotItem) -> None:
        self._plot = plot
        self._items: list[QGraphicsSimpleTextItem] = []
        self._font = QFont(plot.font())
        self._font.setPointSizeF(max(self._font.pointSizeF() * FONT_SHARE, 7.0))
        self.metrics = QFontMetricsF(self._font)

    def show(self, rows: Sequence[tuple[str, QColor, QPointF]]) -> None:
        """Shows texts in their colours at their places."""
        while len(self._items) < len(rows):
            item = QGraphicsSimpleTextItem(self._plot)
            item.setFont(self._font)
            self._items.append(item)
        for item, (text, colour, place) in zip(self._items, rows, strict=False):
            if item.text() != text:
                item.setText(text)
            item.setBrush(colour)
            item.setPos(place)
            item.show()
        for item in self._items[len(rows) :]:
            item.hide()


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
