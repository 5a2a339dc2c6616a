"""Garbage goes in the window's thread, whoever made it."""

import gc
import threading
import weakref
from unittest import mock

from PySide6.QtCore import QTimer

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

    def test_all_objects_are_looked_through_now_and_then(self) -> None:
        """What takes a tenth of a second is done again after twenty."""
        ages: list[int] = []
        with (
            mock.patch("pivet.ui.work.collector.time") as clock,
            mock.patch("pivet.ui.work.collector.gc") as collector,
        ):
            collector.get_count.return_value = (800, 11, 11)
            collector.collect.side_effect = ages.append
            clock.monotonic.side_effect = [100.0, 100.1, 119.9, 120.1, 120.2, 120.3]
            for _ in range(4):
                self.collector.look()
            collector.get_count.return_value = (800, 1, 11)
            clock.monotonic.side_effect = [999.0, 999.0]
            self.collector.look()
            for counts in ((700, 10, 10), (701, 10, 10), (0, 11, 0)):
                collector.get_count.return_value = counts
                clock.monotonic.side_effect = [1000.0]
                self.collector.look()
        self.assertEqual([2, 1, 2, 1, 2, 0, 1], ages)

    def test_the_end(self) -> None:
        """Python goes on as before."""
        self.assertFalse(gc.isenabled())
        timer = self.collector.findChild(QTimer)
        assert isinstance(timer, QTimer)
        self.collector.end()
        self.assertFalse(timer.isActive())
        self.assertTrue(gc.isenabled())
        self.assertEqual(0, gc.get_freeze_count())
