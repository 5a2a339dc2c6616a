"""The thread of a feed: takes what is outgoing, sends it, notes what has arrived."""

import contextlib
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass

from pivet.errors import PivetError
from pivet.feeds.outbox import Outbox, Sent
from pivet.feeds.sender import Sender
from pivet.feeds.setup import FeedSetup
from pivet.feeds.state import FeedState, State
from pivet.feeds.trouble import FeedTrouble
from pivet.files.benchfile.feeds import (
    FeedRow,
    last_rows,
    newest_rows,
    note_progress,
    note_try,
    outgoing_rows,
    tidy_outgoing,
    waiting,
)
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace

POLL_S = 0.5
"""So often it is looked what is new, where nobody rings."""

LOOK_S = 5.0
"""A connection is looked after this often, also while the pace is kept."""

LEAVE_S = 0.1
"""A window waits for a feed this long when it ends."""

FIRST_WAIT_S = 0.5
COUNT_S = 2.0
"""What waits is counted this often; between, what was sent is taken off."""

MOST_DEVICES = 64
"""Where only the newest is sent: of a wire with so many devices."""

TIDY_S = 60.0
KEEP_S = 0.3
"""What has arrived is noted in the bench at the latest after so long."""


@dataclass(slots=True)
class _Portion:
    """Rows that were taken from the bench, the place up to which they reach, whether any went."""

    rows: list[Sent]
    until: int
    begun: bool = False


