"""The probe's side of the link: messages in, messages out, with circuits on its lines."""

from collections.abc import Sequence

from pivet.frozen import FrozenValue
from pivet.signal.trace import Level
from pivet.sources.link import messages as msg
from pivet.sources.link.frames import Frame, FrameReader, FrameWriter
from pivet.sources.link.host import unpacked_steps
from pivet.standin.live.circuit import Circuit
from pivet.standin.probe.outlet import Outlet

TICK_NS = 125
TICKS_PER_MS = 1_000_000 // TICK_NS
QUIET_TICKS = 2 * TICKS_PER_MS
"""A line so long quiet has its edges sent ..."""
WAIT_TICKS = 12 * TICKS_PER_MS
"""... and at the latest so long after they came."""

BEAT_TICKS = 100 * TICKS_PER_MS
SOON_TICKS = 10 * TICKS_PER_MS
"""A beat follows edges, but not sooner than this after the one before it."""

ALONE_TICKS = 5_000 * TICKS_PER_MS
"""Without a word from the host for so long it lets go of everything."""

ASK_DELAY_US = 200.0
MOST_BODY = 512
MOST_STEPS = 480
MOST_DRIVEN = 8192
BUFFER = 65_000
NAME = "stand-in cave"
GENTLE = 1 << 14
"""While more bytes wait to be taken by the host, edges stay in the buffer."""


class _Spot(FrozenValue):
    """Where a line leads."""

    circuit: Circuit
    place: int


class _Pending(FrozenValue):
    """An ask that is under way."""

    ident: int
    line: int
    begin: int
    end: int


