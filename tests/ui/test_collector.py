"""Garbage goes in the window's thread, whoever made it."""

import gc
import threading
import weakref

from pivet.ui.work.collector import THRESHOLDS, Collector
from tests.ui.base import WindowTest


class Ring:
    """Holds itself."""

    def __init__(self, gone: list[bool]) -> None:
        self.self = self
        self.end = weakref.finalize(
            self, lambda: gone.append(threading.current_thread() is threading.main_thread())
        )


class Collecting(WindowTest):
    """While a collector is there."""

    def setUp(self) -> None:
        super().setUp()
        self.collector = Collector(self.window)
        self.addCleanup(self.collector.end)

    def test_only_in_the_window_s_thread(self) -> None:
        """A thread that makes garbage collects none; the window does, before long."""
        gone: list[bool] = []
        kept: list[list[int]] = []

        def work() -> None:
            for _ in range(20):
                Ring(gone)
            kept.extend([at] for at in range(3 * THRESHOLDS[0]))

        thread = threading.Thread(target=work)
        thread.start()
        thread.join()
        self.assertEqual([], gone)
        self.wait_for(lambda: len(gone) == 20, "it is collected")
        self.assertTrue(all(gone))

    def test_as_old_as_it_must_be(self) -> None:
        """What has grown is looked through, the older the rarer; nothing where nothing grew."""
        gc.collect()
        self.assertEqual(0, self.collector.look())
        gone: list[bool] = []
        Ring(gone)
        for _ in range(THRESHOLDS[2] + 2):
            for _ in range(THRESHOLDS[1] + 2):
                kept = [[at] for at in range(THRESHOLDS[0] + 50)]
                self.collector.look()
                del kept
        self.assertEqual([True], gone)
        self.assertLessEqual(gc.get_count()[1], THRESHOLDS[1] + 1)
        self.assertLessEqual(gc.get_count()[2], THRESHOLDS[2] + 1)

    def test_the_end(self) -> None:
        """Python goes on as before."""
        self.assertFalse(gc.isenabled())
        self.collector.end()
        self.assertTrue(gc.isenabled())
        self.assertEqual(0, gc.get_freeze_count())
