"""One picture of insight as a part of the window."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from pivet.insight.drawn.picture import Picture
from pivet.ui.drawing.painting import draw_panel
from pivet.ui.many.shapes import paint

PAD = 10.0


class PictureView(QWidget):
    """Shows a picture, made smaller where there is too little room."""

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.picture: Picture | None = None
        self.setMinimumSize(320, 120)

    def put(self, picture: Picture | None) -> None:
        """Shows it; None for nothing."""
        self.picture = picture
        self.setAccessibleDescription("" if picture is None else picture.says)
        self.update()

    def sizeHint(self) -> QSize:
        """As large as it is."""
        if self.picture is None:
            return QSize(320, 120)
        return QSize(round(self.picture.width + 2 * PAD), round(self.picture.height + 2 * PAD))

    def paintEvent(self, _event: QPaintEvent) -> None:
        """The picture in its frame."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_panel(painter, QRectF(self.rect()), self.hasFocus())
        if self.picture is None:
            return
        room = (self.width() - 2 * PAD, self.height() - 2 * PAD)
        scale = min(room[0] / self.picture.width, room[1] / self.picture.height, 1.0)
        painter.translate(PAD, PAD)
        painter.scale(scale, scale)
        paint(painter, self.picture, self)
