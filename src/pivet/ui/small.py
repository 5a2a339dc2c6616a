"""Small parts that several views are made of."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QPushButton, QScrollArea, QWidget

TIGHT = "padding: 3px 9px"


def tight_button(text: str, tip: str) -> QPushButton:
    """A button in a bar."""
    button = QPushButton(text)
    button.setToolTip(tip)
    button.setStyleSheet(TIGHT)
    return button


def told_label() -> QLabel:
    """A text of several lines that can be selected."""
    label = QLabel()
    label.setWordWrap(True)
    label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    return label


def scrolled(inner: QWidget) -> QScrollArea:
    """What may be higher than its place: it scrolls up and down."""
    inner.setObjectName("plain")
    scroll = QScrollArea()
    scroll.setWidgetResizable(True)
    scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    scroll.setWidget(inner)
    return scroll
