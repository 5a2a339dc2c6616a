"""Verdicts by hour, painted: one column an hour, the worst at the foot."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from pivet.history.reliability import Hours
from pivet.history.sentences import moment, percent
from pivet.judge.verdict import Verdict
from pivet.ui.drawing.painting import draw_mark, draw_text, font_of
from pivet.ui.drawing.theme import theme

HEIGHT, FOOT, TOP = 170, 18, 16
MOST_WIDTH = 66.0
LABEL_PX = 46
ORDER = (Verdict.UNSOUND, Verdict.UNKNOWN, Verdict.NEAR, Verdict.SOUND)


class HourBars(QWidget):
    """Shows when a wire was how reliable.

    Signals:
        chosen: an hour was chosen; carries its beginning, ns.
    """

    chosen = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)
        self._hours: Hours | None = None
        self._clock = False

    def sizeHint(self) -> QSize:
        """As high as needed."""
        return QSize(240, HEIGHT)

    def show_hours(self, hours: Hours | None, clock: bool) -> None:
        """Shows these."""
        self._hours, self._clock = hours, clock
        self.update()

    def _boxes(self) -> list[QRectF]:
        if self._hours is None or not self._hours.begin_ns.size:
            return []
        count = self._hours.begin_ns.size
        width = min(self.width() / count, MOST_WIDTH)
        return [
            QRectF(at * width, TOP, max(width - 2, 1.0), HEIGHT - FOOT - TOP) for at in range(count)
        ]

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paints the columns: shares of each verdict, with its shape where there is room."""
        if self._hours is None:
            return
        painter, colours = QPainter(self), theme()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        labelled = -float(LABEL_PX)
        for at, box in enumerate(self._boxes()):
            counts = self._hours.counts[at]
            total, foot = max(int(counts.sum()), 1), box.bottom()
            for verdict in ORDER:
                height = box.height() * int(counts[verdict]) / total
                part = QRectF(box.left(), foot - height, box.width(), height)
                painter.fillRect(part, colours.verdict(verdict))
                foot -= height
            if counts[Verdict.UNSOUND]:
                draw_mark(painter, Verdict.UNSOUND, QPointF(box.center().x(), TOP / 2), 9)
            if box.left() - labelled >= LABEL_PX:
                labelled = box.left()
                text = moment(int(self._hours.begin_ns[at]), self._clock)
                text = text[-5:] if self._clock else text.rpartition(":")[0]
                where = QRectF(box.left(), box.bottom() + 2, LABEL_PX, FOOT - 2)
                draw_text(painter, where, text, font_of(self, 0.8), colours.faint)

    def _at(self, point: QPointF) -> int | None:
        return next((at for at, box in enumerate(self._boxes()) if box.contains(point)), None)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Tells the hour under the pointer."""
        at = self._at(event.position())
        if at is None or self._hours is None:
            return
        counts = self._hours.counts[at]
        total = max(int(counts.sum()), 1)
        rows = [
            f"{verdict.title}: {int(counts[verdict])} ({percent(int(counts[verdict]) / total)})"
            for verdict in Verdict
            if counts[verdict]
        ]
        head = f"From {moment(int(self._hours.begin_ns[at]), self._clock)}"
        reason = [f"mostly: {self._hours.reasons[at]}"] if self._hours.reasons[at] else []
        QToolTip.showText(event.globalPosition().toPoint(), "\n".join([head, *rows, *reason]), self)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Chooses an hour."""
        at = self._at(event.position())
        if (
            at is not None
            and self._hours is not None
            and event.button() is Qt.MouseButton.LeftButton
        ):
            self.chosen.emit(int(self._hours.begin_ns[at]))
