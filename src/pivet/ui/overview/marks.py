"""The first column of the Overview: how much a sensor needs a look, as a shape."""

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QStyledItemDelegate, QStyleOptionViewItem

from pivet.history.attention import Urgency
from pivet.judge.verdict import Verdict
from pivet.ui.drawing.painting import draw_mark
from pivet.ui.drawing.theme import theme

URGENCY = Qt.ItemDataRole.UserRole
SIZE = 11
MARKS = {
    Urgency.WELL: Verdict.SOUND,
    Urgency.REMARK: Verdict.SOUND,
    Urgency.LOOK: Verdict.NEAR,
    Urgency.NOW: Verdict.UNSOUND,
}
SPOKEN = {
    Urgency.WELL: "well",
    Urgency.REMARK: "a remark",
    Urgency.LOOK: "wants a look",
    Urgency.NOW: "needs attention now",
}


class MarkDelegate(QStyledItemDelegate):
    """Paints the shape on the panel's own colour, so that it stands out in a chosen row too."""

    def paint(
        self,
        painter: QPainter,
        option: QStyleOptionViewItem,
        index: QModelIndex | QPersistentModelIndex,
    ) -> None:
        """Paints it in the middle."""
        box = QRectF(option.rect)
        painter.fillRect(box, theme().panel)
        urgency = index.data(URGENCY)
        if urgency is not None:
            draw_mark(painter, MARKS[Urgency(urgency)], QPointF(box.center()), SIZE)

    def sizeHint(
        self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> QSize:
        """Room for the shape."""
        return QSize(SIZE + 8, SIZE + 6)
