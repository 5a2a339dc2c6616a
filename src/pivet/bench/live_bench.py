"""Listening as a piece of work of its own thread: a listener, its recorder, orders and news.

The thread runs ``run``; others give orders, which it carries out between two steps, and take
what it tells out of the mailbox.
"""

import threading
import time
from collections.abc import Callable, Mapping, Sequence

from pivet.captures.wire import Wire
from pivet.errors import PivetError
from pivet.files.benchfile.rows import CaptureRow
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import FrozenValue, replace
from pivet.keeping.log import LogWish, ReadingsLog
from pivet.keeping.recorder import Recorder
from pivet.listening.events import Edges, Event
from pivet.listening.heard_wire import HeardWire
from pivet.listening.limits import Limits
from pivet.listening.listener import Listener
from pivet.listening.runner import Order, Runner
from pivet.listening.setup import WireSetup, usual_interval_s
from pivet.listening.taker import Taker
from pivet.person.annotations import Labels
from pivet.sources.source import About

BUSY_S = 0.025
"""Without an event the state is told so often, while edges come ..."""

IDLE_S = 0.25
"""... and so often while none do."""


class WireNow(FrozenValue):
    """A wire at this moment.

    Attributes:
        setup: what is wanted of it.
        wire: its latest exchanges; None until it is known what it carries.
        exploring: asks go over the line to find out what it is.
        talking: a round of asks is going on.
        resting: it is not listened to.
        asks: how many rounds of asks were begun.
        edges: how many were heard.
        retries: how many of its exchanges were further tries.
        silent: by code of the device, why it gives no reading any more.
        look: what the line itself says when it is silent, and how it is wired.
        due_ns: when it is asked next, ns.
    """

    setup: WireSetup
    wire: Wire | None
    exploring: bool
    talking: bool
    resting: bool
    asks: int
    edges: int
    retries: int
    silent: Mapping[str, str]
    look: str
    due_ns: int | None

    @property
    def name(self) -> str:
        """Annotations by the person."""
        return self.setup.name

    @property
    def every_s(self) -> float | None:
        """How often it is asked, s; None when it is only listened to, or not yet known."""
        if self.setup.every_s or self.setup.sheet is None:
            return self.setup.every_s or None
        return None if self.setup.every_s is None else usual_interval_s(self.setup.sheet)


class News(FrozenValue):
    """What is told of listening.

    Attributes:
        events: since the last news.
        wires: as they are now.
        here: the source is there.
        over: it has given all it has, or listening has ended.
        zero_ns: the source's zero by the calendar, ns since 1970.
        now_ns: this moment on the source's clock, ns.
    """

    events: tuple[Event, ...]
    wires: tuple[WireNow, ...]
    here: bool
    over: bool
    zero_ns: int
    now_ns: int

    def after(self, older: "News") -> "News":
        """These news and older ones that nobody has taken yet.

        Args:
            older: that came before.
        """
        return replace(self, events=older.events + self.events)


class Mailbox:
    """The latest news, until somebody takes them.

    Args:
        ring: called, by the thread that listens, when the box was empty.
    """

    def __init__(self, ring: Callable[[], None]) -> None:
        self._ring, self._lock = ring, threading.Lock()
        self._news: News | None = None

    def put(self, news: News) -> None:
        """Puts news in.

        Args:
            news: that came last.
        """
        with self._lock:
            first = self._news is None
            self._news = news if self._news is None else news.after(self._news)
        if first:
            self._ring()

    def take(self) -> News | None:
        """Takes all news out."""
        with self._lock:
            news, self._news = self._news, None
        return news


