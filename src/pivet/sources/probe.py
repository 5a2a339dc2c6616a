"""A probe at a serial port, as a source."""

import contextlib
import time
from collections.abc import Callable, Sequence
from itertools import cycle
from typing import TypeVar

from pivet.frozen import replace
from pivet.judge.wording import count, us
from pivet.signal.trace import Int64Array, Level
from pivet.sources.ask import Ask
from pivet.sources.link import messages as msg
from pivet.sources.link.clock import Clocks
from pivet.sources.link.host import Heard, LinkHost, ProbeMessage, Why, packed_steps
from pivet.sources.port import AnyPort, Port
from pivet.sources.source import (
    About,
    AskDone,
    Batch,
    Exactness,
    Gap,
    LineInfo,
    Piece,
    Source,
    SourceError,
    SourceLost,
)

BAUDS = (1_000_000, 500_000, 115_200)
"""Tried in turn, again and again, when none is given."""

HELLO_EVERY_S = 0.25
HELLO_WAIT_S = 4.0
"""A board that restarts when its port is opened is deaf for 1 to 2 s, its boot loader."""

ANSWER_WAIT_S = 1.0
BEAT_EVERY_S = 1.0
SILENT_S = 3.0
"""A probe beats ten times a second; after so long without a frame it is gone."""

NOTE_EVERY_S = 10.0
RESTARTED = "the probe had restarted"
OVERHEAD = 4
"""Bytes of a body beside its payload: kind, number, CRC."""

IDENTS = 256

M = TypeVar("M")
T = TypeVar("T", int, Int64Array)


