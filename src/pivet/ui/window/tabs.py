"""The names of the views in the menu bar; the one that is shown is underlined."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from pivet.ui.drawing.painting import font_of, width_of
from pivet.ui.drawing.theme import LIGHT, theme

PAD, HEIGHT, LINE = 11.0, 34, 3.0


class ViewTabs(QWidget):
    """Chooses a view.

    Args:
        names: the names of the views.

    Signals:
        chosen: a view was chosen; carries its number.
    """

    chosen = Signal(int)

    def __init__(self, names: tuple[str, ...], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._names, self.current = names, 0
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)
        self._hovered = -1
        self._name()

    def _name(self) -> None:
        self.setAccessibleName(f"View: {self._names[self.current]}")

    def choose(self, number: int) -> None:
        """Shows which view is chosen."""
        self.current = number
        self._name()
        self.update()

    def _boxes(self) -> list[QRectF]:
        font, left, boxes = font_of(self, 1.0, True), 0.0, []
        for name in self._names:
            width = width_of(name, font) + 2 * PAD
            boxes.append(QRectF(left, 0, width, HEIGHT))
            left += width
        return boxes

    def sizeHint(self) -> QSize:
        """As wide as the names."""
        return QSize(round(self._boxes()[-1].right()) + 2, HEIGHT)

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paints the names."""
        painter, colours = QPainter(self), theme()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for number, (name, box) in enumerate(zip(self._names, self._boxes(), strict=True)):
            on = number == self.current
            painter.setFont(font_of(self, 1.0, on))
            painter.setPen(LIGHT.live if on or number == self._hovered else colours.bar_ink)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)
            if on:
                foot = QRectF(box.left() + PAD, box.bottom() - LINE, box.width() - 2 * PAD, LINE)
                painter.fillRect(foot, LIGHT.live)
            if on and self.hasFocus():
                painter.drawRoundedRect(box.adjusted(2, 3, -2, -5), 4, 4)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Lights the name under the pointer."""
        point = event.position()
        self._hovered = next(
            (at for at, box in enumerate(self._boxes()) if box.contains(point)), -1
        )
        self.update()

    def leaveEvent(self, _event: object) -> None:
        """None is under the pointer."""
        self._hovered = -1
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Chooses the view under the pointer."""
        for number, box in enumerate(self._boxes()):
            if box.contains(event.position()):
                self.chosen.emit(number)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right choose the neighbours."""
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        step = steps.get(Qt.Key(event.key()), 0)
        if step:
            self.chosen.emit((self.current + step) % len(self._names))
        else:
            super().keyPressEvent(event)
