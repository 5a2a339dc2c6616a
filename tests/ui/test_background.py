"""Work beside the window: of each kind only the newest counts, and errors are told."""

import threading
from functools import partial

from PySide6.QtCore import QThread, QThreadPool
from shiboken6 import delete

from pivet.files.benchfile.store import BenchFile
from pivet.ui.live.session import LiveSession
from pivet.ui.work.background import Background
from pivet.ui.work.jobs import JobBar
from tests.ui.base import WindowTest


class InOtherThread(WindowTest):
    """What is asked, and what comes back."""

    def setUp(self) -> None:
        super().setUp()
        self.background = Background(self.window)
        self.addCleanup(self.background.wait)
        self.gate = threading.Event()
        self.addCleanup(self.gate.set)
        self.came: list[tuple[str, bool]] = []

    def take(self, result: str) -> None:
        """Notes a result, and whether it came in the window's thread."""
        self.came.append((result, QThread.currentThread() is self.window.thread()))

    def ask(self, kind: str, result: str, now: bool = False) -> None:
        """Asks for something that waits until the gate is open."""
        self.background.ask(kind, lambda: self.gate.wait(5) and result, self.take, now)

    def rest(self) -> None:
        """Opens the gate and waits until nothing is to come."""
        self.gate.set()
        self.wait_for(lambda: not self.background.busy, "the work is done")

    def test_the_newest_of_a_kind(self) -> None:
        """What was asked before comes to nothing; other kinds come in their order."""
        for kind, result in (("a", "a1"), ("b", "b1"), ("a", "a2"), ("b", "b2"), ("c", "c1")):
            self.ask(kind, result)
        self.assertEqual([], self.came)
        self.rest()
        self.assertEqual([("a2", True), ("b2", True), ("c1", True)], self.came)

    def test_little_is_done_at_once(self) -> None:
        """And takes the place of what was asked before it."""
        self.ask("a", "slow")
        self.background.ask("a", lambda: "at once", self.take, now=True)
        self.assertEqual([("at once", True)], self.came)
        self.rest()
        self.settle()
        self.assertEqual(1, len(self.came))

    def test_forgotten(self) -> None:
        """Nobody waits for it any more."""
        self.ask("a", "late")
        self.background.forget("a")
        self.background.forget("never asked")
        self.assertFalse(self.background.busy)
        self.rest()
        self.settle()
        self.assertEqual([], self.came)

    def test_all_forgotten(self) -> None:
        """Whatever kind, errors too; what is asked afterwards comes."""
        told: list[object] = []
        self.background.failed.connect(told.append)
        self.ask("a", "late")
        self.background.ask("b", partial(self.fails, "late"), self.take)
        self.background.forget_all()
        self.ask("a", "new")
        self.rest()
        self.settle()
        self.assertEqual(([("new", True)], []), (self.came, told))

    def test_errors_are_told(self) -> None:
        """Unless nobody waits for it any more."""
        told: list[object] = []
        self.background.failed.connect(told.append)
        for kind, error in (("a", "old"), ("a", "new"), ("b", "other")):
            self.background.ask(kind, partial(self.fails, error), self.take)
        self.rest()
        self.settle()
        self.assertEqual(["new", "other"], [str(row) for row in told])
        self.assertEqual([], self.came)

    def fails(self, error: str) -> str:
        """Waits, then ends with an error."""
        self.gate.wait(5)
        raise ValueError(error)

    def test_after_the_end(self) -> None:
        """The thread is over, and nothing is begun any more."""
        self.ask("a", "late")
        self.gate.set()
        self.background.wait()
        self.ask("b", "too late")
        self.ask("b", "too late", now=True)
        self.settle()
        self.assertFalse(self.background.busy)
        self.assertEqual([], self.came)


class Gone(WindowTest):
    """What is still on its way to somebody who is gone comes to nothing, and is no mistake."""

    def test_news_on_its_way(self) -> None:
        """Results, errors and ends of jobs, and what a listening thread tells."""
        bar, background = JobBar(), Background()
        live = LiveSession(self.window.session, dict)
        came: list[object] = []
        gate = threading.Event()
        bar.start("fails", partial(self.fails, gate), came.append)
        bar.start(
            "works", lambda progress: progress(0.5), came.append, partial(came.append, "over")
        )
        background.ask("a", lambda: gate.wait(5), came.append)
        background.ask("b", partial(self.fails, gate), came.append)
        thread = live.listen("line:/nowhere", BenchFile.create(self.folder / "b.pivet"))
        gate.set()
        for one in (bar, background):
            pool = one.findChild(QThreadPool)
            assert isinstance(pool, QThreadPool)
            pool.waitForDone()
        thread.wait()
        for gone in (bar, background, live):
            delete(gone)
        self.settle()
        self.assertEqual([], came)

    def fails(self, gate: threading.Event, *_: object) -> None:
        """Ends with an error as soon as the gate is open."""
        gate.wait(5)
        raise ValueError
