"""Adding a feed in three steps: where, what, and its name with a test message."""

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from pivet.errors import InputError, PivetError
from pivet.feeds.feeds import Feeds
from pivet.feeds.registry import check_templates
from pivet.feeds.secret import forget_secret, keep_secret
from pivet.feeds.setup import FeedSetup, Kind, checked_name, new_setup
from pivet.judge.wording import count
from pivet.progress import Progress
from pivet.ui.drawing.painting import font_of
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import ink, plain_label, roomy
from pivet.ui.feeds.sending import Sending
from pivet.ui.feeds.steps import KEYRING, Name, What, Where

TITLES = ("1 of 3: Where to", "2 of 3: What is sent", "3 of 3: Its name, and a test")
USUAL_NAMES = {Kind.MQTT: "broker", Kind.HTTP: "service", Kind.METRICS: "metrics"}
SIZE = (560, 480)


class AddFeed(QDialog):
    """Asks for a feed step by step; nothing is sent but the test message before it is added.

    Args:
        feeds: of the open bench.
        sending: lets it send when it was added.
        parent: over which it stands.

    Raises:
        InputError: the wires of the bench cannot be read.
    """

    def __init__(self, feeds: Feeds, sending: Sending, parent: QWidget | None = None) -> None:
        # Read first: where the bench cannot be read no half a dialog stays over the window.
        wires = feeds.wires()
        super().__init__(parent)
        self.setWindowTitle("Add a feed")
        self.resize(*SIZE)
        self._feeds, self._sending = feeds, sending
        self._setup: FeedSetup | None = None
        self._added = list[str]()
        self.where = Where()
        self.what = What(wires, sending.units)
        self.last = Name()
        self.title = plain_label()
        self.title.setFont(font_of(self, 1.1, bold=True))
        self.steps = QStackedWidget()
        for step in (self.where, self.what, self.last):
            self.steps.addWidget(roomy(step))
        self.said = plain_label()
        self.said.setWordWrap(True)
        ink(self.said, theme().unsound)
        self.back, self.go_on, self.leave = (
            QPushButton(text) for text in ("&Back", "&Next", "Cancel")
        )
        self.back.setAutoDefault(False)
        self.leave.setAutoDefault(False)
        self.go_on.setDefault(True)
        foot = QHBoxLayout()
        foot.addStretch(1)
        for button in (self.back, self.go_on, self.leave):
            foot.addWidget(button)
        column = QVBoxLayout(self)
        column.addWidget(self.title)
        column.addWidget(self.steps, 1)
        column.addWidget(self.said)
        column.addLayout(foot)
        # Who leaves waits for no network: this goes on without the dialog.
        self._beside, self._test, self._adding = sending.beside, object(), object()
        self._beside.failed.connect(self._on_failed)
        self.back.clicked.connect(lambda: self._show(self.steps.currentIndex() - 1))
        self.go_on.clicked.connect(self._next)
        self.leave.clicked.connect(self.reject)
        self.last.test.clicked.connect(self.test)
        self._show(0)

    def _show(self, step: int) -> None:
        self.steps.setCurrentIndex(step)
        self.title.setText(TITLES[step])
        self.said.setText("")
        self.back.setEnabled(step > 0)
        self.go_on.setText("&Next" if step < len(TITLES) - 1 else "&Add")
        if step == 1:
            self.what.show_for(self.where.chosen)

    def _next(self) -> None:
        step = self.steps.currentIndex()
        try:
            setup = self._made()
            if step == 1:
                check_templates(setup)
                if self.what.wires and not any(box.isChecked() for box in self.what.wires):
                    raise InputError("no wire is chosen", "choose one")
        except InputError as error:
            self.said.setText(str(error))
            return
        if step < len(TITLES) - 1:
            self._show(step + 1)
            if step == 1:
                self._begin_last(setup)
            return
        self._add()

    def _made(self) -> FeedSetup:
        """The feed as it was described so far; it keeps its id.

        Raises:
            InputError: it makes no sense.
        """
        kind = self.where.chosen
        said: dict[str, Any] = self.where.said()
        if self.steps.currentIndex() > 0:
            said |= self.what.said(kind)
        before = self._setup
        self._setup = new_setup(FeedSetup(**said, id="" if before is None else before.id))
        if self._setup.kind is not kind:
            begins = "openmetrics://" if kind is Kind.METRICS else f"{kind}://"
            raise InputError("the address is of another kind", f"begin it with {begins}")
        return self._setup

    def _begin_last(self, setup: FeedSetup) -> None:
        wires = "all wires" if not setup.wires else count(len(setup.wires), "wire")
        pace = f", at most every {setup.every_s:g} s" if setup.every_s else ", as they come"
        pace = "" if setup.kind is Kind.METRICS else pace
        self.last.summary.setText(f"readings of {wires}{pace}, to {setup.url}")
        self.last.came.setText("")
        if not self.last.name.text():
            taken = {row.name for row in self._feeds.rows()}
            stem = USUAL_NAMES[setup.kind]
            names = [stem, *(f"{stem}{number}" for number in range(2, 100))]
            self.last.name.setText(next(name for name in names if name not in taken))

    def _with_secret(self, work: Callable[[], str]) -> Callable[[], str]:
        """Work before which the typed password is put where it is looked for."""
        setup, typed = self._setup, self.where.secret.text()

        def done() -> str:
            if setup is not None and setup.secret == KEYRING and typed:
                keep_secret(setup, typed)
            return work()

        return done

    def test(self) -> None:
        """Sends a test message beside the window."""
        setup = self._setup
        if setup is None:
            return
        name, made = self.last.name.text().strip() or "test", setup
        self.last.test.setEnabled(False)
        self._put(self.last.came, "It is being sent …", good=True)

        feeds = self._feeds

        def work() -> str:
            return feeds.test_setup(name, made)

        self._beside.ask(self._test, _caught(self._with_secret(work)), self._on_tested)

    def _on_tested(self, came: tuple[bool, str]) -> None:
        self.last.test.setEnabled(True)
        good, says = came
        self._put(self.last.came, f"It was {says}." if good else says, good)

    def _put(self, label: QLabel, text: str, good: bool) -> None:
        colour = theme().ink if good else theme().unsound
        ink(label, colour)
        label.setText(text)

    def _add(self) -> None:
        setup, held = self._setup, self.what.all_held.isChecked()
        try:
            name = checked_name(self.last.name.text().strip())
        except InputError as error:
            self.said.setText(str(error))
            return
        assert setup is not None
        feeds, made, added = self._feeds, setup, self._added

        def work() -> str:
            feeds.add(name, made, held)
            added.append(name)
            return name

        self.go_on.setEnabled(False)
        self._beside.ask(self._adding, _caught(self._with_secret(work)), self._on_added)

    def _on_added(self, came: tuple[bool, str]) -> None:
        self.go_on.setEnabled(True)
        good, says = came
        if not good:
            self.said.setText(says)
            return
        self.accept()

    def _on_failed(self, error: object) -> None:
        self.last.test.setEnabled(True)
        self.go_on.setEnabled(True)
        self.said.setText(str(error))

    def done(self, result: int) -> None:
        """What was added sends; a password that was typed for nothing goes again."""
        setup, added, sending = self._setup, self._added, self._sending
        for kind in (self._test, self._adding):
            self._beside.forget(kind)

        def forget(_: Progress) -> None:
            if setup is not None and setup.secret == KEYRING and not added:
                forget_secret(setup)

        # Behind what is still under way.
        self._beside.ask(object(), forget, lambda _: sending.go_on() if added else None)
        super().done(result)


def _caught(work: Callable[[], str]) -> Callable[[Progress], tuple[bool, str]]:
    """Whether it went well, and what is to be said of it."""

    def done(_: Progress) -> tuple[bool, str]:
        try:
            return True, work()
        except PivetError as error:
            return False, str(error)

    return done
