"""Work beside the window: of each kind only the newest counts, and errors are told."""

import sys
import threading
import time
import traceback
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from unittest import mock

from PySide6.QtCore import QEventLoop, QObject, QThread, QTimer
from shiboken6 import delete

from pivet.errors import InputError
from pivet.files.benchfile.store import BenchFile
from pivet.progress import Progress
from pivet.ui.live.session import LiveSession
from pivet.ui.work.background import Background
from pivet.ui.work.baton import LONGEST_S, LOOK_S, Baton
from pivet.ui.work.jobs import Job, JobBar, JobSignals
from pivet.ui.work.turns import Turns
from pivet.ui.work.way import BUSY_S, MOST_S, NAP_S, WAY, Way
from tests.base import PivetTest
from tests.patience import PATIENCE_S
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
        self.background.ask(kind, lambda _: self.gate.wait(PATIENCE_S) and result, self.take, now)

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
        self.background.ask("a", lambda _: "at once", self.take, now=True)
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
        self.assertEqual(["new: wait.", "other: wait."], [str(row) for row in told])
        self.assertEqual([], self.came)

    def test_mistakes_are_told_as_such(self) -> None:
        """What is no sentence for people goes where all mistakes go, with its traceback."""
        told: list[BaseException] = []
        with mock.patch.object(sys, "excepthook", lambda *error: told.append(error[1])):
            self.background.ask("a", lambda _: [][0], self.take)
            self.rest()
        (error,) = told
        self.assertIsInstance(error, IndexError)
        self.assertIn("test_background", "".join(traceback.format_exception(error)))

    def test_stops_when_unwanted(self) -> None:
        """What runs when something newer is asked ends at its next progress."""
        begun, ended = threading.Event(), list[str]()

        def endless(progress: Progress) -> str:
            begun.set()
            try:
                while True:
                    progress(0.5)
            finally:
                ended.append("endless")

        self.background.ask("a", endless, self.take)
        begun.wait(PATIENCE_S)
        self.ask("a", "new")
        self.rest()
        self.assertEqual((["endless"], [("new", True)]), (ended, self.came))

    def fails(self, error: str, *_: object) -> str:
        """Waits, then ends with an error."""
        self.gate.wait(PATIENCE_S)
        raise InputError(error, "wait")

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


@contextmanager
def made_time() -> Iterator[list[float]]:
    """A clock that only naps move, and who holds it."""
    now = [1.0]
    clock = mock.Mock(monotonic=lambda: now[0])
    clock.sleep = lambda seconds: now.__setitem__(0, now[0] + seconds)
    with mock.patch("pivet.ui.work.way.time", clock):
        yield now


class WindowFirst(WindowTest):
    """What works beside waits while the window works, and never for long."""

    def naps(self, through: int = 0, stopped: bool = False, way: Way = WAY) -> int:
        """How often another thread naps while the window works, which it does for ever, or is
        through with after so many; by a clock that only naps move.
        """
        now, count = [time.monotonic()], [0]
        there, is_through = threading.Event(), threading.Event()

        def nap(seconds: float) -> None:
            now[0] += seconds
            count[0] += 1
            if count[0] == through:
                there.set()
                is_through.wait(PATIENCE_S)

        clock = mock.Mock(monotonic=lambda: now[0], sleep=nap)
        with mock.patch("pivet.ui.work.way.time", clock):
            self.app.processEvents()
            now[0] += 2 * BUSY_S
            thread = threading.Thread(target=way.give, args=(lambda: stopped,))
            thread.start()
            if through:
                there.wait(PATIENCE_S)
                self.app.processEvents()
                is_through.set()
            thread.join()
        return count[0]

    def test_waits(self) -> None:
        """Until the window is through, until it has waited long enough, until it is stopped."""
        self.assertAlmostEqual(MOST_S / NAP_S, self.naps(), delta=1)
        self.assertEqual(3, self.naps(through=3))
        self.assertEqual(0, self.naps(stopped=True))
        self.assertEqual(0, self.naps(way=Way()))

    def test_goes_on(self) -> None:
        """What works 3 ms waits 30 for a window that is busy all the time, and 150 at most."""
        with made_time() as now:
            way = Way()
            way._begin()
            for works_s, waits_s in ((1.0, 0.15), (0.003, 0.03), (0.02, 0.15), (0.001, 0.01)):
                now[0] += works_s
                before = now[0]
                way.give()
                self.assertAlmostEqual(waits_s, now[0] - before, delta=0.0021)

    def test_who_waits(self) -> None:
        """Jobs at their progress, and work of the background."""
        given: list[str] = []
        with mock.patch.object(WAY, "give", lambda *_: given.append("")):
            self.window.jobs.start("a", lambda progress: progress(0.5), lambda _: None)
            self.finish_jobs()
            self.assertEqual(2, len(given))
            beside = Background(self.window)
            beside.ask("a", lambda progress: progress(0.5), lambda _: None)
            self.wait_for(lambda: not beside.busy, "the work is done")
            self.assertEqual(4, len(given))

    def test_rests(self) -> None:
        """A loop that waits for events is no work: nobody waits for it."""
        loop = QEventLoop()
        QTimer.singleShot(400, loop.quit)
        clock = mock.Mock(monotonic=time.monotonic)
        with mock.patch("pivet.ui.work.way.time", clock):
            thread = threading.Timer(0.2, WAY.give)
            thread.start()
            loop.exec()
            thread.join()
        clock.sleep.assert_not_called()


