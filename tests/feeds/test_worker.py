"""Nothing is lost or changes places, whatever the other side does and whenever Pivet ends."""

from collections.abc import Sequence
from contextlib import closing
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from pivet.feeds.outbox import Outbox, Sent
from pivet.feeds.setup import FeedSetup
from pivet.feeds.state import State
from pivet.feeds.trouble import FeedTrouble
from pivet.feeds.worker import FeedWorker
from pivet.files.benchfile.feeds import Change, add_outgoing, feed_rows, last_outgoing, put_feed
from pivet.frozen import replace
from pivet.person.annotations import Labels
from tests.feeds.benches import FeedTest

URL = "mqtt://127.0.0.1:1"


class Moody:
    """Another side that takes some rows, or none, as it likes.

    Attributes:
        moods: how many rows it takes of each sending; below 0 it fails after so many.
        taken: every row that it took.
    """

    at_once = 7
    most_wait_s = 0.001

    def __init__(self, moods: Sequence[int]) -> None:
        self.moods, self.taken, self.open_now = list(moods), list[Sent](), False
        self.looks, self.known = 0, list[Sent]()

    def open(self) -> None:
        self.open_now = True

    def know(self, rows: Sequence[Sent]) -> None:
        self.known = list(rows)

    def send(self, rows: Sequence[Sent]) -> int:
        mood = self.moods.pop(0) if self.moods else len(rows)
        if mood >= 0:
            count = max(min(mood, len(rows)), 1)
            self.taken += rows[:count]
            return count
        count = min(-mood - 1, len(rows))
        # What was under way may have arrived although nobody knows.
        self.taken += rows[: count + 2]
        trouble = FeedTrouble("the line broke", wait_s=0.0)
        trouble.arrived = count
        raise trouble

    def look(self) -> None:
        self.looks += 1

    def test(self, row: Sent) -> str:
        return "taken"

    def close(self) -> None:
        self.open_now = False


