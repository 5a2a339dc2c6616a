"""The Printed view: what a firmware printed, held against what was on its wire."""

from collections.abc import Sequence
from functools import partial
from html import escape
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QGuiApplication, QTextCursor
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QInputDialog,
    QPlainTextEdit,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from pivet.captures.wire import Wire
from pivet.errors import InputError
from pivet.files.incoming import read_bytes
from pivet.insight.printed.check import (
    CODES,
    INVENTED,
    MISSING,
    UNEXPLAINED,
    Crosscheck,
    crosscheck,
)
from pivet.insight.printed.classify import SAME, STALE
from pivet.insight.printed.lines import console_text
from pivet.insight.printed.tell import COUNTED, binding_words, example_words
from pivet.insight.registry import insight_of
from pivet.progress import Progress
from pivet.sources.source import SourceError
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import scrolled, tight_button, told_label
from pivet.ui.many.page import ManyPage, heading
from pivet.ui.many.whole import WholeWires
from pivet.ui.printed.console import MOST_CHARACTERS, Console
from pivet.ui.printed.table import PairTable
from pivet.ui.session.session import Session
from pivet.ui.window.choosing import ChoiceBox
from pivet.ui.work.turns import turns

NOTHING = "Open a capture or a bench first: what was printed is held against its readings."
NO_TEXT = (
    "Open or paste what the firmware printed, or listen at its console's port. The wording does "
    "not matter: the numbers in it are found."
)
SETTLED_MS = 400
CHECK = "check"
SIDE_PX, TOLD_PX, ROW_PX = 330, 320, 22
BAUDS = ("115200", "9600", "57600", "230400", "500000", "1000000")
MOST_TEXT = 8 << 20
PIECE = 100_000
"""So many letters of a text are put into its field at once."""


