"""What takes longer than a frame, beside the window: of each kind only the newest counts."""

from collections.abc import Callable, Hashable
from functools import partial
from typing import Any, TypeVar

from PySide6.QtCore import QObject, Signal

from pivet.errors import PivetError
from pivet.progress import Progress, silent
from pivet.ui.work.jobs import Job, JobSignals
from pivet.ui.work.turns import turns
from pivet.ui.work.worker import Worker

T = TypeVar("T")


class Background(QObject):
    """One thread for work whose progress nobody looks at; what is no longer wanted stops soon.

    Signals:
        failed: some work ended with an error; carries it.
    """

    failed = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._worker, self._signals = Worker(), JobSignals()
        self._signals.done.connect(self._on_done)
        self._signals.failed.connect(self._on_failed)
        self._signals.over.connect(self._on_over)
        self._asked: dict[Hashable, Job] = {}
        self._running: dict[Job, tuple[Hashable, Callable[[Any], object]]] = {}
        self._ended = False

    @property
    def busy(self) -> bool:
        """Whether something is still to come."""
        return bool(self._asked)

    def ask(
        self,
        kind: Hashable,
        work: Callable[[Progress], T],
        done: Callable[[T], object],
        now: bool = False,
    ) -> None:
        """Asks for work; what was asked before under the same kind comes to nothing.

        Args:
            kind: what it is for.
            work: runs in the other thread, behind what was asked before it; gets the progress to
                call, at which it makes way for the window, and stops when nobody wants it.
            done: gets the result, in the window's thread; not called after an error.
            now: it is little: done at once, here.
        """
        self.forget(kind)
        if self._ended:
            return
        if now:
            done(work(silent))
            return
        job = Job("", work, self._signals)
        self._asked[kind] = job
        self._running[job] = kind, done
        self._worker.start(job.run)

    def forget(self, kind: Hashable) -> None:
        """Nobody waits for it any more."""
        job = self._asked.pop(kind, None)
        if job is not None:
            job.stop()

    def forget_all(self) -> None:
        """Nobody waits for anything any more."""
        for kind in list(self._asked):
            self.forget(kind)

    def wait(self) -> None:
        """Forgets all, and waits for the thread; for the end of the program."""
        self._ended = True
        self.forget_all()
        self._worker.wait()

    def _on_done(self, job: Job, result: object) -> None:
        kind, done = self._running[job]
        turns().add(self, partial(self._take, kind, done, job, result))

    def _take(
        self, kind: Hashable, done: Callable[[Any], object], job: Job, result: object
    ) -> None:
        if self._asked.get(kind) is job:
            del self._asked[kind]
            done(result)

    def _on_failed(self, job: Job, error: Exception) -> None:
        kind, _ = self._running[job]
        if self._asked.get(kind) is job:
            del self._asked[kind]
            self.failed.emit(error)
            if not isinstance(error, PivetError):
                raise error  # a mistake of ours is told as one, with its traceback

    def _on_over(self, job: Job) -> None:
        del self._running[job]
