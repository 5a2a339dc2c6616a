"""Long work beside the window: one job after the other, with progress and cancel."""

import time
from collections import deque
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QApplication, QFrame, QHBoxLayout, QProgressBar, QPushButton, QWidget

from pivet.errors import Cancelled
from pivet.progress import Progress
from pivet.ui.drawing.widgets import plain_label
from pivet.ui.work.way import WAY
from pivet.ui.work.worker import Worker

SHOWN_AFTER_MS = 400
ANSWERED_MS = 50
"""While a dialog is open, it is looked so often whether it was answered."""

STEPS = 1000
TOLD_AFTER_S = 0.05
"""Work that tells of itself more often than anybody sees would keep the window busy with that."""


class JobSignals(QObject):
    """The way of jobs back into the window's thread; each tells whose it is.

    They are for slots that are methods of a ``QObject``: what is still on its way when that
    object goes is dropped. A function of no object would be called all the same.
    """

    progressed = Signal(object, float)
    done = Signal(object, object)
    failed = Signal(object, object)
    over = Signal(object)


class Job:
    """One piece of work.

    Args:
        label: what it does, for people.
        work: does it; gets the progress to call.
        signals: of whoever waits for it.
    """

    def __init__(self, label: str, work: Callable[[Progress], Any], signals: JobSignals) -> None:
        self.label = label
        self._signals = signals
        self._work = work
        self._stopped = False
        self._told_at = 0.0

    def stop(self) -> None:
        """Asks the work to stop at its next progress."""
        self._stopped = True

    def _progress(self, share: float) -> None:
        WAY.give(lambda: self._stopped)
        if self._stopped:
            raise Cancelled
        now = time.monotonic()
        if now - self._told_at >= TOLD_AFTER_S:
            self._told_at = now
            self._signals.progressed.emit(self, share)

    def run(self) -> None:
        """Runs in another thread; a result or an error comes back as a signal."""
        try:
            self._progress(0.0)
            result = self._work(self._progress)
        except Cancelled:
            pass
        except Exception as error:  # noqa: BLE001  told to the person by the window
            self._signals.failed.emit(self, error)
        else:
            self._signals.done.emit(self, result)
        finally:
            WAY.rest()
            self._signals.over.emit(self)


class JobBar(QFrame):
    """Runs jobs and shows the one that runs.

    What comes of a job waits while a dialog is open: what it asks about does not become another
    behind it.

    Signals:
        failed: a job ended with an error; carries it.
        idle: no job is left.
    """

    failed = Signal(object)
    idle = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self._worker, self._signals = Worker(), JobSignals()
        self._signals.progressed.connect(self._on_progress)
        self._signals.done.connect(self._on_done)
        self._signals.failed.connect(self._on_failed)
        self._signals.over.connect(self._on_over)
        self._jobs: dict[Job, tuple[Callable[[Any], None], Callable[[], None] | None]] = {}
        self._label = plain_label()
        self._bar = QProgressBar()
        self._bar.setRange(0, STEPS)
        self._bar.setTextVisible(False)
        self._cancel = QPushButton("Cancel")
        self._cancel.clicked.connect(self.cancel)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 12, 6)
        row.addWidget(self._label)
        row.addWidget(self._bar, 1)
        row.addWidget(self._cancel)
        self._shower = QTimer(self)
        self._shower.setSingleShot(True)
        self._shower.timeout.connect(self.show)
        self._come: deque[Callable[[], object]] = deque()
        self._look = QTimer(self)
        self._look.setSingleShot(True)
        self._look.timeout.connect(self._take_come)
        self.hide()

    @property
    def busy(self) -> bool:
        """Whether a job runs or waits."""
        return bool(self._jobs)

    def start(
        self,
        label: str,
        work: Callable[[Progress], Any],
        done: Callable[[Any], None],
        over: Callable[[], None] | None = None,
    ) -> None:
        """Starts a job, or queues it behind those that run.

        Args:
            label: what it does, for people.
            work: runs in another thread; gets the progress to call.
            done: gets the result, in the window's thread; not called after an error.
            over: called at the end however it comes, after ``done``.
        """
        job = Job(label, work, self._signals)
        self._jobs[job] = done, over
        if len(self._jobs) == 1:
            self._label.setText(label)
            self._bar.setValue(0)
            self._shower.start(SHOWN_AFTER_MS)
        self._worker.start(job.run)

    def cancel(self) -> None:
        """Stops all jobs."""
        for job in self._jobs:
            job.stop()

    def wait(self) -> None:
        """Stops all jobs and waits for their threads; for the end of the program."""
        self.cancel()
        self._worker.wait()

    def _on_progress(self, _: Job, share: float) -> None:
        # It would be painted at once, and all else of the window that waits for its turn with it.
        self._bar.setUpdatesEnabled(False)
        self._bar.setValue(round(share * STEPS))
        self._bar.setUpdatesEnabled(True)

    def _on_done(self, job: Job, result: object) -> None:
        self._take_soon(lambda: self._jobs[job][0](result))

    def _on_failed(self, _: Job, error: object) -> None:
        self._take_soon(lambda: self.failed.emit(error))

    def _on_over(self, job: Job) -> None:
        self._take_soon(lambda: self._end(job))

    def _take_soon(self, take: Callable[[], object]) -> None:
        self._come.append(take)
        self._look.start(0)

    def _take_come(self) -> None:
        """What came of one job, and of the next between other events."""
        if QApplication.activeModalWidget() is not None:
            self._look.start(ANSWERED_MS)
            return
        take = self._come.popleft()
        if self._come:
            self._look.start(0)
        take()

    def _end(self, job: Job) -> None:
        _, over = self._jobs.pop(job)
        if self._jobs:
            self._label.setText(next(iter(self._jobs)).label)
        else:
            self._shower.stop()
            self.hide()
            self.idle.emit()
        if over is not None:
            over()
