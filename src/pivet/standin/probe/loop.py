"""The stand-in probe in this very process, on a clock that goes as fast as it is read.

What a night brings is heard in seconds, and always the same: for tests and measurements.
"""

from collections.abc import Callable, Sequence

from pivet.signal.seconds import ns_of
from pivet.sources.link.words import MINOR
from pivet.sources.source import SourceError, SourceLost
from pivet.standin.live.circuit import Circuit
from pivet.standin.probe.device import TICK_NS, LinkProbe

STEP_NS = 1_000_000
"""What is written is heard by the other side so much later."""


LEAST_NS = 50_000
"""Time moves on by so much at least when nobody says anything."""


class MadeClock:
    """A clock that stands still until somebody waits."""

    def __init__(self) -> None:
        self.now_ns = 1_000_000_000

    def __call__(self) -> int:
        """This moment, ns."""
        return self.now_ns

    def seconds(self) -> float:
        """This moment, s."""
        return self.now_ns / 1e9

    def sleep(self, seconds: float) -> None:
        """Somebody waits."""
        self.now_ns += ns_of(seconds)


class Loop:
    """A probe to which ports can be opened.

    Args:
        circuits: on its lines.
        clock: moved on by whoever reads.
        late_us, minor: of the probe, see ``LinkProbe``.

    Attributes:
        plugged: it is there at all.
        spoil: changes the bytes that go to the host.
    """

    def __init__(
        self,
        circuits: Sequence[Circuit],
        clock: MadeClock,
        late_us: float = 0.0,
        minor: int = MINOR,
    ) -> None:
        self._circuits, self._clock = circuits, clock
        self._late_us, self._minor = late_us, minor
        self._boot = 0
        self._probe: LinkProbe | None = None
        self.plugged = True
        self.spoil: Callable[[bytes], bytes] | None = None

    @property
    def now_us(self) -> float:
        """This moment on the circuits' clock, µs."""
        return self._clock.now_ns / 1000

    def open_port(self, url: str, _baud: int) -> "LoopPort":
        """Opens a port to it; the probe stays as it is.

        Raises:
            SourceError: it is not there.
        """
        if not self.plugged:
            raise SourceError(f"there is no port {url}", "plug the probe in")
        if self._probe is None:
            self.start()
        return LoopPort(self, self._clock)

    def start(self) -> None:
        """The probe starts, or starts anew."""
        self._boot += 1
        self._probe = LinkProbe(self._circuits, self._boot, self._late_us, self._minor)

    def crash(self) -> None:
        """The probe is gone until it is plugged in again."""
        self.plugged, self._probe = False, None

    def exchange(self, data: bytes) -> bytes:
        """Gives bytes to the probe, and what it says by now.

        Raises:
            SourceLost: it is gone.
        """
        if not self.plugged or self._probe is None:
            raise SourceLost("the probe is gone", "plug it in again, Pivet goes on by itself")
        tick = self._clock.now_ns // TICK_NS
        if data:
            self._probe.feed(data, tick)
        out = self._probe.poll(tick)
        return self.spoil(out) if self.spoil is not None and out else out

    def idle_ns(self) -> int:
        """How long the probe will say nothing by itself, ns."""
        if self._probe is None:
            return STEP_NS
        idle = self._probe.idle_ticks(self._clock.now_ns // TICK_NS) * TICK_NS
        return max(idle, LEAST_NS)


class LoopPort:
    """One end of a loop; see ``pivet.sources.port.AnyPort``."""

    def __init__(self, loop: Loop, clock: MadeClock) -> None:
        self._loop, self._clock = loop, clock
        self._sent = bytearray()

    def read(self, timeout_s: float) -> bytes:
        """What the probe says; while it says nothing, time passes."""
        until = self._clock.now_ns + ns_of(timeout_s)
        while True:
            sent, self._sent = bytes(self._sent), bytearray()
            data = self._loop.exchange(sent)
            if data or self._clock.now_ns >= until:
                return data
            self._clock.now_ns = min(self._clock.now_ns + self._loop.idle_ns(), until)

    def write(self, data: bytes) -> None:
        """Says something to the probe, which hears it at the next read."""
        self._loop.exchange(b"")
        self._sent += data

    def set_baud(self, baud: int) -> None:
        """Nothing here has a speed."""

    def close(self) -> None:
        """What was still to be said is said."""
        if self._loop.plugged and self._sent:
            self._loop.exchange(bytes(self._sent))
