"""The feeds of a bench, a card each: what it does, what waits, what went wrong."""

from datetime import datetime
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import (
    QDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from pivet.errors import InputError, PivetError
from pivet.feeds.feeds import Feeds
from pivet.feeds.state import FeedState, State
from pivet.feeds.tell import waiting_words
from pivet.judge.verdict import Verdict
from pivet.judge.wording import count
from pivet.ui.answer.findings import WeightSign
from pivet.ui.drawing.painting import clear, font_of
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import GAP, ink, plain_label, scrolled, tight_button
from pivet.ui.feeds.sending import Sending
from pivet.ui.work.background import Background

if TYPE_CHECKING:
    from pivet.ui.feeds.add import AddFeed

RENEWED_MS = 500
SIZE = (640, 460)
NO_BENCH = "Feeds belong to a bench: listen to something, or open a bench (Ctrl+O)."
NO_FEED = (
    "Readings can leave this bench as they come: to a broker (MQTT), to a service (HTTP), or for "
    "whoever fetches them (OpenMetrics). While the network is away they wait here, and none is "
    "lost."
)
SIGNS = {
    State.IDLE: Verdict.SOUND,
    State.SENDING: Verdict.SOUND,
    State.RESTING: Verdict.SOUND,
    State.WAITING: Verdict.UNKNOWN,
    State.PAUSED: Verdict.UNKNOWN,
    State.STRANGE: Verdict.NEAR,
    State.FAILING: Verdict.UNSOUND,
}
STRANGE = "It came with the bench, and not from you: it sends nothing before you let it."


class FeedCard(QFrame):
    """One feed.

    Signals:
        asked: something is to be done; carries what and the feed's name.
    """

    asked = Signal(str, str)

    def __init__(self, state: FeedState, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.name = state.name
        title = plain_label(state.name)
        title.setFont(font_of(self, 1.1, bold=True))
        self._url = plain_label(state.url)
        self._url.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._place = QHBoxLayout()
        self._says, self._more, self._trouble = plain_label(), plain_label(), plain_label()
        for label in (self._says, self._more, self._trouble):
            label.setWordWrap(True)
        head = QHBoxLayout()
        head.addLayout(self._place)
        head.addWidget(title)
        head.addWidget(self._url, 1)
        self.rests = tight_button("Pause", "Send nothing for a while; what is heard waits")
        self.rests.clicked.connect(self._rest)
        foot = QHBoxLayout()
        for text, tip, what in (
            ("Test", "Send a message, to see whether it arrives", "test"),
            ("Send all again", "Send everything that the bench holds once more", "again"),
            ("Remove", "Take this feed out of the bench", "remove"),
        ):
            button = tight_button(text, tip)
            button.clicked.connect(lambda _=False, what=what: self.asked.emit(what, self.name))
            foot.addWidget(button)
        foot.insertWidget(1, self.rests)
        foot.addStretch(1)
        column = QVBoxLayout(self)
        column.addLayout(head)
        column.addWidget(self._says)
        column.addWidget(self._more)
        column.addWidget(self._trouble)
        column.addLayout(foot)
        self._state: FeedState | None = None
        self._colour = ""
        self.show_state(state)

    def show_state(self, state: FeedState) -> None:
        """Shows how it is doing."""
        before, self._state = self._state, state
        if before is None or before.state is not state.state or self._colour != theme().ink.name():
            self._colour = theme().ink.name()
            clear(self._place)
            self._place.addWidget(WeightSign(SIGNS[state.state], 13))
            ink(self._trouble, theme().unsound)
            ink(self._url, theme().faint)
        again = f", again in {state.again_s:.0f} s" if state.again_s >= 1 else ""
        words = [f"{state.state}{again}", waiting_words(state)]
        self._put(self._says, "; ".join(word for word in words if word))
        acked = f", the last acknowledged {_when(state.acked_ns)}" if state.acked_ns else ""
        self._put(self._more, f"{count(state.sent, 'row')} sent{acked}")
        trouble = STRANGE if state.state is State.STRANGE else state.trouble
        self._put(self._trouble, trouble)
        self._trouble.setVisible(bool(trouble))
        sleeps = state.state in (State.PAUSED, State.STRANGE)
        self.rests.setText("Let it send" if sleeps else "Pause")
        self.setAccessibleName(f"Feed {state.name}: {self._says.text()}. {trouble}")

    @staticmethod
    def _put(label: QLabel, text: str) -> None:
        if label.text() != text:
            label.setText(text)

    def _rest(self) -> None:
        sleeps = self._state is not None and self._state.state in (State.PAUSED, State.STRANGE)
        self.asked.emit("resume" if sleeps else "pause", self.name)


class FeedsDialog(QDialog):
    """All feeds of the open bench.

    Args:
        sending: the feeds.
        parent: the window.

    Signals:
        help_asked: the help page is wanted.
    """

    help_asked = Signal()

    def __init__(self, sending: Sending, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Feeds")
        self.resize(*SIZE)
        self._sending = sending
        self.cards: dict[str, FeedCard] = {}
        self.empty = plain_label(NO_FEED)
        self.empty.setWordWrap(True)
        self.form: AddFeed | None = None
        inner = QWidget()
        self._column = QVBoxLayout(inner)
        self._column.setSpacing(GAP)
        self._column.addWidget(self.empty)
        self._column.addStretch(1)
        self.adds = QPushButton("&Add a feed…")
        self.adds.clicked.connect(self.add)
        helps = QPushButton("&Help")
        helps.setAutoDefault(False)
        helps.clicked.connect(self.help_asked)
        closes = QPushButton("&Close")
        closes.setAutoDefault(False)
        closes.clicked.connect(self.close)
        foot = QHBoxLayout()
        foot.addWidget(self.adds)
        foot.addStretch(1)
        foot.addWidget(helps)
        foot.addWidget(closes)
        column = QVBoxLayout(self)
        column.addWidget(scrolled(inner), 1)
        column.addLayout(foot)
        self._beside = Background(self)
        self._beside.failed.connect(self._on_failed)
        self._timer = QTimer(self)
        self._timer.setInterval(RENEWED_MS)
        self._timer.timeout.connect(self.renew)
        sending.changed.connect(self.renew)
        sending.ended.connect(self._leave_form)

    def showEvent(self, event: QShowEvent) -> None:
        """Looks at the feeds while it is shown."""
        self.renew()
        self._timer.start()
        super().showEvent(event)

    def hideEvent(self, event: QHideEvent) -> None:
        """Looks no more."""
        self._timer.stop()
        super().hideEvent(event)

    def renew(self) -> None:
        """Shows how the feeds are doing, beside the window's thread."""
        feeds = self._sending.of_bench()
        if feeds is None:
            self._show([], NO_BENCH)
            return
        self._beside.ask(
            "states", lambda _: feeds.states(), lambda states: self._show(states, NO_FEED)
        )

    def _on_failed(self, error: object) -> None:
        self._show([], str(error))

    def _show(self, states: list[FeedState], otherwise: str) -> None:
        there = {state.name for state in states}
        for name in [name for name in self.cards if name not in there]:
            card = self.cards.pop(name)
            self._column.removeWidget(card)
            card.deleteLater()
        for place, state in enumerate(states):
            if state.name not in self.cards:
                card = self.cards[state.name] = FeedCard(state)
                card.asked.connect(self._do)
                self._column.insertWidget(place + 1, card)
            self.cards[state.name].show_state(state)
        self.empty.setText(otherwise)
        self.empty.setVisible(not states)
        self.adds.setEnabled(otherwise != NO_BENCH)

    def add(self) -> None:
        """Asks for a new feed, step by step."""
        from pivet.ui.feeds.add import AddFeed

        feeds = self._sending.of_bench()
        if feeds is None:
            return
        try:
            self.form = form = AddFeed(feeds, self._sending, self)
        except InputError as error:
            self._on_failed(error)
            return
        form.finished.connect(self._forget_form)
        form.open()

    def _leave_form(self) -> None:
        """It is about a bench that goes."""
        if self.form is not None:
            self.form.reject()

    def _forget_form(self) -> None:
        if self.form is not None:
            self.form.deleteLater()
            self.form = None

    def _do(self, what: str, name: str) -> None:
        feeds = self._sending.of_bench()
        if feeds is None:
            return
        if what == "remove" and not self._sure(feeds, name):
            return
        if what == "test":
            self._sending.try_out(name, lambda: _done(feeds, what, name))
            return
        self._sending.do(f"Feed {name}", lambda: _done(feeds, what, name))

    def _sure(self, feeds: Feeds, name: str) -> bool:
        """A feed with something to send is not removed by a slip of the hand."""
        card = self.cards.get(name)
        if card is None or card._state is None or not card._state.waiting:
            return True
        from PySide6.QtWidgets import QMessageBox

        waits = waiting_words(card._state)
        answer = QMessageBox.question(
            self, "Remove the feed?", f"{name}: {waits}. They will not be sent. Remove it?"
        )
        return answer == QMessageBox.StandardButton.Yes


def _done(feeds: Feeds, what: str, name: str) -> str:
    """Does what was asked for; what is to be said of it, a trouble too."""
    try:
        if what == "test":
            return f"Feed {name}: {feeds.test(name)}."
        if what == "again":
            feeds.send_again(name)
            return f"Feed {name} sends everything that the bench holds."
        if what == "resume":
            feeds.resume(name)
            feeds.start()
        elif what == "pause":
            feeds.pause(name)
        else:
            feeds.remove(name)
    except PivetError as error:
        return str(error)
    return ""


def _when(at_ns: int) -> str:
    at = datetime.fromtimestamp(at_ns / 1e9).astimezone()
    today = at.date() == datetime.now().astimezone().date()
    return f"{at:%H:%M:%S}" if today else f"{at:%Y-%m-%d %H:%M}"
