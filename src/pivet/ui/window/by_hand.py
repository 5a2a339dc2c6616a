"""The pane for bytes copied from elsewhere."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QGuiApplication
from PySide6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from pivet.bench.by_hand import explain_bytes, explained_lines
from pivet.errors import InputError
from pivet.judge.copied import Meaning
from pivet.ui.answer.findings import WeightSign
from pivet.ui.drawing.painting import clear, font_of
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import ink, plain_label, scrolled

HINT = (
    "Paste bytes in hex: 5 of a humidity frame, 8 of a ROM code, 9 of a scratchpad, a code like "
    "28-0000051b2c7d, or the two lines of the kernel's 1-Wire file."
)
EXAMPLE = "02 8c 01 5f ee"


class ByHandPane(QDialog):
    """Explains bytes while they are typed; stays beside the window."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Explain bytes")
        self.resize(560, 560)
        self.found: list[Meaning] = []
        self.text = QPlainTextEdit()
        self.text.setPlaceholderText(f"{EXAMPLE}\n{HINT}")
        self.text.setAccessibleName("Bytes in hex")
        self.text.setFixedHeight(92)
        self.text.setTabChangesFocus(True)
        self.text.textChanged.connect(self.renew)
        self._copy = QPushButton("Copy as text")
        self._copy.clicked.connect(self._on_copy)
        close = QPushButton("Close")
        close.clicked.connect(self.close)
        self._said = plain_label()
        self._said.setWordWrap(True)
        self._results = QVBoxLayout()
        self._results.setSpacing(14)
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.addWidget(self._said)
        column.addLayout(self._results)
        column.addStretch(1)
        scroll = scrolled(inner)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(self._copy)
        buttons.addWidget(close)
        outer = QVBoxLayout(self)
        outer.addWidget(self.text)
        outer.addWidget(scroll, 1)
        outer.addLayout(buttons)
        self.renew()

    @property
    def said(self) -> str:
        """What is said instead of results."""
        return self._said.text()

    def renew(self) -> None:
        """Explains what stands in the field."""
        clear(self._results)
        self.found = []
        text = self.text.toPlainText()
        said = HINT
        if text.strip():
            try:
                self.found = explain_bytes(text)
                said = ""
            except InputError as error:
                said = str(error)
        self._said.setText(said)
        self._said.setVisible(bool(said))
        self._copy.setEnabled(bool(self.found))
        for meaning in self.found:
            self._results.addWidget(_ReadingView(meaning))

    def _on_copy(self) -> None:
        QGuiApplication.clipboard().setText("\n".join(explained_lines(self.found)) + "\n")


class _ReadingView(QWidget):
    """What bytes mean for one type."""

    def __init__(self, row: Meaning) -> None:
        super().__init__()
        colours = theme()
        title = plain_label(row.title)
        title.setFont(font_of(self, 1.0, bold=True))
        says = _label(row.says, colours.verdict(row.verdict))
        says.setFont(font_of(self, 1.15, bold=True))
        grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(1)
        grid.setColumnStretch(1, 1)
        for at, (part, meaning) in enumerate(row.rows):
            value = _label(part, colours.ink)
            value.setFont(font_of(self, 0.95, bold=True))
            grid.addWidget(value, at, 0)
            grid.addWidget(_label(meaning, colours.faint), at, 1)
        words = QVBoxLayout()
        words.setSpacing(2)
        for label in (title, says, _label(row.check.says, colours.ink)):
            words.addWidget(label)
        words.addLayout(grid)
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(WeightSign(row.verdict, 16), 0, Qt.AlignmentFlag.AlignTop)
        line.addLayout(words, 1)


def _label(text: str, colour: QColor) -> QLabel:
    label = plain_label(text)
    label.setWordWrap(True)
    label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    ink(label, colour)
    return label