class ProbeSource(Source):
    """A probe that speaks the probe link.

    Args:
        url: serial device, or a URL like ``socket://host:port``.
        baud: bits a second; None tries the usual ones.
        open_port: opens the port; the stand-in puts its own in this place.
        clock: monotonic ns, of this computer.
    """

    can_ask = True

    def __init__(
        self,
        url: str,
        baud: int | None = None,
        open_port: Callable[[str, int], AnyPort] = Port,
        clock: Callable[[], int] = time.monotonic_ns,
    ) -> None:
        self._url, self._bauds = url, BAUDS if baud is None else (baud,)
        self._open_port, self._clock = open_port, clock
        self._port: AnyPort | None = None
        self._host = LinkHost()
        self._about: About | None = None
        self._numbers: dict[str, int] = {}
        self._i_am: msg.IAm | None = None
        self._listening: frozenset[int] = frozenset()
        self._asks: dict[int, int] = {}
        self._ident = 0
        self._started = clock()
        self._origin: tuple[int, int] | None = None
        self._clocks = Clocks()
        self._told: list[ProbeMessage] = []
        self._known: dict[int, int] = {}
        self._spoke = self._beat = 0.0
        self._troubles = (0, 0, 0)
        self._loose: dict[str, int] = {}
        self._boot: int | None = None
        self._restarted = False
        self._noted = -NOTE_EVERY_S

    @property
    def name(self) -> str:
        """The port."""
        return self._url

    def open(self) -> About:
        """Opens the port and says hello; see ``Source.open``.

        Raises:
            SourceError: nobody answers at the port, or no probe does.
        """
        self.close()
        self._port = self._open_port(self._url, self._bauds[0])
        self._host, self._told, self._clocks = LinkHost(), [], Clocks()
        self._i_am, self._origin, self._about = None, None, None
        self._listening = frozenset()
        try:
            return self._greet()
        except SourceError:
            self.close()
            raise

    def _greet(self) -> About:
        hello = self._said_hello()
        if hello.major != msg.MAJOR:
            newer = hello.major > msg.MAJOR
            raise SourceError(
                f"the probe at {self._url} speaks version {hello.major} of the probe link, Pivet "
                f"speaks {msg.MAJOR}",
                "install a newer Pivet" if newer else "put a newer firmware on the probe",
            )
        self._restarted = self._boot not in (None, hello.boot)
        self._boot = hello.boot
        exact = hello.minor >= msg.STAMPS_MINOR
        lines = _told_apart([self._line_is(number, exact) for number in range(hello.lines)])
        self._numbers = {line.name: number for number, line in enumerate(lines)}
        self._wait_for(msg.ProbeBeat, ANSWER_WAIT_S, keep=True)
        facts = (
            ("protocol", f"probe link {hello.major}.{hello.minor}"),
            ("tick", f"{hello.tick_ps / 1000:g} ns"),
            ("lines", str(hello.lines)),
            ("buffer", f"{hello.buffer} edges"),
            ("longest ask", f"{hello.most_steps} bytes of steps"),
        )
        resolution = -(-hello.tick_ps // 1000)
        self._about = About(hello.name or self._url, tuple(lines), resolution, facts)
        # What was half sent to somebody before is nobody's loss.
        self._troubles = self._troubles_now
        return self._about

    def _said_hello(self) -> msg.IAm:
        port, until = self._need_port(), self._now_s() + HELLO_WAIT_S
        for baud in cycle(self._bauds):
            if self._now_s() >= until:
                break
            if len(self._bauds) > 1:
                port.set_baud(baud)
            # A zero ends whatever stood half sent on the line, also at another speed.
            port.write(b"\0")
            self._send(msg.Hello())
            try:
                return self._wait_for(msg.IAm, HELLO_EVERY_S)
            except _NoAnswer:
                continue
        heard = self._host.frames.skipped_bytes or self._host.frames.damaged
        what = "what stands there speaks" if heard else "nobody there answers by"
        raise SourceError(
            f"{self._url} opened, but {what} {'no' if heard else 'the'} probe link",
            "choose the port of the probe, or put its firmware on the board",
        )

    def _line_is(self, number: int, exact: bool) -> LineInfo:
        self._send(msg.AskLine(number))
        row = self._wait_for(msg.LineIs, ANSWER_WAIT_S)
        while row.line != number:
            row = self._wait_for(msg.LineIs, ANSWER_WAIT_S)
        return LineInfo(
            row.name or f"line {number}",
            bool(row.can & msg.Can.PULL_LOW),
            bool(row.can & msg.Can.DRIVE_HIGH),
            row.level,
            can_pull_up=bool(row.can & msg.Can.PULL_UP),
            exact=self._exactness(number) if exact else None,
        )

    def _exactness(self, number: int) -> Exactness | None:
        """How exact the stamps of a line are; None when the probe does not say it."""
        frame = self._send(msg.AskStamps(number))
        until = self._now_s() + ANSWER_WAIT_S
        while self._now_s() < until:
            for message in self._told:
                if isinstance(message, msg.Stamps) and message.line == number:
                    self._told.remove(message)
                    return Exactness(message.wrong_ns, message.shortest_ns, message.seen_ns)
                if isinstance(message, msg.Refused) and message.number == frame:
                    self._told.remove(message)
                    return None
            self._take(max(until - self._now_s(), 0.0))
        raise _NoAnswer(f"the probe at {self._url} does not answer", "plug it in again")

    def _wait_for(self, kind: type[M], wait_s: float, keep: bool = False) -> M:
        """The next message of a kind; what else arrives is kept for ``read``."""
        until = self._now_s() + wait_s
        while True:
            for at, message in enumerate(self._told):
                if isinstance(message, kind):
                    return message if keep else self._told.pop(at)  # type: ignore[return-value]
            left = until - self._now_s()
            if left <= 0:
                raise _NoAnswer(f"the probe at {self._url} does not answer", "plug it in again")
            self._take(left)

    def _need_port(self) -> AnyPort:
        if self._port is None:
            raise SourceLost(f"the probe at {self._url} is not open", "open it first")
        return self._port

    def _send(self, message: msg.HostMessage) -> int:
        number, data = self._host.pack(message)
        self._need_port().write(data)
        return number

    def _take(self, timeout_s: float) -> None:
        """Takes what arrives at the port."""
        data = self._need_port().read(timeout_s)
        now = self._now_s()
        whole = False
        for message in self._host.feed(data):
            whole = True
            if isinstance(message, msg.IAm):
                self._meet(message)
            elif isinstance(message, msg.ProbeBeat) and self._i_am is not None:
                self._on_beat(message)
            self._told.append(message)
        if whole:
            self._spoke = now

    def _meet(self, row: msg.IAm) -> None:
        """The probe says who it is; once it is known, another answer means that it restarted."""
        if self._about is None or self._i_am is None:
            self._i_am = row
            self._host.believe(row)
        elif row != self._i_am:
            raise SourceLost(f"the probe at {self._url} has restarted", "Pivet goes on by itself")

    def _on_beat(self, beat: msg.ProbeBeat) -> None:
        if self._origin is None:
            self._origin = (beat.tick, self._elapsed_ns())
        self._clocks.beat(self._ns(beat.tick), self._elapsed_ns())

    def _now_s(self) -> float:
        return self._clock() / 1e9

    def _elapsed_ns(self) -> int:
        return self._clock() - self._started

    def _ns(self, tick: T) -> T:
        """Ticks of the probe as the source's time, ns."""
        assert self._origin is not None and self._i_am is not None
        zero, at_ns = self._origin
        # In two parts: ticks times picoseconds would leave int64 after a hundred days.
        whole, rest = divmod(self._i_am.tick_ps, 1000)
        passed = tick - zero
        return passed * whole + passed * rest // 1000 + at_ns

    def now_ns(self) -> int:
        """This moment on the probe's clock, as well as beats tell, ns."""
        return self._elapsed_ns() - (self._clocks.ahead_ns or 0)

    def listen(self, lines: Sequence[str]) -> None:
        """Listens to these lines; see ``Source.listen``.

        Args:
            lines: names of lines; none means all.
        """
        wanted = frozenset(self._number(name) for name in lines)
        number = self._send(msg.Listen(sum(1 << line for line in wanted)))
        self._accepted(number, "listen to these lines")
        # Beats from before do not speak of these lines.
        self._told = [message for message in self._told if not isinstance(message, msg.ProbeBeat)]
        self._listening = wanted

    def _accepted(self, number: int, what: str) -> None:
        until = self._now_s() + ANSWER_WAIT_S
        while self._now_s() < until:
            row = next(
                (
                    line
                    for line in self._told
                    if isinstance(line, msg.Done | msg.Refused) and line.number == number
                ),
                None,
            )
            if isinstance(row, msg.Refused):
                self._told.remove(row)
                raise SourceError(f"the probe does not {what}: {row.reason.says}", "")
            if row is not None:
                self._told.remove(row)
                return
            self._take(max(until - self._now_s(), 0.0))
        raise SourceLost(f"the probe at {self._url} does not answer", "plug it in again")

    def _number(self, name: str) -> int:
        if self._about is None:
            raise SourceLost(f"the probe at {self._url} is not open", "open it first")
        return self._numbers[self._about.line(name).name]

    def read(self, timeout_s: float) -> Batch:
        """What the probe has to tell; see ``Source.read``.

        Args:
            timeout_s: the longest wait, s.

        Raises:
            SourceLost: the probe is gone, or has not spoken for too long.
        """
        now = self._now_s()
        if now - self._beat > BEAT_EVERY_S:
            self._send(msg.HostBeat())
            self._beat = now
        if not self._told:
            self._take(timeout_s)
        told, self._told = self._told, []
        self._refuse_restarted(told)
        if not told and self._now_s() - self._spoke > SILENT_S:
            raise SourceLost(
                f"the probe at {self._url} has not spoken for {SILENT_S:g} s", "restart it"
            )
        return self._batch(told)

    def _refuse_restarted(self, told: list[ProbeMessage]) -> None:
        """A probe that no longer listens to what it was told to has restarted unseen."""
        for message in told:
            if isinstance(message, msg.ProbeBeat) and not self._listening <= message.sent.keys():
                raise SourceLost(
                    f"the probe at {self._url} has restarted", "Pivet goes on by itself"
                )

    def _batch(self, told: list[ProbeMessage]) -> Batch:
        names = {number: name for name, number in self._numbers.items()}
        heard = [message for message in told if isinstance(message, Heard)]
        pieces = [self._piece(message, names) for message in heard]
        for message in heard:
            if message.loose:
                name = names[message.line]
                self._loose[name] = self._loose.get(name, 0) + message.loose
        asked = [done for message in told if (done := self._ask_done(message)) is not None]
        return Batch(tuple(pieces), tuple(asked), self._notes())

    def _piece(self, heard: Heard, names: dict[int, str]) -> Piece:
        gap = None
        if heard.gap is not None:
            missing = heard.gap
            start, end = self._ns(missing.since), self._ns(missing.until)
            begins = missing.why is Why.BEGIN
            if begins:
                start = self._known.get(heard.line, end)
            why = missing.why.value
            if begins and self._restarted:
                why = RESTARTED
            why = "" if start >= end else why
            lost = None if begins and why else missing.count
            gap = Gap(min(start, end), end, missing.level, lost, why)
        until = self._ns(heard.known_until)
        self._known[heard.line] = until
        return Piece(names[heard.line], self._ns(heard.ticks), until, gap)

    def _ask_done(self, row: ProbeMessage) -> AskDone | None:
        if isinstance(row, msg.Asked) and row.ident in self._asks:
            del self._asks[row.ident]
            begin = self._host.whole_tick(row.begin)
            end = self._host.whole_tick(row.end)
            return AskDone(row.ident, self._ns(begin), self._ns(end))
        if isinstance(row, msg.Refused):
            for ident, frame in self._asks.items():
                if frame == row.number:
                    del self._asks[ident]
                    now = self.now_ns()
                    return AskDone(ident, now, now, refused=row.reason.says)
        return None

    @property
    def _troubles_now(self) -> tuple[int, int, int]:
        """Frames that were damaged, that are missing, and that were whole but made no sense."""
        frames = self._host.frames
        return frames.damaged, frames.missing, self._host.malformed

    def _notes(self) -> tuple[str, ...]:
        """Bytes that were lost are told at most every few seconds, all that were since."""
        now = self._now_s()
        nothing = self._troubles_now == self._troubles and not self._loose
        if nothing or now < self._noted + NOTE_EVERY_S:
            return ()
        before, self._troubles, self._noted = self._troubles, self._troubles_now, now
        damaged, missing, odd = (
            after - then for after, then in zip(self._troubles, before, strict=True)
        )
        notes = [
            f"{name}: {count(number, 'pulse')} under {self._shortest(name)} told without "
            "their width: that they were there is known, not how long they were."
            for name, number in self._loose.items()
        ]
        self._loose.clear()
        if damaged or missing:
            notes.append(
                f"bytes from {self._url} were lost or damaged "
                f"({count(max(damaged, missing), 'message')}): "
                "see the cable and the speed of the port."
            )
        if odd:
            notes.append(
                f"the probe at {self._url} told times or numbers that cannot be "
                f"({count(odd, 'message')}, passed over): its firmware is at fault, not the cable."
            )
        return tuple(notes)

    def _shortest(self, name: str) -> str:
        """From this length on widths of a line are told, for people."""
        assert self._about is not None
        exact = self._about.line(name).exact
        return "the shortest that is measured" if exact is None else us(exact.shortest_ns / 1000)

    def pull_up(self, line: str, on: bool) -> None:
        """Switches the probe's own pull-up of a line; see ``Source.pull_up``.

        Args:
            line: its name.
            on: whether it is switched on.

        Raises:
            SourceError: the line has none.
        """
        number = self._number(line)
        assert self._about is not None
        info = self._about.line(line)
        if not info.can_pull_up:
            raise SourceError(
                f"the probe has no pull-up of its own for {info.name}", "put a resistor on the line"
            )
        frame = self._send(msg.Configure(number, on))
        self._accepted(frame, f"switch the pull-up of {info.name}")

    def ask(self, ask: Ask) -> int:
        """Sends an ask to the probe; see ``Source.ask``.

        Args:
            ask: what is to be driven, and how.

        Raises:
            SourceError: the line cannot be driven so.
        """
        number = self._number(ask.line)
        assert self._about is not None and self._i_am is not None
        info = self._about.line(ask.line)
        if ask.drive is Level.HIGH and not info.can_drive_high:
            raise SourceError(f"the line {info.name} cannot be driven high", "choose another line")
        if ask.drive is Level.LOW and not info.can_pull_low:
            raise SourceError(f"the line {info.name} cannot be pulled low", "choose another line")
        steps = packed_steps(ask)
        if len(steps) > self._most_steps:
            raise SourceError(
                f"an ask of {len(steps)} bytes is too long for the probe "
                f"(it takes {self._most_steps})",
                "make it shorter",
            )
        drive = msg.Drive.HIGH if ask.drive is Level.HIGH else msg.Drive.LOW
        self._ident = (self._ident + 1) % IDENTS
        self._asks[self._ident] = self._send(msg.Ask(self._ident, number, drive, steps))
        return self._ident

    def fits(self, ask: Ask) -> bool:
        """Whether the probe has memory for an ask, and for the edges that come of it.

        Args:
            ask: what is to be driven, and how.
        """
        edges = 2 * len(ask.steps_us)  # of who asks, and at most as many of who answers
        held = self._i_am.buffer if self._i_am is not None else 0
        return len(packed_steps(ask)) <= self._most_steps and edges <= held

    @property
    def _most_steps(self) -> int:
        """Bytes that the steps of an ask may have; 0 before it was opened."""
        return min(self._i_am.most_steps, self._i_am.most_body - OVERHEAD - 3) if self._i_am else 0

    def close(self) -> None:
        """Stops the probe and lets the port go."""
        port, self._port = self._port, None
        self._asks.clear()
        if port is None:
            return
        with contextlib.suppress(SourceLost):
            port.write(self._host.pack(msg.Listen(0))[1])
        port.close()


def _told_apart(lines: list[LineInfo]) -> list[LineInfo]:
    """Lines of one name get their numbers."""
    names = [line.name for line in lines]
    return [
        replace(line, name=f"{line.name} (line {number})") if names.count(line.name) > 1 else line
        for number, line in enumerate(lines)
    ]


class _NoAnswer(SourceError):
    """A message that was waited for did not come."""
