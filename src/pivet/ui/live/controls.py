"""What the window offers for listening and for the bench file."""

import math
from collections.abc import Mapping
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QFileDialog, QInputDialog, QVBoxLayout

from pivet.errors import PivetError
from pivet.files.benchfile.beside import SUFFIX
from pivet.ui.bench.keeper import BenchKeeper
from pivet.ui.drawing.numbers import ask_number
from pivet.ui.drawing.theme import dress
from pivet.ui.feeds.sending import Sending
from pivet.ui.live.bar import LiveBar
from pivet.ui.window.actions import SEPARATOR, Entry
from pivet.ui.window.services import Services

if TYPE_CHECKING:  # what listens is imported when somebody listens: the window starts faster
    from pivet.listening.setup import WireSetup
    from pivet.readings.limits import Limit
    from pivet.readings.series import Sensor
    from pivet.ui.feeds.cards import FeedsDialog
    from pivet.ui.live.add_wire import AddWire
    from pivet.ui.live.session import LiveSession
    from pivet.ui.live.thread import ListeningThread
    from pivet.ui.standin.pane import StandinPane
    from pivet.ui.standin.process import StandinProcess

PACES = (
    ("its own pace", 1.0),
    ("4 times as fast", 4.0),
    ("30 times as fast", 30.0),
    ("as fast as it goes", math.inf),
)
MOST_NUMBER = float(1 << 40)
BENCHES = f"Benches (*{SUFFIX})"

CAPTURES = "Captures (*.vcd *.csv *.tsv *.gz *.xz *.bz2 *.zst)"


