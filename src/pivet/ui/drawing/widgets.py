"""Small parts that several views are made of."""

from html import escape

from PySide6.QtCore import QEvent, QSize, Qt
from PySide6.QtGui import QColor, QPalette
from PySide6.QtWidgets import QFrame, QLabel, QPushButton, QScrollArea, QWidget

GAP = 8
"""Between the parts of the window, px."""

MOST_HEIGHTS = 64


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


class WrappedLabel(QLabel):
    """A text in a column, as wide as the column and as high as it has to be.

    While it wraps nobody needs to know how wide it would like to be, and how high it is at some
    width is asked for again and again: each takes Qt a layout of the text.
    """

    def __init__(self) -> None:
        super().__init__()
        self._heights: dict[tuple[str, Qt.TextFormat], dict[int, int]] = {}

    def sizeHint(self) -> QSize:
        """Nothing of its own while it wraps."""
        return QSize(0, 0) if self.wordWrap() else super().sizeHint()

    def minimumSizeHint(self) -> QSize:
        """Nothing of its own while it wraps."""
        return QSize(0, 0) if self.wordWrap() else super().minimumSizeHint()

    def heightForWidth(self, width: int) -> int:
        """Worked out once for each text and width."""
        text = self.text(), self.textFormat()
        if len(self._heights) > MOST_HEIGHTS:
            self._heights.clear()
        known = self._heights.setdefault(text, {})
        if width not in known:
            less = known.get(max((one for one in known if one < width), default=-1))
            more = known.get(min((one for one in known if one > width), default=-1))
            # As high with less and with more room: so it is between them.
            known[width] = super().heightForWidth(width) if less is None or less != more else less
        return known[width]

    def changeEvent(self, event: QEvent) -> None:
        """In another font or style the text is as high as that makes it."""
        self._heights.clear()
        super().changeEvent(event)


def wrapped_label() -> WrappedLabel:
    """A text that stays what it is, in a column."""
    label = WrappedLabel()
    label.setTextFormat(Qt.TextFormat.PlainText)
    label.setWordWrap(True)
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
