"""Small parts that several views are made of."""

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPalette
from PySide6.QtWidgets import QFrame, QLabel, QPushButton, QScrollArea, QWidget

GAP = 8
"""Between the parts of the window, px."""


def tight_button(text: str, tip: str) -> QPushButton:
    """A button in a bar."""
    button = QPushButton(text)
    button.setToolTip(tip)
    tighten(button)
    return button


def tighten(button: QPushButton) -> None:
    """Little room about its text: the style of the window knows what that is."""
    button.setProperty("tight", True)


def plain_label(text: str = "") -> QLabel:
    """A text that stays what it is: names come from files, probes and people."""
    label = QLabel(text)
    label.setTextFormat(Qt.TextFormat.PlainText)
    return label


def rich_label(text: str = "") -> QLabel:
    """A text with marks of our own; whatever else is in it must be escaped."""
    label = QLabel(text)
    label.setTextFormat(Qt.TextFormat.RichText)
    return label


def ink(label: QWidget, colour: QColor) -> None:
    """The colour of a text; a style of its own would be worked out anew at each change."""
    role = QPalette.ColorRole.WindowText
    if label.palette().color(role) != colour:
        palette = QPalette()
        palette.setColor(role, colour)
        label.setPalette(palette)


def plain_tip(text: str) -> str:
    """A text as a tip: one that looks like marks is shown as it is."""
    return f"<span>{escape(text)}</span>" if set(text) & set("<&") else text


def told_label() -> QLabel:
    """A text of several lines with marks of our own, that can be selected."""
    label = rich_label()
    label.setWordWrap(True)
    label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    return label


def roomy(inner: QWidget) -> QScrollArea:
    """What may need more room than there is: it scrolls then, else nothing is seen of this."""
    scroll = _scroll_area(inner)
    scroll.setFrameShape(QFrame.Shape.NoFrame)
    scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return scroll


def _scroll_area(inner: QWidget) -> QScrollArea:
    inner.setObjectName("plain")
    scroll = QScrollArea()
    scroll.setWidgetResizable(True)
    scroll.setWidget(inner)
    return scroll


def scrolled(inner: QWidget) -> QScrollArea:
    """What may be higher than its place: it scrolls up and down."""
    scroll = _scroll_area(inner)
    scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return scroll
