"""The feeds of an open bench: added, paused, removed; each sends in a thread of its own."""

import threading
import time
from collections.abc import Callable, Collection

from pivet.errors import InputError
from pivet.feeds.allowed import allow, is_allowed
from pivet.feeds.outbox import Outbox, Sent
from pivet.feeds.registry import check_templates, make_sender
from pivet.feeds.secret import forget_secret
from pivet.feeds.setup import FeedSetup, checked_name, new_setup, read_setup
from pivet.feeds.state import FeedState, State
from pivet.feeds.worker import FeedWorker
from pivet.files.benchfile.feeds import (
    Change,
    FeedRow,
    add_all_held,
    feed_rows,
    forget_feed,
    last_outgoing,
    last_rows,
    note_try,
    outgoing_rows,
    pause_feed,
    put_feed,
    waiting,
)
from pivet.files.benchfile.reading import BenchReader
from pivet.files.benchfile.store import BenchFile
from pivet.files.readings_table import Cell, TableRow
from pivet.frozen import replace
from pivet.history.times import iso_time, utc_time
from pivet.person.annotations import Labels, read_annotations
from pivet.person.roles import NO_ROLES, Roles
from pivet.person.stored import read_roles

LABELS_S = 2.0
"""Roles and corrections of a bench are read again after so long."""

Told = Callable[[FeedState], None]


def _nobody(_: FeedState) -> None:
    """Nobody wants to know any more."""


class Feeds:
    """The feeds of a bench.

    Args:
        bench: the open bench file.
        roles: this person's names of devices; those of a bench come first.
        told: called, by the feeds' threads, when the state of one is another.
    """

    def __init__(self, bench: BenchFile, roles: Roles = NO_ROLES, told: Told = _nobody) -> None:
        self._bench, self._roles, self._told = bench, roles, told
        self._workers: dict[str, FeedWorker] = {}
        self._left = False
        self._labels = Labels()
        self._labels_at = 0.0
        self._lock = threading.Lock()

    # What there is.

    def rows(self) -> list[FeedRow]:
        """All feeds, as the bench has them.

        Raises:
            InputError: they cannot be read.
        """
        return feed_rows(self._bench)

    def wires(self) -> list[str]:
        """Names of the wires of the bench, each once.

        Raises:
            InputError: they cannot be read.
        """
        return list(dict.fromkeys(row.name for row in self._bench.wires()))

    def row(self, name: str) -> FeedRow:
        """One feed.

        Args:
            name: of the feed.

        Raises:
            InputError: there is none of that name.
        """
        return find_feed(self._bench, name)

    def setup(self, name: str) -> FeedSetup:
        """What a feed is.

        Args:
            name: of the feed.

        Raises:
            InputError: there is none of that name, or it makes no sense here.
        """
        return setup_of(self.row(name))

    def states(self) -> list[FeedState]:
        """How all feeds are doing.

        Raises:
            InputError: the bench cannot be read.
        """
        return [self._state(row) for row in self.rows()]

    def _state(self, row: FeedRow) -> FeedState:
        worker = self._workers.get(row.name)
        if worker is not None:
            return worker.state
        return state_of(self._bench, row)

    # What a person does.

    def add(self, name: str, setup: FeedSetup, all_held: bool = False) -> FeedSetup:
        """A new feed; it sends what is heard from now on.

        Args:
            name: given by the person.
            setup: what it is.
            all_held: it also sends what the bench holds already.

        Raises:
            InputError: name or setup make no sense, or there is one of that name.
            OutputError: the bench cannot be written.
        """
        made = new_setup(setup)
        check_templates(made)
        if any(row.name == checked_name(name) for row in self.rows()):
            raise InputError(f"there is a feed {name!r} already", "take another name")
        with self._bench.writing():
            put_feed(self._bench, FeedRow(name, made.text(), done=last_outgoing(self._bench)))
            if all_held:
                add_all_held(self._bench, name)
        allow(made)
        return made

    def remove(self, name: str) -> None:
        """A feed goes; what it has not sent it never will.

        Args:
            name: of the feed.

        Raises:
            InputError: there is none of that name.
            OutputError: the bench cannot be written.
        """
        row = self.row(name)
        self.stop_one(name)
        with self._bench.writing():
            forget_feed(self._bench, name)
        setup = read_setup(row.setup)
        if setup is not None:
            forget_secret(setup)

    def pause(self, name: str) -> None:
        """A feed sends nothing for a while; what is heard waits in the bench.

        Args:
            name: of the feed.

        Raises:
            InputError: there is none of that name.
            OutputError: the bench cannot be written.
        """
        self.row(name)
        self.stop_one(name)
        with self._bench.writing():
            pause_feed(self._bench, name, paused=True)

    def resume(self, name: str) -> None:
        """A feed sends again; one that came with the bench of somebody else is let from now on.

        Args:
            name: of the feed.

        Raises:
            InputError: there is none of that name, or it makes no sense here.
            OutputError: the bench cannot be written.
        """
        allow(self.setup(name))
        with self._bench.writing():
            pause_feed(self._bench, name, paused=False)

    def send_again(self, name: str) -> None:
        """A feed sends everything that the bench holds, once more.

        Args:
            name: of the feed.

        Raises:
            InputError: there is none of that name.
            OutputError: the bench cannot be written.
        """
        self.row(name)
        with self._bench.writing():
            add_all_held(self._bench, name)
        self.wake()

    def test(self, name: str) -> str:
        """Sends a message to see whether it arrives; says what came of it.

        Args:
            name: of the feed.

        Raises:
            InputError: there is none of that name, or its key is not there.
            FeedTrouble: it did not arrive.
        """
        setup = self.setup(name)
        if setup.every_s and not self._bench.read_only:
            with self._bench.writing():
                note_try(self._bench, name, time.time_ns())
            if name in self._workers:
                self._workers[name].asked_elsewhere()
        return self.test_setup(name, setup)

    def test_setup(self, name: str, setup: FeedSetup) -> str:
        """The same for a feed that was not added yet.

        Args:
            name: it is to have.
            setup: what it is.

        Raises:
            InputError: it makes no sense, or its key is not there.
            FeedTrouble: it did not arrive.
        """
        check_templates(setup)
        sender = make_sender(setup, name)
        try:
            return sender.test(self._sample(setup))
        finally:
            sender.close()

    def _sample(self, setup: FeedSetup) -> Sent:
        """The newest row that the bench holds, else a made-up one of a wire ``test``."""
        outbox = Outbox(self._bench, self.labels, setup.derived)
        found = outbox.rows(last_rows(self._bench, 1))
        if found:
            return replace(max(found, key=lambda row: row.at_ns), change=Change.NEW)
        now_ns = time.time_ns()
        cells = (Cell("temperature", 11.8, 1), Cell("humidity", 92.0, 1))
        row = TableRow(utc_time(now_ns), "test", "", "", 0, cells, "sound", "", iso_time(now_ns))
        return Sent(0, "test", now_ns, row)

    # Sending.

    def labels(self) -> Labels:
        """Roles and corrections, not older than a few seconds; called by any thread."""
        with self._lock:
            now = time.monotonic()
            if now >= self._labels_at:
                self._labels_at = now + LABELS_S
                self._labels = Labels(
                    read_roles(self._bench).joined(self._roles), read_annotations(self._bench)
                )
            return self._labels

    def start(self, names: Collection[str] | None = None) -> None:
        """Begins to send.

        Args:
            names: of feeds that send in any case; None for all that are neither paused nor
                strange to this person.

        Raises:
            InputError: the bench cannot be read, or there is no such feed.
        """
        for row in self.rows() if names is None else [self.row(name) for name in names]:
            if row.name in self._workers or self._left:
                continue
            setup = setup_of(row) if names is not None else read_setup(row.setup)
            if setup is None or (names is None and (row.paused or not is_allowed(setup))):
                continue
            worker = FeedWorker(
                self._bench,
                row,
                setup,
                make_sender(setup, row.name),
                Outbox(self._bench, self.labels, setup.derived),
                self._tell,
            )
            self._workers[row.name] = worker
            worker.start()

    def _tell(self, state: FeedState) -> None:
        self._told(state)

    def wake(self) -> None:
        """Something new stands in the bench; called by any thread."""
        for worker in list(self._workers.values()):
            worker.wake()

    @property
    def sends(self) -> bool:
        """Some feed is at work."""
        return bool(self._workers)

    def stop_one(self, name: str) -> None:
        """One feed sends no more.

        Args:
            name: of the feed.
        """
        worker = self._workers.pop(name, None)
        if worker is not None:
            worker.stop()

    def leave(self) -> None:
        """Ends sending without waiting for anybody: what is under way may come twice."""
        workers, self._workers = self._workers, {}
        self._told, self._left = _nobody, True
        for worker in workers.values():
            worker.leave()

    def stop(self, drain_s: float = 0.0) -> None:
        """Ends sending, when all is sent or the time is over; may be called twice.

        Args:
            drain_s: how long may still be sent, s.
        """
        workers, self._workers = self._workers, {}
        enders = [
            threading.Thread(target=worker.stop, args=(drain_s,)) for worker in workers.values()
        ]
        for ender in enders:
            ender.start()
        for ender in enders:
            ender.join()