class PrintedPage(ManyPage):
    """Printed lines beside exchanges.

    Args:
        session: what is shown.
        whole: all exchanges of its wires.
    """

    def __init__(self, session: Session, whole: WholeWires, parent: QWidget | None = None) -> None:
        super().__init__(session, whole, NOTHING, parent)
        self.console, self.only = Console(self), ChoiceBox()
        self.text = QPlainTextEdit()
        self.open = tight_button("Open text…", "The text of a console, from a file")
        self.paste = tight_button("Paste", "The text in the clipboard")
        self.listen = tight_button("Listen…", "At the serial port at which the firmware prints")
        self.table, self.pairs = QTableView(), PairTable(self)
        self.headline, self.told = told_label(), told_label()
        self.found: Crosscheck | None = None
        self._own: Wire | None = None
        self._later = QTimer(self)
        self._pieces: list[str] = []
        self._build()

    def _build(self) -> None:
        self._later.setSingleShot(True)
        self._later.setInterval(SETTLED_MS)
        self._later.timeout.connect(self._ask)
        self.text.setPlaceholderText(NO_TEXT)
        self.text.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.text.setTabChangesFocus(True)
        self.text.textChanged.connect(self._later.start)
        for widget, name in (
            (self.only, "Shown pairs"),
            (self.text, "Printed text"),
            (self.open, "Open text"),
            (self.paste, "Paste"),
            (self.listen, "Listen at a port"),
            (self.table, "Printed lines beside exchanges"),
        ):
            widget.setAccessibleName(name)
        self.only.picked.connect(lambda _: self._fill_table())
        self.open.clicked.connect(self.choose_text)
        self.paste.clicked.connect(self._paste)
        self.listen.clicked.connect(self._listen_or_stop)
        self.console.heard.connect(self._hear)
        self.console.lost.connect(self._lose)
        self._build_table()
        inner = (self._left(), self._middle(), self._right())
        self._put_panels("printed", inner, (SIDE_PX, 600, TOLD_PX))

    def _build_table(self) -> None:
        table = self.table
        table.setModel(self.pairs)
        table.setShowGrid(False)
        table.setFrameShape(QFrame.Shape.NoFrame)
        table.verticalHeader().hide()
        table.verticalHeader().setDefaultSectionSize(ROW_PX)
        table.setWordWrap(False)
        table.setTabKeyNavigation(False)
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        header = table.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        header.setHighlightSections(False)
        header.setStretchLastSection(True)
        for column, width in enumerate((52, 110, 34, 130, 76)):
            header.resizeSection(column, width)
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Interactive)
        table.activated.connect(lambda index: self._show(index.row()))

    def _left(self) -> QWidget:
        left = QWidget()
        left.setMinimumWidth(220)
        column = QVBoxLayout(left)
        column.setContentsMargins(4, 0, 4, 0)
        for widget in (heading("The wire"), self.wire, heading("What was printed")):
            column.addWidget(widget)
        row = QHBoxLayout()
        for button in (self.open, self.paste, self.listen):
            row.addWidget(button)
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(self.text, 1)
        return left

    def _middle(self) -> QWidget:
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(4, 0, 4, 0)
        column.addWidget(self.only)
        column.addWidget(self.table, 1)
        column.addWidget(self.empty, 1)
        return middle

    def _right(self) -> QWidget:
        told = QWidget()
        column = QVBoxLayout(told)
        column.setContentsMargins(4, 0, 4, 0)
        column.addWidget(self.headline)
        column.addWidget(self.told)
        column.addStretch(1)
        return scrolled(told)

    @property
    def parts(self) -> Sequence[QWidget]:
        """The wire, the text, what is shown, the pairs."""
        return self.wire, self.open, self.paste, self.listen, self.text, self.only, self.table

    @property
    def busy(self) -> bool:
        """Text is still to come, or to be compared."""
        return bool(self._pieces) or self._later.isActive() or super().busy

    def end(self) -> None:
        """The port is let go, and nothing more is compared."""
        self.console.end()
        super().end()

    def _take_wire(self, wire: Wire | None) -> None:
        self._own = wire
        self.table.setVisible(wire is not None)
        self.only.setVisible(wire is not None)
        self._ask()

    def _ask(self) -> None:
        """Holds text and wire against each other, beside the window."""
        wire, text = self._own, self.text.toPlainText()
        if wire is None or not text.strip():
            self.beside.forget(CHECK)
            self._tell(None)
            return
        self.beside.ask(CHECK, partial(_checked, wire, text), self._tell)

    def _tell(self, found: Crosscheck | str | None) -> None:
        self.found = found if isinstance(found, Crosscheck) else None
        self._fill_only()
        self._fill_table()
        if self.found is None:
            says = found if isinstance(found, str) else NO_TEXT
            self.headline.setText(escape(says) if self._own is not None else "")
            self.told.setText("")
            return
        same, paired = self.found.count(SAME), self.found.paired
        self.headline.setText(
            f"<b style='font-size: 15pt'>{same:,} of {paired:,} the same</b><br>"
            f"<span style='color: {theme().faint.name()}'>"
            + "<br>".join(escape(says) for says in binding_words(self.found))
            + "</span>"
        )
        self.told.setText(self._chapters(self.found))

    def _chapters(self, found: Crosscheck) -> str:
        """A chapter a cause."""
        now = theme()
        parts = []
        for code, number, example in found.explained:
            parts.append(
                f"<b style='color: {now.unsound.name()}'>{number:,} × {escape(code)}</b><br>"
                f"{escape(CODES[code])}<br><span style='color: {now.faint.name()}'>"
                f"{escape(example_words(example))}</span>"
            )
        for code in (STALE, MISSING, INVENTED, UNEXPLAINED):
            number = found.count(code)
            if number:
                parts.append(f"<b>{number:,}</b> {escape(COUNTED[code])}")
        return "".join(f"<p style='margin: 8px 0'>{part}</p>" for part in parts)

    def _fill_only(self) -> None:
        chosen = self.only.currentData()
        self.only.blockSignals(True)
        self.only.clear()
        self.only.addItem("all pairs", "")
        if self.found is not None:
            self.only.addItem("all that are not the same", "!")
            codes = dict.fromkeys(pair.code for pair in self.found.pairs)
            for code in codes:
                self.only.addItem(f"{code} ({self.found.count(code):,})", code)
        self.only.setCurrentIndex(max(self.only.findData(chosen), 0))
        self.only.blockSignals(False)

    def _fill_table(self) -> None:
        chosen = self.only.currentData()
        pairs = [] if self.found is None else list(self.found.pairs)
        if chosen == "!":
            pairs = [pair for pair in pairs if pair.code != SAME]
        elif chosen:
            pairs = [pair for pair in pairs if pair.code == chosen]
        self.pairs.put(pairs)

    def _show(self, row: int) -> None:
        """Shows the exchange of a pair."""
        fact = self.pairs.pairs[row].fact
        if fact is not None and self._own is not None:
            self._show_exchange(self._own.first + fact.exchange)

    def choose_text(self) -> None:
        """Asks for a file with the text of a console."""
        name, _ = QFileDialog.getOpenFileName(self, "What was printed", "", "Text (*.txt *.log *)")
        if name:
            self.open_text(Path(name))

    def open_text(self, path: Path) -> None:
        """Shows the text of a file; what stands there stays if it cannot be read."""
        try:
            content = read_bytes(path, most=MOST_TEXT, again="print something first")
            text = console_text(content, path.name)
        except InputError as error:
            self._session.refuse(str(error))
            return
        self._put_text(text)

    def _paste(self) -> None:
        text = QGuiApplication.clipboard().text()
        if text.strip():
            self._put_text(text)

    def _put_text(self, text: str) -> None:
        """Shows a text; of a long one a piece at each of the window's next turns."""
        text = _in_lines(text)
        pieces = [text[at : at + PIECE] for at in range(0, len(text), PIECE)]
        self._pieces = pieces[:0:-1]
        self.text.setUndoRedoEnabled(not self._pieces)  # the pieces are no steps of the person's
        self.text.setPlainText(pieces[0] if pieces else "")
        if self._pieces:
            turns().add(self, self._put_more)

    def _put_more(self) -> None:
        if self._pieces:
            cursor = QTextCursor(self.text.document())
            cursor.movePosition(cursor.MoveOperation.End)
            cursor.insertText(self._pieces.pop())
        if self._pieces:
            turns().add(self, self._put_more)
        else:
            self.text.setUndoRedoEnabled(True)

    def _listen_or_stop(self) -> None:
        if self.console.listens:
            self.console.end()
            self.listen.setText("Listen…")
            return
        port, sure = QInputDialog.getText(
            self, "Listen", "Port at which the firmware prints, as /dev/ttyUSB0:"
        )
        if not sure or not port.strip():
            return
        baud, sure = QInputDialog.getItem(self, "Listen", "Bits a second:", BAUDS, 0, False)
        if sure:
            self.listen_at(port.strip(), int(baud))

    def listen_at(self, url: str, baud: int) -> None:
        """Takes down what comes at a port, below what stands there."""
        try:
            self.console.begin(url, baud)
        except SourceError as error:
            self._session.refuse(str(error))
            return
        self.listen.setText("Stop")

    def _hear(self, text: str) -> None:
        while self._pieces:
            self._put_more()
        cursor = self.text.textCursor()
        cursor.movePosition(cursor.MoveOperation.End)
        cursor.insertText(_in_lines(text))
        while self.text.document().characterCount() > MOST_CHARACTERS:
            cursor.movePosition(cursor.MoveOperation.Start)
            cursor.movePosition(cursor.MoveOperation.Down, cursor.MoveMode.KeepAnchor, 100)
            cursor.removeSelectedText()
        bar = self.text.verticalScrollBar()
        bar.setValue(bar.maximum())

    def _lose(self, why: str) -> None:
        self.console.end()
        self.listen.setText("Listen…")
        self._session.refuse(why)

    def point_out(self) -> None:
        """What a firmware prints that keeps whole numbers only."""
        if self._own is None:
            return
        rows = [
            " ".join(f"{name} {int(truth.value)}" for name, truth in fact.truths.items())
            for fact in insight_of(self._own).facts(self._own)
        ]
        self.text.setPlainText("\n".join(row or "read failed" for row in rows))


def _in_lines(text: str) -> str:
    """With one letter at the end of each line."""
    return text.replace("\r\n", "\n").replace("\r", "\n")


def _checked(wire: Wire, text: str, progress: Progress) -> Crosscheck | str:
    """What was found, or why nothing can be."""
    try:
        return crosscheck(insight_of(wire).facts(wire), text, progress=progress)
    except InputError as error:
        return str(error)
