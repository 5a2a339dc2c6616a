"""The bar over a live wire: how it is asked, what it does, and to ask it or follow it."""

import time
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QSizePolicy, QWidget

from pivet.judge.wording import count
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import ink, plain_label, plain_tip, tight_button
from pivet.ui.session.session import Session

if TYPE_CHECKING:
    from pivet.bench.live_bench import WireNow

READ_S = 0.3


class LiveBar(QFrame):
    """Tells of the chosen live wire; hidden for others.

    Signals:
        ask_asked: the wire is to be asked now.
        pace_asked: how it is asked is to be changed.
    """

    ask_asked = Signal()
    pace_asked = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self._session = session
        self._said = plain_label()
        self._said.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.ask = tight_button("Ask now", "Asks this wire as soon as its sheet allows (N)")
        self.pace = tight_button("How it is asked…", "Interval, retries, wiring (Ctrl+J)")
        self.follow = tight_button("Follow newest", "Shows each exchange as it comes (End)")
        self.follow.setCheckable(True)
        self.ask.clicked.connect(self.ask_asked)
        self.pace.clicked.connect(self.pace_asked)
        self.follow.clicked.connect(session.follow_newest)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 5, 8, 5)
        row.addWidget(self._said, 1)
        for button in (self.ask, self.follow, self.pace):
            row.addWidget(button)
        self._renewed_s = 0.0
        self._here = True
        session.live_changed.connect(self._go_on)
        for signal in (
            session.wire_changed,
            session.follow_changed,
            session.captures_changed,
        ):
            signal.connect(self.renew)
        self.renew()

    def _go_on(self) -> None:
        """Numbers that run are told as often as one can read them: texts are laid out anew."""
        live = self._session.live_now
        other = live is not None and live.here != self._here
        if other or time.monotonic() - self._renewed_s > READ_S:
            self.renew()

    @property
    def text(self) -> str:
        """What it says."""
        return self._said.text()

    def renew(self) -> None:
        """Shows the chosen wire."""
        self._renewed_s = time.monotonic()
        live, now = self._session.live_now, self._session.wire_now
        self.setVisible(live is not None)
        if live is None:
            return
        self._here = live.here
        look = "" if now is None or not live.here else now.look
        # What the line says comes first; how the sensor is wired is behind it.
        first = look.partition(" Wiring:")[0]
        self._tell(f"{self._who_and_why(now)} {first}" if now and look else self._sentence(), look)
        can_ask = now is not None and now.setup.every_s is not None and live.here
        self.ask.setEnabled(can_ask)
        self.pace.setEnabled(now is not None)
        self.follow.setChecked(self._session.follows)
        newer = self._newer()
        text = f"Follow newest ({newer} newer)" if newer else "Follow newest"
        if self.follow.text() != text:
            self.follow.setText(text)

    def _who_and_why(self, now: "WireNow") -> str:
        """Which sensor gives no reading, and the reason."""
        code, why = next(iter(now.silent.items()))
        who = self._session.roles.names.get(code, code)
        return f"{now.name} · {who}: {why}." if who else f"{now.name}: {why}."

    def _tell(self, text: str, look: str) -> None:
        """Labels are laid out anew at each text, so the same one is not set again."""
        if self._said.text() != text:
            colours = theme()
            self._said.setText(text)
            colour = colours.unsound if look else colours.ink
            ink(self._said, colour)
        if self._said.toolTip() != look:
            self._said.setToolTip(plain_tip(look))

    def _newer(self) -> int:
        place = self._session.place
        if self._session.follows or place is None:
            return 0
        newest = self._session.captures[place[0]].wires[place[1]]
        return max(newest.end - 1 - self._session.number, 0)

    def _sentence(self) -> str:
        live, now = self._session.live_now, self._session.wire_now
        if live is not None and not live.here:
            return "The source is away; it is looked for every second."
        if now is None:
            return "Listening; what is on the wires is being found out."
        parts = [now.name]
        if now.setup.every_s is None:
            parts.append("only listened to")
        else:
            every = f" every {now.every_s:g} s" if now.every_s else ""
            parts.append(f"asked{every}: {count(now.asks, 'ask')}")
            if now.retries:
                parts.append(count(now.retries, "retry", "retries"))
        parts.append(f"{now.edges:,} edges")
        return " · ".join(parts)
