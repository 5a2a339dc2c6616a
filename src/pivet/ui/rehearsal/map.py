"""The map over two constants of a firmware."""

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from pivet.insight.grid import Grid
from pivet.ui.drawing.painting import draw_panel
from pivet.ui.drawing.theme import theme
from pivet.ui.many.shapes import font_px

LEFT, TOP, RIGHT, BOTTOM = 56.0, 34.0, 16.0, 44.0
TICKS = 5
EVERY_ONE = 0.9995
"""From this share on a place counts as reading every one."""


def _rgb(colour: QColor) -> npt.NDArray[np.float64]:
    return np.array([colour.red(), colour.green(), colour.blue()], dtype=np.float64)


class MapView(QWidget):
    """Which share would be read right, by colour.

    Signals:
        chosen: a place was asked for; carries both constants.
    """

    chosen = Signal(float, float)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Map over two constants")
        self.grid: Grid | None = None
        self.at: tuple[float, float] | None = None
        self._image: QImage | None = None
        self.says = ""
        self.setMinimumSize(320, 220)

    def sizeHint(self) -> QSize:
        """As large as there is room."""
        return QSize(560, 380)

    def put(self, grid: Grid | None, at: tuple[float, float] | None, says: str = "") -> None:
        """Shows a map.

        Args:
            grid: the shares; None for none.
            at: where the firmware stands; None where it stands nowhere.
            says: what is said when there is no map.
        """
        if grid is not self.grid:
            self._image = None
        self.grid, self.at, self.says = grid, at, says
        if grid is not None:
            self.setAccessibleDescription(
                f"{grid.across_label} against {grid.up_label}: {self._best()}"
            )
        self.update()

    def _best(self) -> str:
        assert self.grid is not None
        good = (self.grid.right >= EVERY_ONE).any(axis=0)
        if not good.any():
            return f"at best {self.grid.right.max():.1%} right"
        x = self.grid.x[good]
        return f"every one right from {x[0]:.1f} to {x[-1]:.1f}"

    @property
    def field(self) -> QRectF:
        """Where the map itself is."""
        return QRectF(LEFT, TOP, self.width() - LEFT - RIGHT, self.height() - TOP - BOTTOM)

    def _coloured(self, grid: Grid) -> QImage:
        """From wrong over the panel's colour to right, so that light and dark both read."""
        now = theme()
        wrong, half, good, every = (_rgb(one) for one in (now.unsound, now.one, now.low, now.sound))
        share = np.clip(grid.right, 0, 1)[::-1, :, None]
        upper = half + (good - half) * np.clip(share * 2 - 1, 0, 1)
        lower = wrong + (half - wrong) * np.clip(share * 2, 0, 1)
        mixed = np.where(share > 0.5, upper, lower)
        whole = (grid.right >= EVERY_ONE)[::-1, :, None]
        mixed = np.where(whole, 0.55 * good + 0.45 * every, mixed)
        pixels = np.ascontiguousarray(np.round(mixed).astype(np.uint8))
        height, width, _ = pixels.shape
        image = QImage(pixels.tobytes(), width, height, 3 * width, QImage.Format.Format_RGB888)
        return image.copy()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """The map, its axes, and where the firmware stands."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_panel(painter, QRectF(self.rect()), self.hasFocus())
        now, grid = theme(), self.grid
        if grid is None:
            painter.setPen(now.faint)
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, self.says)
            return
        if self._image is None:
            self._image = self._coloured(grid)
        painter.drawImage(self.field, self._image)
        self._axes(painter, grid)
        if self.at is not None:
            self._cross(painter, grid, self.at, now.glow)

    def _axes(self, painter: QPainter, grid: Grid) -> None:
        now, field = theme(), self.field
        painter.setPen(now.faint)
        painter.setFont(font_px(self, 11))
        middle = Qt.AlignmentFlag.AlignCenter
        for share in np.linspace(0, 1, TICKS):
            x = field.left() + share * field.width()
            value = grid.x[0] + share * (grid.x[-1] - grid.x[0])
            painter.drawText(QRectF(x - 40, field.bottom() + 2, 80, 16), middle, f"{value:.4g}")
            y = field.bottom() - share * field.height()
            value = grid.y[0] + share * (grid.y[-1] - grid.y[0])
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(0, y - 8, LEFT - 6, 16), right, f"{value:.4g}")
        across = QRectF(field.left(), field.bottom() + 20, field.width(), 16)
        painter.drawText(across, middle, grid.across_label)
        painter.drawText(QPointF(8, 16), f"{grid.up_label}; {grid.says}")
        painter.setPen(now.sound)
        painter.drawText(
            QRectF(field.left(), 18, field.width(), 16), Qt.AlignmentFlag.AlignRight, self._best()
        )

    def _cross(
        self, painter: QPainter, grid: Grid, at: tuple[float, float], colour: QColor
    ) -> None:
        x, y = self._place(grid, at)
        painter.setPen(QPen(colour, 3))
        painter.drawLine(QPointF(x - 9, y), QPointF(x + 9, y))
        painter.drawLine(QPointF(x, y - 9), QPointF(x, y + 9))
        painter.setFont(font_px(self, 11, True))
        left = x + 12 if x < self.field.center().x() else x - 100
        painter.drawText(QPointF(left, y - 6 if y > TOP + 24 else y + 18), "this firmware")

    def _place(self, grid: Grid, at: tuple[float, float]) -> tuple[float, float]:
        field = self.field
        across = (at[0] - grid.x[0]) / (grid.x[-1] - grid.x[0])
        up = (at[1] - grid.y[0]) / (grid.y[-1] - grid.y[0])
        across, up = (min(max(float(share), 0.0), 1.0) for share in (across, up))
        return field.left() + across * field.width(), field.bottom() - up * field.height()

    def _value(self, point: QPointF) -> tuple[float, float] | None:
        if self.grid is None or not self.field.contains(point):
            return None
        field, grid = self.field, self.grid
        across = (point.x() - field.left()) / field.width()
        up = (field.bottom() - point.y()) / field.height()
        return (
            float(grid.x[0] + across * (grid.x[-1] - grid.x[0])),
            float(grid.y[0] + up * (grid.y[-1] - grid.y[0])),
        )

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Says the share under the pointer."""
        value = self._value(event.position())
        if value is None or self.grid is None:
            return
        column = int(np.abs(self.grid.x - value[0]).argmin())
        row = int(np.abs(self.grid.y - value[1]).argmin())
        says = (
            f"{self.grid.right[row, column]:.1%} right at {self.grid.x[column]:.1f} and "
            f"{self.grid.y[row]:.1f} (± {self.grid.half_width:.1%})"
        )
        QToolTip.showText(event.globalPosition().toPoint(), says, self)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The firmware takes these constants."""
        value = self._value(event.position())
        if value is not None:
            self.chosen.emit(*value)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows go by one place of the map."""
        grid, at = self.grid, self.at
        ways = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Down: (0, -1),
            Qt.Key.Key_Up: (0, 1),
        }
        way = ways.get(Qt.Key(event.key()))
        if grid is None or at is None or way is None:
            super().keyPressEvent(event)
            return
        x, y = at[0] + way[0] * (grid.x[1] - grid.x[0]), at[1] + way[1] * (grid.y[1] - grid.y[0])
        self.chosen.emit(
            float(np.clip(x, grid.x[0], grid.x[-1])), float(np.clip(y, grid.y[0], grid.y[-1]))
        )