class Workers(FeedTest):
    """A feed's thread against every kind of other side."""

    def worker(self, sender: Moody, **more: object) -> FeedWorker:
        row = feed_rows(self.bench)[0]
        setup = FeedSetup(url=URL, **more)  # type: ignore[arg-type]
        return FeedWorker(self.bench, row, setup, sender, Outbox(self.bench, Labels))

    def numbers(self, sender: Moody) -> list[int]:
        """What arrived, each once."""
        return list(dict.fromkeys(row.row.exchange for row in sender.taken))

    @given(
        st.lists(st.integers(-6, 9), max_size=12),
        st.lists(st.integers(1, 25), min_size=1, max_size=4),
        st.sets(st.integers(0, 3)),
    )
    def test_everything_in_order(
        self, moods: list[int], portions: list[int], ends: set[int]
    ) -> None:
        """At least once, however often the line breaks and the program ends in the middle."""
        self.doCleanups()
        self.setUp()
        self.add(URL)
        sender = Moody(moods)
        for number, portion in enumerate(portions):
            worker = self.worker(sender)
            worker.start()
            self.hear(portion)
            worker.wake()
            worker.stop(0.0 if number in ends else 5.0)
            self.assertFalse(sender.open_now)
        worker = self.worker(sender)
        worker.start()
        worker.stop(5.0)
        self.assertEqual([*range(self.count)], self.numbers(sender))
        self.assertEqual(State.IDLE, worker.state.state)
        row = feed_rows(self.bench)[0]
        self.assertEqual((last_outgoing(self.bench), ""), (row.done, row.trouble))
        self.assertGreaterEqual(row.sent, 0)

    def test_a_killed_program_sends_from_the_last_note(self) -> None:
        """What the bench does not know to have arrived comes again, and nothing else."""
        self.hear(30)
        self.feeds.add("out", FeedSetup(url=URL), all_held=True)
        first = Moody([4, 4])
        killed = self.worker(first)
        for _ in range(2):
            killed._turn()
        noted = feed_rows(self.bench)[0].done - 30
        self.assertTrue(0 < noted <= 7)
        again = Moody([])
        worker = self.worker(again)
        worker.start()
        worker.stop(5.0)
        self.assertEqual([*range(7)], self.numbers(first))
        self.assertEqual([*range(noted, 30)], self.numbers(again))

    def test_only_the_newest(self) -> None:
        """Where that is wanted, the others are passed over."""
        self.add(URL)
        self.hear(500)
        sender = Moody([])
        worker = self.worker(sender, newest=True)
        worker.start()
        worker.stop(5.0)
        self.assertEqual([499], self.numbers(sender))
        self.assertEqual(0, worker.state.waiting)

    def test_the_newest_when_the_pace_is_over(self) -> None:
        """Not what was the newest when the wait began."""
        self.add(URL)
        sender = Moody([])
        worker = self.worker(sender, newest=True, every_s=30.0)
        self.hear(5)
        worker._turn()
        self.hear(5)
        self.assertGreater(worker._turn(), 0.0)
        self.hear(5)
        worker._tried_ns = 0
        worker._turn()
        self.assertEqual([4, 14], self.numbers(sender))

    def test_other_wires_are_not_sent(self) -> None:
        """They are done with all the same."""
        self.add(URL)
        self.hear(20)
        sender = Moody([])
        worker = self.worker(sender, wires=("vat",))
        worker.start()
        worker.stop(5.0)
        self.assertEqual([], sender.taken)
        self.assertEqual(20, feed_rows(self.bench)[0].done)

    def test_left_alone(self) -> None:
        """Who rings does not hurry a service that wants to be left alone."""
        self.add(URL)
        self.hear(3)
        sender = Moody([])
        sender.most_wait_s = 60.0
        sender.moods = [-1] * 100
        tried: list[int] = []
        send = sender.send

        def late(rows: Sequence[Sent]) -> int:
            tried.append(len(rows))
            try:
                return send(rows)
            except FeedTrouble as trouble:
                trouble.wait_s = 30.0
                raise

        sender.send = late  # type: ignore[method-assign]
        worker = self.worker(sender)
        worker.start()
        self.wait_for(lambda: worker.state.state is State.FAILING, "it fails")
        for _ in range(5):
            worker.wake()
        self.assertEqual((3, "the line broke."), (worker.state.waiting, worker.state.trouble))
        self.assertAlmostEqual(30.0, worker.state.again_s)
        worker.stop(0.0)
        self.assertEqual(1, len(tried))
        self.assertEqual("the line broke.", feed_rows(self.bench)[0].trouble)

    def test_told_once(self) -> None:
        """That it fails, that it works again, that it has caught up; no single reading."""
        self.add(URL)
        sender = Moody([])
        told: list[tuple[str, str]] = []
        row = feed_rows(self.bench)[0]
        worker = FeedWorker(
            *(self.bench, row, FeedSetup(url=URL), sender, Outbox(self.bench, Labels)),
            lambda state: told.append((str(state.state), state.trouble)),
        )
        for _ in range(3):
            self.hear(5)
            while worker._turn() == 0.0:
                pass
        self.assertEqual([], told)
        sender.moods = [-1, -1, -1]
        self.hear(5)
        for _ in range(12):
            worker._turn()
        failing = ("cannot send", "the line broke.")
        self.assertEqual([failing, ("sending", ""), ("all sent", "")], told)

    def test_trouble_that_is_over(self) -> None:
        """The bench says so, also where nothing was to be sent; nothing is written twice."""
        self.add(URL)
        row = feed_rows(self.bench)[0]
        with self.bench.writing():
            put_feed(self.bench, replace(row, trouble="the line broke."))
        worker = self.worker(Moody([]))
        worker._turn()
        self.assertEqual("", feed_rows(self.bench)[0].trouble)
        with mock.patch.object(worker, "_note") as noted:
            worker._turn()
        noted.assert_called_once_with()

    def test_revised_and_taken_back(self) -> None:
        """Corrections carry that they are; what is gone is said of each quantity."""
        self.add(URL)
        self.hear(2)
        with self.bench.writing():
            self.bench.forget_exchanges(self.wire.id, [1])
            add_outgoing(self.bench, [(self.wire.id, 1, Change.WITHDRAWN)])
            add_outgoing(self.bench, [(self.wire.id, 0, Change.REVISED)])
        sender = Moody([])
        worker = self.worker(sender)
        worker.start()
        worker.stop(5.0)
        changes = [(row.row.exchange, row.change) for row in sender.taken]
        wanted = [(0, Change.NEW), (1, Change.WITHDRAWN), (0, Change.REVISED)]
        self.assertEqual(wanted, changes)
        gone = sender.taken[1].row
        self.assertEqual("taken back: it was no exchange after all", gone.reason)
        self.assertEqual(["humidity", "temperature"], [cell.quantity for cell in gone.cells])
        self.assertEqual({None}, {cell.value for cell in gone.cells})

    def test_what_was_there_before(self) -> None:
        """The last rows of each wire are known before anything is sent."""
        self.hear(100)
        self.add(URL)
        sender = Moody([])
        worker = self.worker(sender)
        worker._turn()
        self.assertEqual([*range(36, 100)], [row.row.exchange for row in sender.known])
        self.assertEqual([], sender.taken)

    def test_many_wait(self) -> None:
        """They are not counted one by one."""
        self.add(URL)
        self.hear(30)
        with mock.patch("pivet.files.benchfile.feeds.COUNTED", 10):
            self.assertEqual(30, self.feeds.states()[0].waiting)

    def test_tidy(self) -> None:
        """What all feeds are done with goes; the last row stays, so that no number comes again."""
        self.add(URL)
        self.hear(40)
        worker = self.worker(Moody([]))
        worker.start()
        worker.stop(5.0)
        self.assertEqual([(40,)], self.bench.rows("SELECT seq FROM outgoing"))
        self.hear(1)
        self.assertEqual(41, last_outgoing(self.bench))

    def test_bench_that_went_away(self) -> None:
        """A mistake in the bench is a trouble of the feed, not its end."""
        self.add(URL)
        self.hear(1)
        worker = self.worker(Moody([]))
        with closing(self.bench):
            pass
        self.assertGreater(worker._turn(), 0.0)
        self.assertEqual(State.FAILING, worker.state.state)