class OneAtATime(PivetTest):
    """Of several that work beside the window."""

    def setUp(self) -> None:
        super().setUp()
        self.baton = Baton()
        self.done: list[str] = []
        self.threads: list[threading.Thread] = []
        for name, value in (("LONGEST_S", 10 * PATIENCE_S), ("SLICE_S", 0.0)):
            self.enterContext(mock.patch(f"pivet.ui.work.baton.{name}", value))

    def begin(self, work: Callable[[], object]) -> threading.Thread:
        """Has a thread work that takes the baton, works, and lays it down; it waits by now."""

        def run() -> None:
            self.baton.take(lambda: False)
            work()
            self.baton.lay_down()

        before = len(self.baton._queue)
        thread = threading.Thread(target=run)
        thread.start()
        until = time.monotonic() + PATIENCE_S
        while len(self.baton._queue) == before and time.monotonic() < until:
            time.sleep(0.001)
        return thread

    def hold(self) -> None:
        """This thread has it."""
        self.baton.take(lambda: False)

    def test_in_their_order(self) -> None:
        """Who asked first works first, then the next; who gives it away comes after them."""
        self.hold()
        threads = [self.begin(partial(self.done.append, name)) for name in "abc"]
        self.assertEqual([], self.done)
        self.hold()
        self.assertEqual(["a", "b", "c"], self.done)
        for thread in threads:
            thread.join()

    def test_never_two(self) -> None:
        """Whoever works between two takings works alone, and all come to their end."""
        working = [0]
        seen: list[int] = []

        def work() -> None:
            for _ in range(30):
                working[0] += 1
                time.sleep(0.0005)
                seen.append(working[0])
                working[0] -= 1
                self.baton.take(lambda: False)

        self.hold()
        threads = [self.begin(work) for _ in range(3)]
        self.baton.lay_down()
        for thread in threads:
            thread.join(PATIENCE_S)
        self.assertEqual([1] * 90, seen)

    def test_in_slices(self) -> None:
        """It is not passed on at every word, but as soon as nobody holds it."""
        with mock.patch("pivet.ui.work.baton.SLICE_S", PATIENCE_S):
            self.hold()
            thread = self.begin(partial(self.done.append, "a"))
            self.hold()
            self.assertEqual([], self.done)
            self.baton.lay_down()
            thread.join()
        self.assertEqual(["a"], self.done)

    def test_held_too_long(self) -> None:
        """Who waits for something without a word loses it, unless it waits for the window."""
        now = [1.0]
        clock = mock.Mock(monotonic=lambda: now[0])
        with (
            mock.patch("pivet.ui.work.baton.time", clock),
            mock.patch("pivet.ui.work.baton.LONGEST_S", LONGEST_S),
        ):
            self.hold()
            thread = self.begin(partial(self.done.append, "a"))
            now[0] += 0.06
            self.baton.keep()
            now[0] += 0.099
            thread.join(3 * LOOK_S)
            self.assertEqual([], self.done)
            now[0] += 0.002
            thread.join(PATIENCE_S)
            self.assertEqual(["a"], self.done)

    def test_lost(self) -> None:
        """Who lost it neither keeps it nor lays down what another holds."""
        there, through = threading.Event(), threading.Event()

        def take() -> None:
            self.hold()
            there.set()
            through.wait(PATIENCE_S)

        thread = threading.Thread(target=take)
        with mock.patch("pivet.ui.work.baton.LONGEST_S", 0.0):
            self.hold()
            thread.start()
            there.wait(PATIENCE_S)
        since = self.baton._since
        self.baton.keep()
        self.baton.lay_down()
        self.assertEqual((thread.ident, since), (self.baton._holder, self.baton._since))
        through.set()
        thread.join()

    def test_stopped(self) -> None:
        """Who is to stop waits no more, and takes it from nobody."""
        self.hold()
        thread = threading.Thread(target=self.baton.take, args=(lambda: True,))
        thread.start()
        thread.join(PATIENCE_S)
        self.assertFalse(thread.is_alive())
        self.assertEqual((threading.get_ident(), 0), (self.baton._holder, len(self.baton._queue)))

    def test_at_the_end(self) -> None:
        """A job that has ended holds it no more, and whoever says that it rests."""
        held: list[int | None] = []
        job = Job("a", lambda _: held.append(WAY._baton._holder), JobSignals())
        for work in (job.run, WAY.give, WAY.rest):
            work()
            held.append(WAY._baton._holder)
        me = threading.get_ident()
        self.assertEqual([me, None, me, None], held)