class Window(Taker):
    """Puts what is told, and how all wires are, into a mailbox.

    Args:
        listener: is looked at between two steps, by its own thread.
        mailbox: where to.
    """

    what = "the window"
    waits = False

    def __init__(self, listener: Listener, mailbox: Mailbox) -> None:
        self._listener, self._mailbox = listener, mailbox
        self._events: list[Event] = []
        self._told_at = 0.0
        self._moved = 0

    def take(self, events: Sequence[Event]) -> None:
        """Takes what is to be told; edges are not.

        Args:
            events: the events, in the order in which they were told.
        """
        self._events += [event for event in events if not isinstance(event, Edges)]

    def tick(self) -> None:
        """Tells how things are, when something is new or it was some time ago."""
        now = time.monotonic()
        moved = sum(wire.asks + wire.heard_edges for wire in self._listener.wires)
        wait = IDLE_S if moved == self._moved else BUSY_S
        if self._events or now - self._told_at >= wait:
            self._told_at, self._moved = now, moved
            self._put(over=False)

    def close(self) -> None:
        """Tells that it is over."""
        self._put(over=True)

    def _put(self, over: bool) -> None:
        events, self._events = tuple(self._events), []
        wires = tuple(wire_now(wire) for wire in self._listener.wires)
        here = self._listener.here and not over
        zero_ns = self._listener.calendar.zero_ns
        now_ns = self._listener.source.now_ns()
        self._mailbox.put(News(events, wires, here, over, zero_ns, now_ns))


class Begun(FrozenValue):
    """The source was opened for the first time.

    Attributes:
        about: what it is.
        capture: where it is recorded.
    """

    about: About
    capture: CaptureRow


class LiveBench:
    """Listens and records until it is told to stop.

    Args:
        listener: is opened by ``begin``.
        bench: one that may be written.
        label: what the source is called in the file.
        ring: called, by its thread, when there is news.
        names: roles, corrections and limits at this moment.
    """

    def __init__(
        self,
        listener: Listener,
        bench: BenchFile,
        label: str,
        ring: Callable[[], None],
        names: Callable[[], Labels] = Labels,
    ) -> None:
        self.mailbox, self._names = Mailbox(ring), names
        self._listener, self._bench, self._label = listener, bench, label
        self._runner = Runner(listener)
        self._stopped = threading.Event()
        self._recorder: Recorder | None = None
        self._log: ReadingsLog | None = None

    def keep_log(self, wish: LogWish | None) -> None:
        """Keeps a log from now on, or none; what is heard while nobody listens is not in it.

        Args:
            wish: which log; None for none.
        """
        former, self._log = self._log, None
        if former is not None:
            self._runner.remove(former)
        if wish is not None:
            self._log = ReadingsLog(wish, self._listener.calendar.wall_ns, self._names)
            self._runner.add(self._log)

    def begin(self) -> Begun:
        """Opens the source and begins to record.

        Raises:
            PivetError: that cannot be; the source is closed again.
        """
        try:
            opened = self._listener.open()
            calendar = self._listener.calendar
            self._recorder = Recorder(self._bench, opened.about, self._label, calendar)
        except PivetError:
            self._listener.close()
            raise
        self._runner.add(self._recorder)
        self._runner.add(Limits(calendar.wall_ns, self._names))
        self._runner.add(Window(self._listener, self.mailbox))
        self._runner.say(opened)
        return Begun(opened.about, self._recorder.capture)

    @property
    def unwritten(self) -> bool:
        """Something that was heard does not stand in the bench file yet."""
        return self._recorder is not None and self._recorder.unwritten

    def order(self, order: Order) -> None:
        """Has something done between two steps; what it refuses becomes a note.

        Args:
            order: is called by the listener's own thread.
        """
        self._runner.order(order)

    def stop(self) -> None:
        """Ends ``run`` after the present step."""
        self._stopped.set()

    def run(self) -> None:
        """Listens; after ``begin``."""
        self._runner.run(self._stopped.is_set)


def wire_now(row: HeardWire) -> WireNow:
    """A wire as it is now.

    Args:
        row: the wire, as the listener has it.
    """
    silent = {code: gone.says for code, gone in row.silent.items()}
    look = next((gone.look for gone in row.silent.values()), "")
    return WireNow(
        row.setup,
        row.shown,
        row.exploring,
        row.talking,
        row.resting,
        row.asks,
        row.heard_edges,
        row.counts.retries,
        silent,
        look,
        row.due_ns,
    )
