"""The feeds of the open bench: they send for as long as it is open."""

from collections.abc import Callable
from threading import Lock
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from pivet.progress import Progress
from pivet.readings.units import UnitChoice
from pivet.ui.bench.keeper import BenchKeeper
from pivet.ui.session.session import Session
from pivet.ui.work.background import Background
from pivet.ui.work.jobs import JobBar

if TYPE_CHECKING:  # what sends is imported when a bench has feeds: the window starts faster
    from pivet.feeds.feeds import Feeds
    from pivet.feeds.state import FeedState
    from pivet.files.benchfile.store import BenchFile


class Sending(QObject):
    """Starts the feeds of a bench when it is opened, and ends them before it is closed.

    Args:
        keeper: keeps the open bench.
        session: knows the names of devices.
        jobs: does what may wait for the network.

    Signals:
        said: something is to be told; carries the sentence and whether it is trouble.
        changed: feeds came or went.
        ended: the bench is about to be closed; what is asked about its feeds comes to nothing.

    Attributes:
        beside: where forms have something done that may wait for the network.
    """

    said = Signal(str, bool)
    changed = Signal()
    ended = Signal()
    _told = Signal(object)

    def __init__(self, keeper: BenchKeeper, session: Session, jobs: JobBar) -> None:
        super().__init__(keeper)
        self._keeper, self._session, self._jobs = keeper, session, jobs
        self.beside = Background(self)
        self._trying = Background(self)
        self._bench: BenchFile | None = None
        self.feeds: Feeds | None = None
        # The window and the job that starts them may want them at the same moment.
        self._lock = Lock()
        keeper.changed.connect(self._on_bench)
        keeper.closing.connect(self.end)
        self._told.connect(self._on_told)

    def _on_bench(self) -> None:
        bench = self._keeper.bench
        if bench is self._bench:
            return
        self.end()
        self._bench = bench
        if bench is not None and not bench.read_only and _has_feeds(bench):
            self.go_on()

    @property
    def units(self) -> UnitChoice:
        """The units in which readings are shown."""
        return self._session.shown.units

    def of_bench(self) -> "Feeds | None":
        """The feeds of the open bench, made when they are first wanted; None without a bench."""
        bench = self._bench
        with self._lock:
            if self.feeds is None and bench is not None:
                from pivet.feeds.feeds import Feeds

                self.feeds = Feeds(bench, self._session.roles, self._told.emit)
            return self.feeds

    def go_on(self) -> None:
        """Lets all feeds send that may, beside the window."""

        def work(_: Progress) -> object:
            feeds = self.of_bench()
            if feeds is not None:
                feeds.start()
            return None

        self._jobs.start("Starting the feeds", work, lambda _: self.changed.emit())

    def do(self, label: str, work: Callable[[], str]) -> None:
        """Does something with feeds beside the window, and says what came of it.

        Args:
            label: what is done, for people.
            work: gives a sentence; empty for none.
        """
        self._jobs.start(label, lambda _: work(), self._tell)

    def try_out(self, name: str, work: Callable[[], str]) -> None:
        """Has a test message sent; no job waits for the network behind it.

        Args:
            name: of the feed; of several tests of one the last is told.
            work: gives a sentence.
        """
        self._tell(f"Feed {name}: sending a test message …")
        self._trying.ask(name, lambda _: work(), self._tell)

    def _tell(self, sentence: str) -> None:
        if sentence:
            self.said.emit(sentence, False)
        self.changed.emit()

    def end(self) -> None:
        """Ends sending; what was not sent waits in the bench."""
        self._bench = None
        with self._lock:
            feeds, self.feeds = self.feeds, None
        if feeds is not None:
            feeds.leave()
            # What comes of a test is told nobody who looks at another bench.
            self._trying.forget_all()
            self.ended.emit()

    def _on_told(self, state: "FeedState") -> None:
        if state.trouble:
            self.said.emit(f"Feed {state.name}: {state.trouble} What is heard waits.", True)
        elif state.works:
            self.said.emit(f"Feed {state.name} sends again.", False)
        self.changed.emit()


def _has_feeds(bench: "BenchFile") -> bool:
    from pivet.keeping.outgoing import has_feeds

    return has_feeds(bench)
