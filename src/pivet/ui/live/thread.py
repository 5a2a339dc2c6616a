"""The thread in which the window listens to a source."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QObject, QThread, Signal

from pivet.bench.live_bench import Begun, LiveBench, News, WireNow
from pivet.captures.capture import Capture
from pivet.errors import Cancelled, PivetError
from pivet.files.benchfile.store import BenchFile
from pivet.keeping.kept import KeptCapture
from pivet.keeping.log import LogWish
from pivet.listening.listener import Listener
from pivet.listening.runner import Order
from pivet.listening.setup import WireSetup
from pivet.listening.wires_of_source import everything, recognised
from pivet.person.annotations import Labels
from pivet.person.choices import WireChoices
from pivet.sources.registry import make_source
from pivet.sources.replay import ReplaySource
from pivet.sources.source import About
from pivet.ui.work.way import WAY

STOP_MS = 60_000
"""A source that hangs is given up after so long; the window is hidden by then.  A thread that is
let go while it runs ends the process, and what it had still to write."""


class ListeningThread(QThread):
    """Opens a source, listens, records; its news come by ``rung``.

    Args:
        where: the source, as ``make_source`` takes it.
        bench: records what is heard.
        setups: the wires; None takes all that there are.
        pace: the pace of a replay.
        parent: the owner.
        names: roles, corrections and limits at this moment.

    Each signal but ``failed`` carries the thread first: a method of the receiver can take
    it, and what is on its way to a receiver that is gone is dropped.

    Signals:
        begun: the source was opened.
        refused: it could not be opened; carries the sentence too.
        rung: there is news to take.
        over: it has ended.
        failed: Pivet made a mistake; carries it.
    """

    begun = Signal(object)
    refused = Signal(object, str)
    rung = Signal(object)
    over = Signal(object)
    failed = Signal(object)

    def __init__(
        self,
        where: str,
        bench: BenchFile,
        setups: Sequence[WireSetup] | None,
        pace: float = 1.0,
        parent: QObject | None = None,
        names: Callable[[], Labels] = Labels,
    ) -> None:
        super().__init__(parent)
        self.where, self._bench, self._setups, self._pace = where, bench, setups, pace
        self._names = names
        self._listening: LiveBench | None = None
        self._stopped = False
        self._wires: tuple[WireNow, ...] = ()
        self.about: About | None = None
        self.kept: KeptCapture | None = None
        self.finished.connect(self._tell_over)

    def _tell_over(self) -> None:
        self.over.emit(self)

    def _ring(self) -> None:
        self.rung.emit(self)

    def run(self) -> None:
        """Runs until it is stopped, or a replay is over."""
        try:
            self._run()
        except Exception as error:  # noqa: BLE001  told to the person by the window
            self.failed.emit(error)
        finally:
            WAY.rest()

    def _run(self) -> None:
        try:
            source = make_source(self.where, pace=self._pace)

            def wanted(about: About) -> Sequence[WireSetup]:
                if self._setups is not None:
                    return self._setups
                if isinstance(source, ReplaySource):
                    return recognised(source, progress=self._make_way)
                return everything(about, 0.0 if source.can_ask else None)

            listener = Listener(source, wanted, between=self._go_on, waiting=WAY.rest)
            listening = LiveBench(listener, self._bench, self.where, self._ring, self._names)
            begun = listening.begin()
        except PivetError as error:
            self.refused.emit(self, str(error))
            return
        self._listening = listening
        self._take(begun)
        self.begun.emit(self)
        if self._stopped:
            listening.stop()
        listening.run()

    def _make_way(self, _share: float) -> None:
        WAY.give(lambda: self._stopped)

    def _go_on(self, share: float) -> None:
        self._make_way(share)
        if self._stopped:
            raise Cancelled

    def _take(self, begun: Begun) -> None:
        self.about = begun.about
        self.kept = KeptCapture(self._bench, begun.capture)
        self.kept.tell_choices = self._choose

    def _choose(self, name: str, choices: WireChoices) -> None:
        self.order(lambda listener: listener.wire(name).choose(choices))

    def capture(self) -> Capture:
        """What it records, as the window shows it."""
        assert self.kept is not None
        return self.kept.capture()

    def keep_log(self, wish: LogWish | None) -> None:
        """Keeps a running log from now on, or none."""
        if self._listening is not None:
            self._listening.keep_log(wish)

    def order(self, order: Order) -> bool:
        """Has something done between two steps; whether anybody listens any more."""
        if self._listening is None or not self.isRunning():
            return False
        self._listening.order(order)
        return True

    @property
    def used(self) -> list[tuple[str, ...]]:
        """The lines of the wires that it listens to."""
        return [wire.setup.lines for wire in self._wires if not wire.resting]

    @property
    def names(self) -> list[str]:
        """The names of its wires, also of those that are not listened to now."""
        return [wire.name for wire in self._wires]

    @property
    def resting(self) -> list[str]:
        """The names of wires that are not listened to now."""
        return [wire.name for wire in self._wires if wire.resting]

    def news(self) -> News | None:
        """What is new since it was last taken."""
        news = None if self._listening is None else self._listening.mailbox.take()
        if news is not None:
            self._wires = news.wires
        return news

    @property
    def unwritten(self) -> bool:
        """Something that was heard does not stand in the bench file."""
        return self._listening is not None and self._listening.unwritten

    def end(self) -> None:
        """Ends it soon: what was heard is written first."""
        self._stopped = True
        if self._listening is not None:
            self._listening.stop()

    def stop(self) -> None:
        """Ends it, and waits for the end."""
        self.end()
        self.wait(STOP_MS)
