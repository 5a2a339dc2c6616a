"""What the window shows when there is nothing to show."""

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QRectF, Qt, Signal, SignalInstance
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from pivet.captures.capture import Capture
from pivet.ui.drawing.painting import clear, font_of
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import plain_label
from pivet.ui.window.adding import offers_of, words_of

MOST_SHOWN = 6
MOST_LETTERS = 60


class DropPlace(QFrame):
    """Where captures can be dropped, as on all the window: an edge of dashes says so.

    Args:
        words: that stand in it.
    """

    def __init__(self, words: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        label = plain_label(words)
        label.setAlignment(Qt.AlignmentFlag.AlignCenter)
        label.setWordWrap(True)
        row = QVBoxLayout(self)
        row.setContentsMargins(24, 26, 24, 26)
        row.addWidget(label)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draws the edge."""
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme().faint, 1.4, Qt.PenStyle.DashLine))
        area = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        painter.drawRoundedRect(area, 6, 6)


class EmptyPage(QWidget):
    """How to begin, or why a capture shows no exchange.

    Signals:
        open_asked: a file is to be chosen.
        demo_asked: the demo is to be shown.
        cave_asked: the simulated cave is to be listened to.
        live_asked: a live wire is to be added.
        recent_asked: a recent file is to be opened; carries its path.
        wire_asked: a line is to be decoded all the same; carries its name.
        offer_asked: a line is to be decoded as what it may be; carries the offer.
    """

    open_asked = Signal()
    demo_asked = Signal()
    cave_asked = Signal()
    live_asked = Signal()
    recent_asked = Signal(object)
    wire_asked = Signal(str)
    offer_asked = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._title = plain_label()
        self._title.setFont(font_of(self, 1.7, bold=True))
        self._words = plain_label()
        self._words.setWordWrap(True)
        self._words.setMinimumWidth(520)
        self._above, self._below = QVBoxLayout(), QVBoxLayout()
        buttons = QHBoxLayout()
        for text, signal in (
            ("Open a capture…", self.open_asked),
            ("Listen to a wire…", self.live_asked),
            ("Show the demo night", self.demo_asked),
            ("Listen to the simulated cave", self.cave_asked),
        ):
            button = QPushButton(text)
            button.clicked.connect(signal)
            buttons.addWidget(button)
        buttons.addStretch(1)
        column = QVBoxLayout()
        column.setSpacing(12)
        for part in (self._title, self._words):
            column.addWidget(part)
        self._place = DropPlace("Drop captures or a bench file here, or anywhere on the window")
        column.addLayout(self._above)
        column.addWidget(self._place)
        for layout in (buttons, self._below):
            column.addLayout(layout)
        middle = QHBoxLayout(self)
        middle.addStretch(1)
        middle.addLayout(column)
        middle.addStretch(1)
        column.insertStretch(0, 1)
        column.addStretch(2)

    def show_start(self, recent: Sequence[Path]) -> None:
        """Nothing is open."""
        self._title.setText("Which pulse spoiled it?")
        self._words.setText(
            "Open a capture of a sensor's wire: humidity frames, 1-Wire transactions or echo "
            "pulses, as a VCD file (IEEE 1364) or a CSV with a time column and a column of 0 and 1 "
            "for each line, compressed or not. Or listen to a live wire: through a probe at a "
            "serial port, or the GPIO lines of this computer."
        )
        rows = [
            (f"{path.name}   {shown_folder(path)}", str(path), path) for path in recent[:MOST_SHOWN]
        ]
        self._place.show()
        self._fill(self._below, "Opened lately" if rows else "", rows, self.recent_asked)

    def show_nothing_found(self, capture: Capture) -> None:
        """A capture is open, but no sensor was found on it."""
        self._place.hide()
        self._title.setText("No exchange was found")
        self._words.setText(
            f"No line of {capture.name} carries what a sensor known here sends. "
            "If you know better, say what is on a line:"
            if capture.others
            else f"No line of {capture.name} carries what a sensor known here sends."
        )
        offers = offers_of(capture)
        names = {one.names for one in offers}
        rows = [(name, name, name) for name in capture.others[:MOST_SHOWN] if name not in names]
        self._fill(self._above, "", rows, self.wire_asked)
        for offer in offers[:MOST_SHOWN]:
            label = plain_label(f"{offer.names}: {offer.says}.")
            label.setWordWrap(True)
            label.setMinimumWidth(520)
            self._above.addWidget(label)
            button = QPushButton(words_of(offer))
            button.clicked.connect(lambda _=False, chosen=offer: self.offer_asked.emit(chosen))
            self._above.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)

    def _fill(
        self,
        layout: QVBoxLayout,
        title: str,
        rows: Sequence[tuple[str, str, object]],
        signal: SignalInstance,
    ) -> None:
        for other in (self._above, self._below):
            clear(other)
        if title:
            label = plain_label(title)
            label.setFont(font_of(self, 0.9, bold=True))
            layout.addWidget(label)
        for text, tip, value in rows:
            link = QPushButton(text)
            link.setFlat(True)
            link.setCursor(Qt.CursorShape.PointingHandCursor)
            link.setToolTip(tip)
            link.setProperty("link", True)
            link.clicked.connect(lambda _=False, chosen=value: signal.emit(chosen))
            layout.addWidget(link, 0, Qt.AlignmentFlag.AlignLeft)


def shown_folder(path: Path) -> str:
    """The folder of a file, short: ``~`` for one's own; of a long one the middle is left out."""
    folder, home = str(path.parent), str(Path.home())
    if folder == home or folder.startswith(f"{home}/"):
        folder = "~" + folder[len(home) :]
    if len(folder) <= MOST_LETTERS:
        return folder
    return f"{folder[: MOST_LETTERS // 3]}…{folder[-MOST_LETTERS // 2 :]}"