class FeedWorker:
    """Sends for one feed, in a thread of its own, until it is stopped.

    Args:
        bench: open for writing.
        row: the feed as the bench has it.
        setup: what it is.
        sender: used by the thread only.
        outbox: likewise.
        told: called, by the thread, when its state is another.
    """

    def __init__(
        self,
        bench: BenchFile,
        row: FeedRow,
        setup: FeedSetup,
        sender: Sender,
        outbox: Outbox,
        told: Callable[[FeedState], None] = lambda _: None,
    ) -> None:
        self.name, self.setup = row.name, setup
        self._bench, self._sender, self._outbox, self._told = bench, sender, outbox, told
        self._done, self._noted = row.done, row.done
        self._tried_ns = row.tried_ns
        self._fresh = 0
        self._portion = _Portion([], row.done)
        self._failures, self._knows = 0, False
        self._news = threading.Condition()
        self._rung = self._patient = False
        self._until: float | None = None
        self._count_at = self._tidy_at = self._note_at = 0.0
        self.state = FeedState(
            row.name, setup.url, State.WAITING, 0, 0.0, row.sent, row.acked_ns, row.trouble
        )
        self._last_told, self._owes = replace(self.state, state=State.IDLE), bool(row.trouble)
        self._thread = threading.Thread(target=self._run, name=f"feed {row.name}", daemon=True)

    def start(self) -> None:
        """Begins to send."""
        self._thread.start()

    def wake(self) -> None:
        """Something is new; called by any thread, as often as there is something."""
        if self._rung or self._patient:
            return
        with self._news:
            self._rung = True
            self._news.notify()

    def asked_elsewhere(self) -> None:
        """Somebody else has just made a request: the pace counts from it."""
        self._tried_ns = time.time_ns()

    def leave(self) -> None:
        """Ends it as soon as it comes back from the network; waits a moment only."""
        with self._news:
            self._until = time.monotonic()
            self._news.notify()
        if self._thread.ident is not None:
            self._thread.join(LEAVE_S)

    def stop(self, drain_s: float = 0.0) -> None:
        """Ends it, when all is sent or the time is over; called by another thread.

        Args:
            drain_s: how long it may still send, s.
        """
        with self._news:
            self._until = time.monotonic() + drain_s
            self._news.notify()
        if self._thread.ident is not None:
            self._thread.join()

    def _run(self) -> None:
        ends = False
        while not ends:
            # What was written before the end was asked for is looked at once more.
            asked = self._until is not None
            self._rest(self._turn())
            over = self._until is not None and time.monotonic() >= self._until
            ends = over or (asked and self.state.state is State.IDLE)
        self._note(force=True)
        self._sender.close()

    def _rest(self, wait_s: float) -> None:
        """Waits; who rings cannot hurry a service that wants to be left alone."""
        until = time.monotonic() + wait_s
        patient = self._patient = self.state.state in (State.FAILING, State.RESTING)
        with self._news:
            while True:
                left_s = until - time.monotonic()
                if self._until is not None:
                    last_s = self._until - time.monotonic()
                    left_s = min(left_s, last_s) if patient else 0.0
                if left_s <= 0 or (self._rung and not patient):
                    break
                self._news.wait(left_s)
            self._rung = self._patient = False

    def _turn(self) -> float:
        """One step; gives how long to wait until the next, s."""
        try:
            wait_s = self._step()
            self._note()
        except FeedTrouble as trouble:
            return self._failed(trouble, trouble.wait_s)
        except PivetError as error:
            return self._failed(error, None)
        except Exception as error:  # noqa: BLE001  a package's mistake must not end the feed
            mistake = FeedTrouble(f"a mistake in the feed ({type(error).__name__}: {error})")
            return self._failed(mistake, self._sender.most_wait_s)
        return wait_s

    def _step(self) -> float:
        if not self._knows:
            self._sender.know(self._outbox.rows(last_rows(self._bench, MOST_DEVICES)))
            self._knows = True
        if not self._portion.rows and not self._refill():
            self._sender.look()
            self._worked(State.IDLE)
            return POLL_S
        if not self._portion.rows:
            return 0.0
        pause_s = self._pause_s()
        if pause_s > 0:
            self._sender.look()
            self._tell(self._unless_failing(State.RESTING), again_s=pause_s)
            return min(pause_s, LOOK_S)
        if self.setup.newest and not self._portion.begun:
            self._refill()  # newer ones may have come while the pace was kept
        self._tell(self._unless_failing(State.SENDING))
        self._sender.open()
        self._note_try()
        try:
            arrived = self._sender.send(self._portion.rows)
        except FeedTrouble as trouble:
            self._arrived(trouble.arrived)
            raise
        finally:
            # The service counts from when it had the last request, which was later than its start;
            # so does the next program, if this one ends now.
            with contextlib.suppress(PivetError):
                self._note_try()
        self._arrived(arrived)
        self._worked(State.SENDING)
        return 0.0

    def _unless_failing(self, state: State) -> State:
        """What failed goes on failing until something arrives."""
        return State.FAILING if self.state.trouble else state

    def _refill(self) -> bool:
        """Takes the next portion from the bench; whether there is one."""
        if self.setup.newest:
            outgoing = newest_rows(self._bench, self.name, self._done, MOST_DEVICES)
        else:
            outgoing = outgoing_rows(self._bench, self.name, self._done, self._sender.at_once)
        self._count(len(outgoing))
        if not outgoing:
            return False
        rows = self._outbox.rows(outgoing)
        if self.setup.wires:
            rows = [row for row in rows if row.row.wire in self.setup.wires]
        if self.setup.newest:
            last = {(row.row.wire, row.row.device): place for place, row in enumerate(rows)}
            rows = [rows[place] for place in sorted(last.values())]
        self._portion = _Portion(rows, outgoing[-1].seq)
        if not rows:
            self._done = self._portion.until
        return True

    def _arrived(self, count: int) -> None:
        """Rows have arrived: an exchange is done when all of its rows have."""
        rows = self._portion.rows
        gone, self._portion.rows = rows[:count], rows[count:]
        self._portion.begun |= bool(gone)
        self._fresh += len(gone)
        rest = self._portion.rows
        if not rest:
            self._done = self._portion.until
        elif gone:
            self._done = max(self._done, rest[0].seq - 1)
        if gone:
            now_ns = time.time_ns()
            self.state = replace(
                self.state,
                sent=self.state.sent + len(gone),
                acked_ns=now_ns,
                waiting=max(self.state.waiting - len({row.seq for row in gone}), 0),
            )

    def _pause_s(self) -> float:
        """How long the pace of the service still has to be kept, s."""
        if not self.setup.every_s:
            return 0.0
        since_s = (time.time_ns() - self._tried_ns) / 1e9
        return self.setup.every_s - since_s if 0 <= since_s < self.setup.every_s else 0.0

    def _note_try(self) -> None:
        if self.setup.every_s:
            self._tried_ns = time.time_ns()
            with self._bench.writing():
                note_try(self._bench, self.name, self._tried_ns)

    def _note(self, force: bool = False) -> None:
        """Notes in the bench what has arrived."""
        now = time.monotonic()
        if self._done == self._noted and not self._fresh and not force:
            return
        if now < self._note_at and not force and self.state.state is State.SENDING:
            return
        try:
            with self._bench.writing():
                note_progress(
                    *(self._bench, self.name, self._done, self._fresh, self.state.acked_ns),
                    self.state.trouble,
                )
                if force or now >= self._tidy_at:
                    tidy_outgoing(self._bench)
                    self._tidy_at = now + TIDY_S
        except PivetError:
            if not force:
                raise
            return
        self._noted, self._fresh, self._note_at = self._done, 0, now + KEEP_S

    def _count(self, at_least: int) -> None:
        now = time.monotonic()
        if now >= self._count_at or at_least < self._sender.at_once:
            number = at_least
            if at_least >= self._sender.at_once:
                number = waiting(self._bench, self.name, self._done)
                self._count_at = now + COUNT_S
            self.state = replace(self.state, waiting=number)

    def _failed(self, error: PivetError, wait_s: float | None) -> float:
        says = str(error)
        self._failures += 1
        if wait_s is None:
            longest = self._sender.most_wait_s
            wait_s = min(FIRST_WAIT_S * 2 ** min(self._failures - 1, 20), longest)
        self._count_waiting()
        new = self.state.trouble != says
        self._tell(State.FAILING, says, wait_s)
        if new:
            self._note(force=True)
        return wait_s

    def _count_waiting(self) -> None:
        try:
            number = waiting(self._bench, self.name, self._done)
        except PivetError:
            return
        self.state = replace(self.state, waiting=number)

    def _worked(self, state: State) -> None:
        self._failures = 0
        had = bool(self.state.trouble)
        self._tell(state, "")
        if had:
            self._note(force=True)

    def _tell(self, state: State, trouble: str | None = None, again_s: float = 0.0) -> None:
        before = self.state
        rows = self._portion.rows
        behind_s = max((time.time_ns() - rows[0].at_ns) / 1e9, 0.0) if rows else 0.0
        if state is State.FAILING and not rows:
            behind_s = before.behind_s
        said = before.trouble if trouble is None else trouble
        self.state = replace(before, state=state, trouble=said, again_s=again_s, behind_s=behind_s)
        self._tell_others()

    def _tell_others(self) -> None:
        """What changes with every reading is no news; that it fails, works again, has caught up."""
        now, last = self.state, self._last_told
        caught_up = self._owes and now.state is State.IDLE
        if caught_up or now.trouble != last.trouble or now.works != last.works:
            self._owes = not now.works or (self._owes and not caught_up)
            self._last_told = now
            self._told(now)
