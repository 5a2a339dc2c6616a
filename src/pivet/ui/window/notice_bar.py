"""The bar in which the window says what went wrong, without stopping anybody."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from pivet.judge.verdict import Verdict
from pivet.ui.answer.findings import WeightSign
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import ink, plain_label

Action = tuple[str, Callable[[], None]]
"""What a button says, and what it does."""


class NoticeBar(QFrame):
    """One sentence, until it is closed or the next one comes."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self._mark = WeightSign(Verdict.UNSOUND, 14)
        self._text = plain_label()
        self._text.setWordWrap(True)
        self._text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._act = QPushButton()
        self._act.clicked.connect(self._on_act)
        self._action: Action | None = None
        close = QPushButton("Close")
        close.clicked.connect(self.hide)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 8, 6)
        row.addWidget(self._mark)
        row.addWidget(self._text, 1)
        row.addWidget(self._act)
        row.addWidget(close)
        self.hide()

    @property
    def text(self) -> str:
        """What is said; empty when the bar is hidden."""
        return "" if self.isHidden() else self._text.text()

    @property
    def act(self) -> QPushButton:
        """The button for what can be done about it."""
        return self._act

    def _on_act(self) -> None:
        self.hide()
        if self._action is not None:
            self._action[1]()

    def say(self, sentence: str, trouble: bool = True, action: Action | None = None) -> None:
        """Shows a sentence, and a button for what can be done about it."""
        self._action = action
        self._act.setVisible(action is not None)
        if action is not None:
            self._act.setText(action[0])
        self._mark.show_verdict(Verdict.UNSOUND if trouble else Verdict.SOUND)
        self._text.setText(sentence)
        ink(self._text, theme().ink)
        self.setAccessibleName(sentence)
        self.show()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape closes."""
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            super().keyPressEvent(event)