class LiveControls(QObject):
    """Ties listening, the bench file and the simulated cave to the window.

    Args:
        services: the services of the window.

    Signals:
        cave_begun: the simulated cave begins.
        feeds_help_asked: help about feeds is wanted.
        failed: Pivet made a mistake; carries it.
        changed: listening began or ended somewhere.
        crossed: a limit was crossed just now, or is no longer; carries what is told.

    Attributes:
        limits: those that the open bench has.
    """

    changed = Signal()
    crossed = Signal(object)
    cave_begun = Signal()
    feeds_help_asked = Signal()
    failed = Signal(object)

    def __init__(self, services: Services) -> None:
        super().__init__(services.window)
        self._window, self._session = services.window, services.session
        self._notice, self._settings = services.notice, services.settings
        self._listening: LiveSession | None = None
        self.keeper = BenchKeeper(
            services.window, services.session, services.jobs, services.settings.unsaved_folder
        )
        self.keeper.ask_path = self._ask_path
        self.bar = LiveBar(services.session)
        self.cave: StandinProcess | None = None
        self.board: str | None = None
        self._closing: dict[StandinProcess, int] = {}
        self._going: list[StandinProcess] = []
        self._unwritten = False
        self.pane: StandinPane | None = None
        self.dialog: AddWire | None = None
        self.place_for_pane: QVBoxLayout | None = None
        self.limits: Mapping[Sensor, Limit] = {}
        services.session.refuse = services.notice.say
        self.sending = Sending(self.keeper, services.session, services.jobs)
        self.feeds_dialog: FeedsDialog | None = None
        self.sending.said.connect(services.notice.say)
        self.keeper.said.connect(services.notice.say)
        self.bar.ask_asked.connect(self.ask_now)
        self.bar.pace_asked.connect(self.change_pace)

    @property
    def listening(self) -> "LiveSession":
        """What listens; made when it is first wanted."""
        if self._listening is None:
            from pivet.ui.live.session import LiveSession

            self._listening = LiveSession(self._session, lambda: self.limits, self)
            self._listening.crossed.connect(self.crossed)
            self._listening.said.connect(self._notice.say)
            self._listening.moved.connect(self.keeper.moved)
            self._listening.failed.connect(self.failed)
            self._listening.changed.connect(self.changed)
            self._listening.ended.connect(self._on_ended)
        return self._listening

    @property
    def listens(self) -> bool:
        """Something is listened to, or is being opened."""
        return self._listening is not None and self._listening.busy

    def entries(self) -> list[Entry | None]:
        """The menu."""
        return [
            Entry("&Add a live wire…", "Ctrl+L", self.add_wire),
            Entry("&Listen to the simulated cave", "Ctrl+Shift+L", self.listen_to_cave),
            Entry("Re&play a capture…", "", self.choose_replay),
            Entry("&Watch a folder…", "", self.choose_folder),
            SEPARATOR,
            Entry("Ask &now", "N", self.ask_now, True),
            Entry("&How it is asked…", "Ctrl+J", self.change_pace, True),
            Entry("&Follow newest", "Ctrl+End", lambda: self._session.follow_newest(True), True),
            Entry("&Stay here", "Ctrl+.", lambda: self._session.follow_newest(False), True),
            SEPARATOR,
            Entry("Stop listening to this &wire", "", lambda: self.listening.rest(), True),
            Entry("Stop &listening", "Ctrl+Shift+.", self.stop),
            SEPARATOR,
            Entry("F&eeds…", "Ctrl+Shift+D", self.show_feeds),
        ]

    def show_feeds(self) -> None:
        """Shows the feeds of the open bench, beside the window."""
        if self.feeds_dialog is None:
            from pivet.ui.feeds.cards import FeedsDialog

            self.feeds_dialog = FeedsDialog(self.sending, self._window)
            self.feeds_dialog.help_asked.connect(self.feeds_help_asked)
        self.feeds_dialog.show()
        self.feeds_dialog.raise_()
        self.feeds_dialog.activateWindow()

    def add_wire(self) -> None:
        """Opens the dialog that adds a live wire."""
        from pivet.ui.live.add_wire import AddWire

        self.dialog = dialog = AddWire(self.listening, self._window)
        dialog.source_asked.connect(lambda where: self.listen(where, ()))
        dialog.cave_asked.connect(lambda: self.listen_to_cave(False))
        dialog.finished.connect(self._forget_dialog)
        dialog.open()

    def _forget_dialog(self) -> None:
        if self.dialog is not None:
            self.dialog.deleteLater()
            self.dialog = None

    def listen(
        self, where: str, setups: "tuple[WireSetup, ...] | None" = None, pace: float = 1.0
    ) -> None:
        """Begins to listen to a source: to everything on it, to some wires, or to nothing yet."""
        whole = where.startswith(("folder:", "replay:"))
        try:
            bench = self.keeper.need()
        except PivetError as error:
            self._notice.say(str(error))
            return
        simulated = where == self.board or (self.cave is not None and where == self.cave.path)
        self.keeper.throwaway &= simulated
        self.listening.listen(where, bench, None if whole else setups, pace)

    def listen_to_board(self, path: str) -> None:
        """Listens to the simulated board of the demo, and says what of it is simulated."""
        from pivet.listening.setup import WireSetup
        from pivet.standin.board import SAYS, WIRES

        self.board, self.keeper.throwaway = path, self.keeper.bench is None
        self.listen(path, tuple(WireSetup(name, lines, None, 0.0) for name, lines, _ in WIRES))
        self._notice.say(SAYS, False)

    def listen_to_cave(self, whole: bool = True) -> None:
        """Starts the simulated cave, and listens to all its wires or to none yet."""
        if self.cave is not None:
            self._notice.say("The simulated cave runs already.", False)
            return
        from pivet.ui.standin.pane import StandinPane
        from pivet.ui.standin.process import StandinProcess

        self.cave = cave = StandinProcess(self)
        self.keeper.throwaway = self.keeper.bench is None
        cave.ready.connect(lambda path: self.listen(path, None if whole else ()))
        cave.refused.connect(self._notice.say)
        cave.ended.connect(self._on_cave_ended)
        cave.start()
        self.cave_begun.emit()
        self.pane = StandinPane(cave, self._window)
        dress(self.pane)
        self.pane.closed.connect(self.end_cave)
        if self.place_for_pane is not None:
            self.place_for_pane.addWidget(self.pane)

    def _on_cave_ended(self, says: str) -> None:
        self._notice.say(says)
        self.end_cave()

    def end_cave(self) -> None:
        """Ends the simulated cave, and listening to it."""
        if self.cave is None:
            return
        cave, self.cave = self.cave, None
        threads = self.listening.of(cave.path)
        self._closing[cave] = len(threads)
        for thread in threads:
            self.listening.end_one(thread)
        self._close_caves()
        if self.pane is not None:
            self.pane.hide()
            self.pane.deleteLater()
            self.pane = None

    def _close_caves(self) -> None:
        """Ends simulated caves to which nobody listens any more."""
        for cave, threads in list(self._closing.items()):
            if not threads:
                del self._closing[cave]
                self._going.append(cave)
                cave.closed.connect(partial(self._forget_cave, cave))
                cave.close()

    def _forget_cave(self, cave: "StandinProcess") -> None:
        self._going.remove(cave)
        cave.deleteLater()

    def _on_ended(self, thread: "ListeningThread") -> None:
        """Listening to a source has ended, as it was told to."""
        for cave in self._closing:
            if cave.path == thread.where:
                self._closing[cave] -= 1
        self._close_caves()
        self._unwritten |= thread.unwritten
        if not self.listens and not self._unwritten:
            self._notice.say("Listening has ended; what was heard stays in the bench.", False)

    def choose_replay(self) -> None:
        """Asks for a capture, and listens to it as if it happened now."""
        name, _ = QFileDialog.getOpenFileName(
            self._window,
            "Replay a capture",
            self._settings.folder,
            "Captures (*.vcd *.csv *.tsv *.gz *.xz *.bz2 *.zst)",
        )
        if not name:
            return
        words = [text for text, _ in PACES]
        word, chosen = QInputDialog.getItem(
            self._window, "Replay a capture", "How fast:", words, 0, False
        )
        if chosen:
            self.listen(f"replay:{name}", pace=dict(PACES)[word])

    def choose_folder(self) -> None:
        """Asks for a folder, and takes in what is dropped there."""
        name = QFileDialog.getExistingDirectory(
            self._window, "Watch a folder", self._settings.folder
        )
        if name:
            self.listen(f"folder:{name}")

    def ask_now(self) -> None:
        """Asks the chosen wire."""
        says = self.listening.ask_now()
        if says:
            self._notice.say(says, False)

    def change_pace(self) -> None:
        """Asks how the chosen wire is to be asked."""
        now, wire = self._session.wire_now, self._session.wire
        if now is None or wire is None:
            self._notice.say("This wire is not live: listen to a source first.", False)
            return
        from pivet.ui.drawing.asking import accepted
        from pivet.ui.live.add_wire import PaceDialog

        pace = (now.setup.every_s, now.setup.retries)
        dialog = PaceDialog(now.name, now.setup.sheet or wire.sheet, pace, self._window)
        if accepted(dialog):
            self.listening.change(dialog.form.every_s, dialog.form.tries)

    def stop(self) -> None:
        """Ends all listening; what was heard stays."""
        if not self.listens:
            self._notice.say("Nothing is listened to.", False)
            return
        if not self.listening.ends:
            self._unwritten = False
            self._notice.say("Listening ends; what was heard is written.", False)
            self.listening.end()
        self.end_cave()

    def choose_bench_file(self) -> None:
        """Asks for a name, and goes on under it."""
        path = self._ask_path()
        if path is not None:
            self.keeper.save_as(path)

    def _ask_path(self) -> Path | None:
        start = str(Path(self._settings.folder) / f"cave{SUFFIX}")
        name, _ = QFileDialog.getSaveFileName(self._window, "Save bench as", start, BENCHES)
        if not name:
            return None
        path = Path(name)
        return path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX)

    def open_bench(self, path: Path) -> None:
        """Opens a bench file."""
        if self.listens:
            self._notice.say(
                f"{path.name} cannot be opened while Pivet listens: stop listening first "
                "(Ctrl+Shift+.)."
            )
            return
        self.keeper.open(path)

    def go_to(self) -> None:
        """Asks for the number of an exchange, and shows it."""
        wire = self._session.wire
        if wire is None:
            return
        ask = "Number of the exchange:"
        number = ask_number(
            self._window, "Go to exchange", ask, self._session.number, 0, MOST_NUMBER
        )
        if number is not None:
            self._session.choose_number(round(number))

    def change_note(self) -> None:
        """Asks for a note on the shown exchange."""
        session = self._session
        place = session.place
        if place is None or session.captures[place[0]].kept is None:
            self._notice.say("Notes stand in a bench: this capture is a file of its own.", False)
            return
        asked = place, session.number  # others may come while it is typed
        text, chosen = QInputDialog.getMultiLineText(
            self._window, "Note", f"On exchange {session.number}:", session.note
        )
        if chosen:
            session.edits.change_note(text.strip(), asked)

    def close(self, ask: bool = True) -> bool:
        """Ends everything; False when the person wants to go on.

        Where nobody can be asked, a bench without a name stays, and is found at the next start.
        """
        if ask and not self.keeper.may_close():
            return False
        if self.listens:
            # Nobody need look at a window that is only writing the last of what was heard.
            self._window.hide()
            self.listening.stop()
        self.end_cave()
        for cave in list(self._going):
            cave.wait()
        self.keeper.close(stays=not ask)
        return True
