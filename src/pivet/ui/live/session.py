"""What the window listens to, and what a person has done with it."""

from collections.abc import Callable, Mapping, Sequence

from PySide6.QtCore import QObject, Signal

from pivet.bench.live_bench import News
from pivet.files.benchfile.store import BenchFile
from pivet.listening import events as ev
from pivet.listening.setup import WireSetup
from pivet.person.annotations import Annotations, Labels
from pivet.readings.limits import Limit
from pivet.readings.series import Sensor
from pivet.ui.live.changes import RestWire, SetPace
from pivet.ui.live.state import Live
from pivet.ui.live.thread import ListeningThread
from pivet.ui.session.session import Session


class LiveSession(QObject):
    """Listens to sources for the window.

    Args:
        session: shows what is heard.
        limits: those that the open bench has now.
        parent: the owner.

    Signals:
        said: something is to be told; carries the sentence and whether it is trouble.
        known: it was found out what is on a wire; carries its name and what was found.
        changed: listening began or ended somewhere.
        failed: Pivet made a mistake; carries it.
        moved: the bench file went away and goes on elsewhere; carries both paths.
        crossed: a limit was crossed just now, or is no longer; carries what is told.
        ended: listening to a source ended, as it was told to; carries who listened.
    """

    crossed = Signal(object)
    ended = Signal(object)
    moved = Signal(object, object)
    said = Signal(str, bool)
    known = Signal(str, object)
    changed = Signal()
    failed = Signal(object)

    def __init__(
        self,
        session: Session,
        limits: Callable[[], Mapping[Sensor, Limit]],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._session, self._limits = session, limits
        self._threads: list[ListeningThread] = []
        self._ending: list[ListeningThread] = []

    def of(self, where: str) -> list[ListeningThread]:
        """Those that listen to a source, or are about to."""
        return [thread for thread in self._threads if thread.where == where]

    @property
    def threads(self) -> Sequence[ListeningThread]:
        """Those that listen now."""
        return [thread for thread in self._threads if thread.kept is not None]

    @property
    def busy(self) -> bool:
        """Something is listened to, or is being opened."""
        return bool(self._threads)

    def listen(
        self,
        where: str,
        bench: BenchFile,
        setups: Sequence[WireSetup] | None = None,
        pace: float = 1.0,
    ) -> ListeningThread:
        """Begins to listen to a source; None as wires takes all."""
        thread = ListeningThread(where, bench, setups, pace, self, self._names)
        self._threads.append(thread)
        thread.begun.connect(self._on_begun)
        thread.refused.connect(self._on_refused)
        thread.rung.connect(self._on_news)
        thread.failed.connect(self.failed)
        thread.over.connect(self._on_over)
        thread.start()
        return thread

    def _names(self) -> Labels:
        """What logs and limits must know beside what is heard; asked by other threads."""
        shown = self._session.shown
        return Labels(
            shown.roles, Annotations(corrections=shown.corrections, limits=self._limits())
        )

    def _on_begun(self, thread: ListeningThread) -> None:
        if thread not in self._threads:
            return  # it was stopped meanwhile
        capture = thread.capture()
        self._session.live[capture.key] = Live()
        self._session.add_capture(capture)
        self.changed.emit()
        self._on_news(thread)

    def _on_refused(self, thread: ListeningThread, says: str) -> None:
        if thread not in self._threads or thread in self._ending:
            return  # it was stopped before it could be opened
        self._threads.remove(thread)
        self.said.emit(says, True)
        self.changed.emit()

    def _on_news(self, thread: ListeningThread) -> None:
        news = thread.news()
        if news is None or thread.kept is None:
            return
        here = news.here or news.over
        self._session.hear(thread.kept, Live(news.wires, here, news.zero_ns))
        self._tell(news)

    def _tell(self, news: News) -> None:
        """What is worth a sentence; the last one stays."""
        for event in news.events:
            if isinstance(event, ev.Known):
                self.known.emit(event.wire, event.found)
            elif isinstance(event, ev.Crossed):
                self.crossed.emit(event.told)
            elif isinstance(event, ev.Moved):
                self.moved.emit(event.former, event.path)
            else:
                said = self._said(event)
                if said is not None:
                    self.said.emit(*said)

    def _said(self, event: ev.Event) -> tuple[str, bool] | None:
        """An event as a sentence, and whether it is trouble."""
        if isinstance(event, ev.Away):
            return f"{event.says} It is looked for every second.", True
        if isinstance(event, ev.Opened) and event.again:
            return f"{event.about.name} is back; listening goes on.", False
        if isinstance(event, ev.Ended):
            return "The replay is over.", False
        if isinstance(event, ev.Note):
            where = f"{event.wire}: " if event.wire else ""
            return f"{where}{event.says}", True
        if isinstance(event, ev.Silent):
            return self._silent(event), True
        if isinstance(event, ev.Back):
            return f"{self._who(event)} gives readings again.", False
        return None

    def _who(self, event: ev.Silent | ev.Back) -> str:
        if not event.code:
            return event.wire
        return f"{event.wire}, {self._session.roles.names.get(event.code, event.code)}"

    def _silent(self, event: ev.Silent) -> str:
        return f"{self._who(event)} gives no reading any more: {event.says}."

    def _on_over(self, thread: ListeningThread) -> None:
        if thread not in self._threads:
            return
        self._threads.remove(thread)
        if thread.kept is not None:
            self._on_news(thread)
            thread.kept.tell_choices = None
            self._session.end_live(thread.kept)
        if thread in self._ending:
            self._ending.remove(thread)
            self.ended.emit(thread)
        self.changed.emit()

    @property
    def _chosen(self) -> ListeningThread | None:
        """Who listens to the shown capture."""
        capture = self._session.capture
        return next(
            (thread for thread in self.threads if capture and thread.kept is capture.kept), None
        )

    def ask_now(self) -> str:
        """Asks the chosen wire as soon as its sheet allows; says what it did."""
        thread, now = self._chosen, self._session.wire_now
        if thread is None or now is None:
            return "This wire is not live: listen to a source first."
        if now.setup.every_s is None:
            return f"{now.name} is only listened to; choose an interval to ask it."
        thread.order(lambda listener: listener.wire(now.name).ask_now())
        return ""

    def change(self, every_s: float | None, retries: int) -> None:
        """Asks the chosen wire so often from now on.  Can be undone."""
        thread, now = self._chosen, self._session.wire_now
        if thread is not None and now is not None:
            before = (now.setup.every_s, now.setup.retries)
            if before != (every_s, retries):
                command = SetPace(thread, now.name, before, (every_s, retries))
                self._session.undo.push(command)

    def add(self, thread: ListeningThread, setup: WireSetup) -> None:
        """Listens to one wire more.  Can be undone."""
        self._session.undo.push(RestWire(thread, setup.name, False, setup))

    def wake(self, thread: ListeningThread, name: str) -> None:
        """Listens to a wire again.  Can be undone."""
        self._session.undo.push(RestWire(thread, name, False))

    def look(self, thread: ListeningThread, setup: WireSetup) -> None:
        """Finds out what is on lines that are no wire yet; ``known`` tells."""
        thread.order(lambda listener: listener.look(setup))

    def rest(self) -> None:
        """Does not listen to the chosen wire any more.  Can be undone."""
        thread, now = self._chosen, self._session.wire_now
        if thread is not None and now is not None:
            self._session.undo.push(RestWire(thread, now.name, True))

    def end_one(self, thread: ListeningThread) -> None:
        """Ends listening to one source; ``ended`` tells when that is done."""
        if thread not in self._ending:
            self._ending.append(thread)
            thread.end()

    def end(self) -> None:
        """Ends all listening; ``ended`` tells when that is done."""
        for thread in self._threads:
            self.end_one(thread)

    @property
    def ends(self) -> bool:
        """Whether all listening is about to end."""
        return all(thread in self._ending for thread in self._threads)

    def stop(self) -> None:
        """Ends all listening, and waits for the end."""
        for thread in list(self._threads):
            thread.stop()
            self._on_over(thread)