class LinkProbe:
    """A probe without I/O: bytes and the present tick in, bytes out.

    Args:
        circuits: on its lines, in order.
        boot: number of this start.
        late_us: its interrupts are served late by up to so much, µs.
        minor: version of the link that it speaks.
    """

    def __init__(
        self,
        circuits: Sequence[Circuit],
        boot: int,
        late_us: float = 0.0,
        minor: int = msg.MINOR,
    ) -> None:
        self._boot, self._minor = boot, minor
        self._wrong_ns = TICK_NS + round(late_us * 1000)
        self._spots = [
            _Spot(circuit, place) for circuit in circuits for place in range(len(circuit.names))
        ]
        self._circuits = list(circuits)
        self.outlets = [
            Outlet(number, spot.circuit.idle, TICK_NS, late_us)
            for number, spot in enumerate(self._spots)
        ]
        self._reader, self._writer = FrameReader(), FrameWriter()
        self._asks: list[_Pending] = []
        self._beat_at = self._last_beat = 0
        self._heard_at = 0
        self._greeted = False
        self._out = bytearray()

    def feed(self, data: bytes, now: int) -> None:
        """Takes bytes from the host."""
        for frame in self._reader.feed(data):
            self._heard_at = now
            self._on_frame(frame, now)

    def poll(self, now: int, waiting: int = 0) -> bytes:
        """What is to be sent up to a tick; ``waiting`` bytes were not taken yet."""
        self._advance(now)
        if self._greeted and now - self._heard_at > ALONE_TICKS:
            self._listen(0)
        if waiting < GENTLE:
            self._flush(now, everything=False)
            self._tell_asked(now)
            if self._greeted and now >= self._beat_at:
                self._beat(now)
        out, self._out = bytes(self._out), bytearray()
        return out

    def idle_ticks(self, now: int) -> int:
        """How long nothing will happen by itself, ticks."""
        moments = [self._beat_at, *(ask.end for ask in self._asks)]
        for outlet in self.outlets:
            if outlet.next_tick is not None:
                moments.append(outlet.next_tick + QUIET_TICKS)
            if outlet.held:
                moments.append(min(outlet.last + QUIET_TICKS, outlet.oldest + WAIT_TICKS))
        return max(min(moments) - now, 0)

    def _send(self, message: msg.ProbeMessage) -> None:
        self._out += self._writer.write(message.KIND, message.pack())[1]

    def _advance(self, now: int) -> None:
        until_us = now * TICK_NS / 1000
        number = 0
        for circuit in self._circuits:
            for edges in circuit.poll(until_us):
                self.outlets[number].schedule(edges)
                number += 1
        held = sum(outlet.held for outlet in self.outlets)
        for outlet in self.outlets:
            outlet.advance(now, BUFFER - held)

    def _flush(self, now: int, everything: bool) -> None:
        for outlet in self.outlets:
            if not outlet.listening:
                continue
            quiet = outlet.held and (
                now - outlet.last >= QUIET_TICKS or now - outlet.oldest >= WAIT_TICKS
            )
            if everything or quiet:
                for message in outlet.take(now):
                    self._send(message)
                self._beat_soon(now)

    def _beat_soon(self, earliest: int) -> None:
        """What the other lines did meanwhile, and that this one is quiet, is soon wanted."""
        self._beat_at = min(self._beat_at, max(self._last_beat + SOON_TICKS, earliest))

    def _tell_asked(self, now: int) -> None:
        over = [ask for ask in self._asks if ask.end <= now]
        for late in over:
            outlet = self.outlets[late.line]
            for message in outlet.take(now):
                self._send(message)
            self._asks.remove(late)
            self._beat_soon(now + QUIET_TICKS)
            begin, end = late.begin & 0xFFFF_FFFF, now & 0xFFFF_FFFF
            self._send(msg.Asked(late.ident, late.line, outlet.level, outlet.sent, begin, end))

    def _beat(self, now: int) -> None:
        self._flush(now, everything=True)
        levels = sum(int(outlet.level) << outlet.number for outlet in self.outlets)
        sent = {outlet.number: outlet.sent for outlet in self.outlets if outlet.listening}
        self._send(msg.ProbeBeat(now, levels, sent))
        self._last_beat, self._beat_at = now, now + BEAT_TICKS
        last = max((outlet.last for outlet in self.outlets if outlet.listening), default=now)
        if now - last < QUIET_TICKS:
            self._beat_soon(last + QUIET_TICKS)

    def _on_frame(self, frame: Frame, now: int) -> None:
        kind = msg.FROM_HOST.get(frame.kind)
        if kind is msg.AskStamps and self._minor < msg.STAMPS_MINOR:
            kind = None
        if kind is None:
            self._send(msg.Refused(frame.number, msg.Reason.UNKNOWN_MESSAGE))
            return
        try:
            message = kind.unpack(frame.payload)
        except msg.Malformed:
            self._send(msg.Refused(frame.number, msg.Reason.BAD_CONTENT))
            return
        reason = self._carry_out(message, now)
        if reason is not None:
            self._send(msg.Refused(frame.number, reason))
        elif isinstance(message, msg.Listen | msg.Configure):
            self._send(msg.Done(frame.number))
        if isinstance(message, msg.Listen):
            self._beat(now)

    def _carry_out(self, message: msg.HostMessage, now: int) -> msg.Reason | None:
        if isinstance(message, msg.Hello):
            self._hello(now)
        elif isinstance(message, msg.Listen):
            if message.lines >> len(self.outlets):
                return msg.Reason.NO_SUCH_LINE
            self._advance(now)
            self._listen(message.lines)
        elif isinstance(message, msg.AskLine | msg.AskStamps | msg.Configure | msg.Ask):
            if message.line >= len(self.outlets):
                return msg.Reason.NO_SUCH_LINE
            if isinstance(message, msg.AskLine):
                self._tell_line(message.line)
            elif isinstance(message, msg.AskStamps):
                seen = self._wrong_ns + TICK_NS
                self._send(msg.Stamps(message.line, self._wrong_ns, seen, seen))
            elif isinstance(message, msg.Configure):
                return self._configure(message)
            elif isinstance(message, msg.Ask):
                return self._ask(message, now)
        return None

    def _hello(self, now: int) -> None:
        self._asks.clear()
        self._listen(0)
        self._greeted = True
        self._send(
            msg.IAm(
                msg.MAJOR,
                self._minor,
                self._boot,
                TICK_NS * 1000,
                len(self.outlets),
                BUFFER,
                MOST_BODY,
                MOST_STEPS,
                NAME,
            )
        )
        self._beat(now)

    def _listen(self, lines: int) -> None:
        for outlet in self.outlets:
            outlet.listen(bool(lines >> outlet.number & 1))

    def can(self, line: int) -> msg.Can:
        """What a line can do: where sensors pull low, nobody may drive high."""
        spot = self._spots[line]
        if spot.circuit.idle is Level.HIGH:
            return msg.Can.PULL_LOW | msg.Can.PULL_UP
        return msg.Can.DRIVE_HIGH if spot.place == 0 else msg.Can(0)

    def _tell_line(self, line: int) -> None:
        spot = self._spots[line]
        name = spot.circuit.names[spot.place]
        level, pulled = self.outlets[line].level, spot.circuit.troubles.helped
        self._send(msg.LineIs(line, self.can(line), level, pulled, name))

    def _configure(self, message: msg.Configure) -> msg.Reason | None:
        if not self.can(message.line) & msg.Can.PULL_UP:
            return msg.Reason.LINE_CANNOT
        self._spots[message.line].circuit.troubles.helped = message.pull_up
        return None

    def _ask(self, ask: msg.Ask, now: int) -> msg.Reason | None:
        needed = msg.Can.DRIVE_HIGH if ask.drive is msg.Drive.HIGH else msg.Can.PULL_LOW
        if not self.can(ask.line) & needed:
            return msg.Reason.LINE_CANNOT
        if self._asks:
            return msg.Reason.BUSY
        if len(ask.steps) > MOST_STEPS:
            return msg.Reason.TOO_LONG
        steps = unpacked_steps(ask.steps, MOST_DRIVEN)
        if steps is None:
            return msg.Reason.BAD_CONTENT
        at_us = now * TICK_NS / 1000 + ASK_DELAY_US
        begin = round(at_us * 1000 / TICK_NS)
        lows = []
        for number, step in enumerate(steps):
            if number % 2 == 0:
                lows.append((at_us, float(step)))
            at_us += step
        self._drive(ask, lows)
        end = round(at_us * 1000 / TICK_NS)
        self._asks.append(_Pending(ask.ident, ask.line, begin, end))
        return None

    def _drive(self, ask: msg.Ask, lows: list[tuple[float, float]]) -> None:
        spot = self._spots[ask.line]
        level = Level.HIGH if ask.drive is msg.Drive.HIGH else Level.LOW
        edges = spot.circuit.driven(spot.place, lows, level)
        first = ask.line - spot.place
        for number, line_edges in enumerate(edges):
            self.outlets[first + number].schedule(line_edges)
