"""Lanes under each other, with marks that lead to their exchanges."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QToolTip, QWidget

from pivet.insight.drawn.lanes import LANE, Lane, lane_picture
from pivet.insight.drawn.picture import Cross, Picture
from pivet.ui.drawing.painting import draw_panel
from pivet.ui.drawing.widgets import plain_tip
from pivet.ui.many.shapes import colour_of, paint, paint_cross

REACH_PX = 9.0
LEAST_WIDTH = 480
PAD = 14.0

Limits = Sequence[tuple[str, float]]


class LaneView(QWidget):
    """Every kind of pulse in its window.

    Signals:
        chosen: an exchange was asked for; carries its number and the pulse's position.
    """

    chosen = Signal(int, int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Pulses in their windows")
        self._lanes: Sequence[Lane] = ()
        self._mine: Limits = ()
        self._pictures: list[Picture] = []
        self._lit = -1
        self.setMinimumSize(LEAST_WIDTH, 200)

    def put(self, lanes: Sequence[Lane], mine: Limits = ()) -> None:
        """Shows lanes.

        Args:
            lanes: under each other.
            mine: limits of the person, which stand where 0 is told from 1.
        """
        self._lanes, self._mine, self._lit = lanes, mine, -1
        self._draw()

    def _draw(self) -> None:
        width = max(self.width() - 2 * PAD, LEAST_WIDTH - 2 * PAD)
        self._pictures = [
            lane_picture(lane, width, self._mine if lane.between is not None else ())
            for lane in self._lanes
        ]
        self.setAccessibleDescription(". ".join(picture.says for picture in self._pictures))
        self.setMinimumHeight(round(LANE * len(self._pictures) + 2 * PAD))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        """As high as all lanes."""
        return QSize(LEAST_WIDTH, self.minimumHeight())

    @property
    def crosses(self) -> list[tuple[Cross, QPointF]]:
        """The marks and where they stand, lane by lane, from left to right."""
        return [
            (shape, QPointF(PAD + shape.x, PAD + row * LANE + shape.y))
            for row, picture in enumerate(self._pictures)
            for shape in sorted(
                (one for one in picture.shapes if isinstance(one, Cross)), key=lambda one: one.x
            )
        ]

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The lanes are as wide as there is room."""
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self._draw()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """The lanes, and a ring around the lit mark."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_panel(painter, QRectF(self.rect()), self.hasFocus())
        for row, picture in enumerate(self._pictures):
            painter.save()
            painter.translate(PAD, PAD + row * LANE)
            paint(painter, picture, self)
            painter.restore()
        if 0 <= self._lit < len(self.crosses):
            cross, at = self.crosses[self._lit]
            painter.translate(at.x() - cross.x, at.y() - cross.y)
            paint_cross(painter, cross, colour_of(cross.kind), lit=True)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """The mark under the pointer is lit, and says what it is."""
        self._light(self._under(event.position()))

    def _under(self, point: QPointF) -> int:
        best, nearest = -1, REACH_PX
        for number, (_, at) in enumerate(self.crosses):
            off = (at - point).manhattanLength()
            if off < nearest:
                best, nearest = number, off
        return best

    def _light(self, number: int) -> None:
        if number == self._lit:
            return
        self._lit = number
        self.setCursor(
            Qt.CursorShape.PointingHandCursor if number >= 0 else Qt.CursorShape.ArrowCursor
        )
        if number >= 0:
            cross, at = self.crosses[number]
            QToolTip.showText(self.mapToGlobal(at.toPoint()), plain_tip(cross.says), self)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A click on a mark shows its exchange."""
        self._light(self._under(event.position()))
        self._enter()

    def _enter(self) -> None:
        if 0 <= self._lit < len(self.crosses):
            cross, _ = self.crosses[self._lit]
            self.chosen.emit(cross.exchange, cross.position)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows go from mark to mark; Enter shows its exchange."""
        steps = {Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1}
        key = Qt.Key(event.key())
        count = len(self.crosses)
        if key in steps and count:
            self._light((self._lit + steps[key]) % count if self._lit >= 0 else 0)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._enter()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        """A frame shows it."""
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """No frame."""
        super().focusOutEvent(event)
        self._light(-1)
        self.update()
