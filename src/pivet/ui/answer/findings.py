"""What was noticed: a card for each finding."""

from PySide6.QtCore import QEvent, QPointF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QEnterEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from pivet.judge.finding import Finding
from pivet.judge.verdict import Verdict
from pivet.ui.drawing.painting import draw_mark, font_of, with_alpha
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import ink, plain_label, rich_label
from pivet.ui.session.session import Session


class WeightSign(QWidget):
    """The shape of a verdict."""

    def __init__(self, verdict: Verdict, size: int = 14, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._verdict, self._size = verdict, size
        self.setFixedSize(QSize(size + 4, size + 6))

    def show_verdict(self, verdict: Verdict) -> None:
        """Shows another verdict."""
        self._verdict = verdict
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paints the shape."""
        painter = QPainter(self)
        centre = QPointF(self.width() / 2, self.height() / 2)
        draw_mark(painter, self._verdict, centre, self._size - 2)


class FindingCard(QFrame):
    """One finding; lights its pulses under the pointer, on click and on focus.

    Signals:
        asked: its help was asked for; carries the finding's code.
    """

    asked = Signal(str)

    def __init__(self, session: Session, finding: Finding, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._columns = session, frozenset(finding.columns)
        self.finding = finding
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        self.setAccessibleName(finding.says)
        says = self._label(finding.says, theme().ink, 0.95)
        words = QVBoxLayout()
        words.setSpacing(1)
        words.addWidget(says)
        if finding.advice:
            words.addWidget(self._label(finding.advice, theme().faint, 0.9))
        row = QHBoxLayout(self)
        row.setContentsMargins(2, 4, 2, 4)
        row.addWidget(WeightSign(finding.weight, 13), 0, Qt.AlignmentFlag.AlignTop)
        row.addLayout(words, 1)
        link = rich_label(
            f'<a href="#" style="color:{theme().accent.name()}; text-decoration:none">?</a>'
        )
        link.setToolTip("What does this mean?")
        link.setAccessibleName(f"Help for {finding.code}")
        link.linkActivated.connect(lambda _: self.asked.emit(finding.code))
        row.addWidget(link, 0, Qt.AlignmentFlag.AlignTop)
        session.lit_changed.connect(self.update)

    def _label(self, text: str, colour: QColor, scale: float) -> QLabel:
        label = plain_label(text)
        label.setWordWrap(True)
        label.setFont(font_of(self, scale))
        ink(label, colour)
        return label

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paints the light behind the words."""
        painter = QPainter(self)
        if self._columns & self._session.lit:
            painter.fillRect(self.rect(), with_alpha(theme().live, 120))
        if self.hasFocus():
            painter.setPen(QPen(theme().accent, 1, Qt.PenStyle.DotLine))
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        super().paintEvent(event)

    def enterEvent(self, event: QEnterEvent) -> None:
        """Lights the pulses."""
        self._session.hover(self._columns)
        super().enterEvent(event)

    def leaveEvent(self, event: QEvent) -> None:
        """The pointer has gone."""
        self._session.hover(frozenset())
        super().leaveEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Keeps the pulses lit."""
        self._session.choose_pulses(self._columns)
        super().mousePressEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Space or Return keeps the pulses lit, ? asks for help."""
        if event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return):
            self._session.choose_pulses(self._columns)
        elif event.text() == "?":
            self.asked.emit(self.finding.code)
        else:
            super().keyPressEvent(event)
