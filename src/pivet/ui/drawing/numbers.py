"""Fields for numbers: one rule for showing and typing them, in every language.

A number is shown with a point, as everywhere in Pivet.  Typed is a point or a comma, or the mark of
Arabic script, and digits of any script; a mark never parts thousands, so nothing becomes a
thousandfold.  What has two marks is no number.
"""

import unicodedata

from PySide6.QtCore import QLocale
from PySide6.QtGui import QValidator
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QDoubleSpinBox,
    QLabel,
    QVBoxLayout,
    QWidget,
)

from pivet.ui.drawing.asking import accepted
from pivet.ui.drawing.widgets import plain_label

MARKS = ".,\u066b"
MINUS = "-\u2212"
UNSEEN = "\u200e\u200f\u061c\u2066\u2067\u2069\xa0 "
"""Signs of the direction of writing, and blanks at the ends."""


def parsed(text: str, decimals: int = 1) -> float | None:
    """The number that a text means; None when it means none.

    Args:
        text: as it was typed.
        decimals: 0 for whole numbers, which have no mark.
    """
    text = "".join(char for char in text.strip(UNSEEN) if char not in UNSEEN[:-2])
    minus = text[:1] in MINUS and bool(text[:1])
    marks, digits = 0, ""
    for char in text[minus:]:
        value = unicodedata.decimal(char, None)
        if value is not None:
            digits += str(value)
        elif char in MARKS and decimals:
            marks, digits = marks + 1, digits + "."
        else:
            return None
    if marks > 1 or not digits.strip("."):
        return None
    return -float(digits) if minus else float(digits)


class NumberBox(QDoubleSpinBox):
    """A field for a number; see the module."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setLocale(QLocale.c())

    def _bare(self, text: str) -> str:
        return text.strip(UNSEEN).removeprefix(self.prefix()).removesuffix(self.suffix().strip())

    def textFromValue(self, value: float) -> str:
        """As it is shown."""
        return f"{value:.{self.decimals()}f}"

    def valueFromText(self, text: str) -> float:
        """What was typed."""
        found = parsed(self._bare(text), self.decimals())
        return self.value() if found is None else found

    def validate(self, text: str, pos: int) -> tuple[QValidator.State, str, int]:
        """Whether it is a number, or may become one."""
        bare = self._bare(text).strip(UNSEEN)
        found = parsed(bare, self.decimals())
        if found is not None:
            inside = self.minimum() <= found <= self.maximum()
            return (_STATE.Acceptable if inside else _STATE.Intermediate), text, pos
        begun = bare == "" or (len(bare) == 1 and bare in MINUS + MARKS * bool(self.decimals()))
        return (_STATE.Intermediate if begun else _STATE.Invalid), text, pos


_STATE = QValidator.State


class NumberDialog(QDialog):
    """Asks for one number.

    Args:
        title: the title of the dialog.
        ask: what is asked for.
        box: the field, with its range.
        parent: the window it stands over.
    """

    def __init__(self, title: str, ask: str, box: NumberBox, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.box = box
        label: QLabel = plain_label(ask)
        label.setBuddy(box)
        box.setAccessibleName(ask)
        kinds = QDialogButtonBox.StandardButton
        row = QDialogButtonBox(kinds.Ok | kinds.Cancel)
        row.accepted.connect(self.accept)
        row.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        for part in (label, box, row):
            column.addWidget(part)
        box.selectAll()


def ask_number(
    parent: QWidget,
    title: str,
    ask: str,
    value: float,
    least: float,
    most: float,
    decimals: int = 0,
) -> float | None:
    """Asks for a number between two others; None when the person does not want to say."""
    box = NumberBox()
    box.setDecimals(decimals)
    box.setRange(least, most)
    box.setValue(value)
    dialog = NumberDialog(title, ask, box, parent)
    return box.value() if accepted(dialog) else None