def find_feed(bench: BenchReader, name: str) -> FeedRow:
    """A feed of a bench.

    Args:
        bench: the open bench file.
        name: of the feed.

    Raises:
        InputError: there is none of that name.
    """
    rows = feed_rows(bench)
    for row in rows:
        if row.name == name:
            return row
    there = ", ".join(row.name for row in rows) or "none"
    raise InputError(f"{bench.path} has no feed {name!r}", f"its feeds: {there}")


def setup_of(row: FeedRow) -> FeedSetup:
    """What a feed is.

    Args:
        row: as the bench has it.

    Raises:
        InputError: it makes no sense here.
    """
    setup = read_setup(row.setup)
    if setup is None:
        raise InputError(
            f"the feed {row.name!r} makes no sense here", "remove it, and add it again"
        )
    return setup


def state_of(bench: BenchReader, row: FeedRow) -> FeedState:
    """How a feed is doing that sends nothing here.

    Args:
        bench: the open bench file.
        row: the feed as the bench has it.

    Raises:
        InputError: the bench cannot be read.
    """
    setup = read_setup(row.setup)
    number = waiting(bench, row.name, row.done)
    state = State.PAUSED if row.paused else State.IDLE if not number else State.WAITING
    if setup is None or not is_allowed(setup):
        state = State.STRANGE
    elif row.trouble and not row.paused:
        state = State.FAILING
    behind_s = 0.0
    oldest = outgoing_rows(bench, row.name, row.done, 1)
    if oldest:
        rows = Outbox(bench, Labels).rows(oldest)
        behind_s = max((time.time_ns() - rows[0].at_ns) / 1e9, 0.0) if rows else 0.0
    return FeedState(
        row.name,
        "" if setup is None else setup.url,
        state,
        number,
        behind_s,
        row.sent,
        row.acked_ns,
        row.trouble,
    )