class Turn(WindowTest):
    """What waits in the window's thread."""

    def test_one_between_two_events(self) -> None:
        """In order; what is asked for twice is done once, as is what asks for itself again."""
        done: list[str] = []
        queue = Turns(self.window)
        parts = [QObject(self.window) for _ in range(3)]
        again = [partial(queue.add, parts[0], done.append, "more")]

        def first() -> None:
            done.append("first")
            again.pop()()

        queue.add(parts[0], first)
        for name in ("b", "c", "b"):
            queue.add(parts[1], done.append, name)
        queue.add(parts[2], done.append, "of nobody")
        delete(parts[2])
        self.assertEqual([], done)
        rows = []
        while queue.busy:
            self.app.processEvents()
            rows.append(len(done))
        self.assertEqual(["first", "b", "c", "more"], done)
        self.assertEqual([1, 2, 3, 3, 4], rows)
        self.assertFalse(queue._timer.isActive(), "it would turn in a circle")

    def test_behind_all(self) -> None:
        """What is asked for anew as the last of all is done once, and last."""
        done: list[str] = []
        queue = Turns(self.window)
        for name in ("a", "b"):
            queue.add(self.window, done.append, name)
        queue.add_last(self.window, done.append, "a")
        queue.add_last(self.window, done.append, "c")
        self.wait_for(lambda: not queue.busy, "all had their turn")
        self.assertEqual(["b", "a", "c"], done)

    def test_a_mistake(self) -> None:
        """It is told, and the others have their turn all the same."""
        done: list[int] = []
        told: list[type] = []
        sys.excepthook = lambda kind, *_: told.append(kind)
        queue = Turns(self.window)
        queue.add(self.window, divmod, 1, 0)
        queue.add(self.window, done.append, 1)
        self.wait_for(lambda: not queue.busy, "all had their turn")
        self.assertEqual(([ZeroDivisionError], [1]), (told, done))

    def test_what_comes_of_jobs(self) -> None:
        """Results that come together are taken one after the other, with events in between."""
        jobs, done = JobBar(self.window), list[int]()
        self.addCleanup(jobs.wait)
        gate = threading.Event()
        for number in range(3):
            jobs.start("wait", lambda _, n=number: gate.wait(PATIENCE_S) and n, done.append)
        gate.set()
        jobs._worker.wait()
        most, before = 0, 0
        while jobs.busy:
            self.app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents)
            most, before = max(most, len(done) - before), len(done)
        self.assertEqual(([0, 1, 2], 1), (done, most))


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
        background.ask("a", lambda _: gate.wait(PATIENCE_S), came.append)
        background.ask("b", partial(self.fails, gate), came.append)
        thread = live.listen("line:/nowhere", BenchFile.create(self.folder / "b.pivet"))
        gate.set()
        for one in (bar, background):
            one._worker.wait()
        thread.wait()
        for gone in (bar, background, live):
            delete(gone)
        self.settle()
        self.assertEqual([], came)

    def fails(self, gate: threading.Event, *_: object) -> None:
        """Ends with an error as soon as the gate is open."""
        gate.wait(PATIENCE_S)
        raise ValueError
