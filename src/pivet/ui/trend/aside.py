"""The right side of the Trend view: values at a moment, marks, and the response to one."""

from collections.abc import Sequence
from html import escape

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from pivet.person.annotations import Mark
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import plain_tip, rich_label, tight_button, told_label

MARK = Qt.ItemDataRole.UserRole
LEAST_PX = 252
MOST_LINES = 8


class Aside(QFrame):
    """Tells what is under the pointer, and what a mark did.

    Signals:
        mark_chosen: another mark is looked at; carries it, or None.
        mark_renamed: a mark is to be called otherwise; carries it and the text.
        mark_removed: a mark is to go; carries it.
        mark_asked: a moment is to be marked.
    """

    mark_chosen = Signal(object)
    mark_renamed = Signal(object, str)
    mark_removed = Signal(object)
    mark_asked = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.setMinimumWidth(LEAST_PX)
        self.moment = told_label()
        self.values = told_label()
        self.response = told_label()
        self.marks = QListWidget()
        self.marks.setAccessibleName("Marks")
        self.marks.setFrameShape(QFrame.Shape.NoFrame)
        self.marks.currentItemChanged.connect(self._on_current)
        self.marks.itemChanged.connect(self._on_changed)
        self.add = tight_button("Mark (B)", "Marks the moment under the pointer, or this one (B)")
        self.remove = tight_button("Remove", "Takes the chosen mark away (Del)")
        self.add.clicked.connect(self.mark_asked)
        self.remove.clicked.connect(self.remove_current)
        head = QHBoxLayout()
        head.addWidget(rich_label("<b>Marks</b>"), 1)
        head.addWidget(self.add)
        head.addWidget(self.remove)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 12, 12)
        column.setSpacing(6)
        for part in (self.moment, self.values):
            column.addWidget(part)
        column.addSpacing(8)
        column.addLayout(head)
        column.addWidget(self.marks)
        column.addWidget(self.response)
        column.addStretch(1)

    def show_moment(self, moment: str, rows: Sequence[tuple[str, str, str]]) -> None:
        """Shows values at a moment.

        Args:
            moment: in words.
            rows: name, its colour, and the value or why there is none.
        """
        self.moment.setText(f"<b>{escape(moment)}</b>")
        cells = "".join(
            f"<tr><td style='color:{colour}; padding-right:10px'>{escape(name)}</td>"
            f"<td align='right'>{escape(value)}</td></tr>"
            for name, colour, value in rows
        )
        self.values.setText(f"<table width='100%'>{cells}</table>" if cells else "")

    def show_marks(self, rows: Sequence[tuple[Mark, str]], current: Mark | None) -> None:
        """Lists marks, each with its time in words."""
        self.marks.blockSignals(True)
        self.marks.clear()
        for mark, when in rows:
            where = f" · {mark.wire}" if mark.wire else ""
            item = QListWidgetItem(mark.text)
            item.setToolTip(plain_tip(f"{when}{where}: F2 renames it, Del takes it away"))
            item.setData(MARK, mark)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
            self.marks.addItem(item)
            if mark == current:
                self.marks.setCurrentItem(item)
        self.marks.blockSignals(False)
        self.marks.setVisible(bool(rows))
        line = self.marks.sizeHintForRow(0) if rows else 0
        self.marks.setFixedHeight(min(len(rows), MOST_LINES) * line + 6)
        self.remove.setEnabled(bool(rows))
        if not rows:
            self.response.setText(
                f"<span style='color:{theme().faint.name()}'>Mark a moment, a breath for instance: "
                "Pivet then tells how each sensor follows it.</span>"
            )

    @property
    def current(self) -> Mark | None:
        """The chosen mark."""
        item = self.marks.currentItem()
        found: Mark | None = item.data(MARK) if item is not None else None
        return found

    def _on_current(self) -> None:
        self.mark_chosen.emit(self.current)

    def _on_changed(self, item: QListWidgetItem) -> None:
        mark: Mark = item.data(MARK)
        text = " ".join(item.text().split())
        if text and text != mark.text:
            self.mark_renamed.emit(mark, text)

    def remove_current(self) -> None:
        """Takes the chosen mark away."""
        if self.current is not None:
            self.mark_removed.emit(self.current)
