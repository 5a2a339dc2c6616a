"""Benches with exchanges to send, and waiting for what threads do."""

import time
from collections.abc import Callable

from pivet.feeds.feeds import Feeds
from pivet.feeds.setup import FeedSetup
from pivet.files.benchfile.feeds import Change, add_outgoing, last_outgoing
from pivet.files.benchfile.rows import ExchangeRow
from pivet.files.benchfile.store import BenchFile
from tests.base import PivetTest
from tests.patience import PATIENCE_S

BEGAN_NS = 1_772_917_200 * 10**9


class FeedTest(PivetTest):
    """Has a bench with one wire, and its feeds."""

    def setUp(self) -> None:
        super().setUp()
        self.bench = BenchFile.create(self.folder / "cave.pivet")
        self.addCleanup(self.bench.close)
        self.feeds = Feeds(self.bench)
        self.addCleanup(self.feeds.stop)
        with self.bench.writing():
            capture = self.bench.add_capture("cave", "made up", BEGAN_NS, 1000)
            self.wire = self.bench.add_wire(
                capture.id, "shelf_A", '["shelf_A"]', "humidity-frame", "dht22", "{}"
            )
        self.count = 0

    def hear(self, count: int, change: Change = Change.NEW) -> None:
        """Exchanges are recorded, two seconds apart; every tenth gives no reading."""
        rows = range(self.count, self.count + count)
        with self.bench.writing():
            self.bench.put_exchanges(
                self.wire.id,
                (
                    ExchangeRow(
                        row, row * 2 * 10**9, 5 * 10**6, 3 if row % 10 == 9 else 0, 0, 1, None, None
                    )
                    for row in rows
                ),
            )
            for quantity, unit, low in (("humidity", "%RH", 90.0), ("temperature", "°C", 11.0)):
                track = self.bench.track(self.wire.id, quantity, unit, "")
                self.bench.put_readings(
                    track, [(row, None if row % 10 == 9 else low + row % 7 / 10) for row in rows]
                )
            add_outgoing(self.bench, ((self.wire.id, row, change) for row in rows))
        self.count += count

    def add(self, url: str, **more: object) -> FeedSetup:
        """A feed of the name ``out``."""
        return self.feeds.add("out", FeedSetup(url=url, **more))  # type: ignore[arg-type]

    def all_sent(self) -> None:
        """Waits until nothing waits any more."""
        self.feeds.wake()
        # What a state said before the last exchange was heard counts for nothing.
        last, workers = last_outgoing(self.bench), list(self.feeds._workers.values())
        self.wait_for(lambda: all(one._done >= last for one in workers), "everything is sent")
        self.wait_for(lambda: self.feeds.states()[0].state == "all sent", "everything is sent")

    def wait_for(self, condition: Callable[[], bool], what: str) -> None:
        """Waits for what a thread does."""
        until = time.monotonic() + PATIENCE_S
        while not condition():
            if time.monotonic() > until:
                self.fail(f"waited in vain: {what}; {self.feeds.states()}")
            time.sleep(0.01)
