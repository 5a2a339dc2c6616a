"""One bit, drawn, with the moment at which a firmware decides as a handle."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from pivet.ui.drawing.painting import draw_panel
from pivet.ui.drawing.theme import theme
from pivet.ui.many.shapes import font_px

LEFT, HIGH, LOW, HEIGHT = 14.0, 40.0, 92.0, 112
MOST_US = 100.0
BEFORE_US = 30.0
STEP_US, LONG_STEP_US = 0.5, 5.0


class PulseHandle(QWidget):
    """A 0 as a line, a 1 dashed, and the handle between.

    Signals:
        moved: while it is dragged; carries µs.
        released: it was let go; carries µs.
    """

    moved = Signal(float)
    released = Signal(float)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Handle of the threshold")
        self.at_us, self._zero_us, self._one_us = 50.0, 26.0, 70.0
        self._high = True
        self.setMinimumHeight(HEIGHT)

    def sizeHint(self) -> QSize:
        """Wide enough for a bit."""
        return QSize(260, HEIGHT)

    def put(self, at_us: float, zero_us: float, one_us: float, after_rise: bool) -> None:
        """Shows a threshold beside usual pulses.

        Args:
            at_us: the threshold.
            zero_us: a usual 0.
            one_us: a usual 1.
            after_rise: time counts from the rise; else from the fall.
        """
        self.at_us, self._zero_us, self._one_us, self._high = at_us, zero_us, one_us, after_rise
        self.update()

    @property
    def scale(self) -> float:
        """Pixels of a µs."""
        return (self.width() - 2 * LEFT) / (BEFORE_US + MOST_US)

    def x_of(self, at_us: float) -> float:
        """Where a time after the edge stands."""
        return LEFT + (BEFORE_US + at_us) * self.scale

    def paintEvent(self, _event: QPaintEvent) -> None:
        """The bit and its handle."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        now = theme()
        draw_panel(painter, QRectF(self.rect()), self.hasFocus())
        rest, pulse = (LOW, HIGH) if self._high else (HIGH, LOW)
        dashed = QPen(now.faint, 1.4, Qt.PenStyle.DashLine)
        painter.setPen(dashed)
        one = self.x_of(self._one_us)
        painter.drawPolyline(
            QPolygonF(
                [QPointF(self.x_of(self._zero_us), pulse), QPointF(one, pulse), QPointF(one, rest)]
            )
        )
        painter.setPen(QPen(now.trace, 1.8))
        edge, end = self.x_of(0), self.x_of(self._zero_us)
        points = [(LEFT, rest), (edge, rest), (edge, pulse), (end, pulse), (end, rest)]
        points.append((self.width() - LEFT, rest))
        painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in points]))
        at = self.x_of(min(self.at_us, MOST_US))
        painter.setPen(QPen(now.glow, 2.4))
        painter.drawLine(QPointF(at, 24), QPointF(at, LOW + 8))
        painter.setBrush(now.glow)
        painter.drawEllipse(QPointF(at, 24), 6, 6)
        font = font_px(self, 11, True)
        painter.setFont(font)
        text = f"{self.at_us:.1f} µs"
        room = painter.fontMetrics().horizontalAdvance(text) + 12
        left = at + 10 if at + room < self.width() else at - room
        painter.drawText(QPointF(left, 28), text)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The handle comes to the pointer."""
        self._drag(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """It goes with it."""
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._drag(event.position().x())

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        """It is let go."""
        self.released.emit(self.at_us)

    def _drag(self, x: float) -> None:
        at = (x - LEFT) / self.scale - BEFORE_US
        self._to(round(min(max(at, STEP_US), MOST_US) / STEP_US) * STEP_US)

    def _to(self, at_us: float) -> None:
        self.at_us = at_us
        self.update()
        self.moved.emit(at_us)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows move it, with Shift farther."""
        ways = {Qt.Key.Key_Left: -1, Qt.Key.Key_Down: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: 1}
        way = ways.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
            return
        far = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        step = LONG_STEP_US if far else STEP_US
        self._to(min(max(self.at_us + way * step, STEP_US), MOST_US))
        self.released.emit(self.at_us)
