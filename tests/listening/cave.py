"""A listener in the stand-in cave, on a clock that goes as fast as it is read."""

import itertools
from collections.abc import Callable, Sequence
from unittest import mock

from pivet.files.benchfile.store import BenchFile
from pivet.keeping.recorder import Recorder
from pivet.listening import events as ev
from pivet.listening import listener
from pivet.listening.listener import Listener
from pivet.listening.setup import WireSetup
from pivet.sheets.load import find_sheet
from pivet.sources.probe import ProbeSource
from pivet.standin.live.cave import Cave, make_cave
from pivet.standin.probe.loop import Loop, MadeClock
from tests.base import PivetTest

STEP_S = 0.05
MOST_STEPS = 60_000


def wire(name: str, sheet: str | None = None, every_s: float | None = 0.0) -> WireSetup:
    """A wire of the cave; both lines of the vat."""
    lines = (f"{name}.trigger", f"{name}.echo") if name == "brine_vat" else (name,)
    return WireSetup(name, lines, find_sheet(sheet) if sheet else None, every_s)


class CaveTest(PivetTest):
    """Has a cave, a probe and a listener.

    Attributes:
        look_s: so often new exchanges are looked for.  Looking takes no time on a made clock:
            without this it would be done as often as it can be.
    """

    look_s = 0.05

    def setUp(self) -> None:
        super().setUp()
        looks = mock.patch.object(listener, "LOOK_S", self.look_s)
        looks.start()
        self.addCleanup(looks.stop)
        self.make_cave()

    def make_cave(self) -> None:
        """A cave with all its sensors, and nobody who listens."""
        self.cave: Cave = make_cave()
        self.clock = MadeClock()
        self.loop = Loop(list(self.cave.circuits.values()), self.clock)
        self.source = ProbeSource("loop", None, self.loop.open_port, self.clock)
        self.addCleanup(self.source.close)
        self.events: list[ev.Event] = []
        self.waits = itertools.count()

    def listen(self, *setups: WireSetup) -> Listener:
        """Begins to listen."""
        self.listener = Listener(
            self.source,
            lambda _: setups,
            self.clock.seconds,
            self.clock.sleep,
            waiting=lambda: next(self.waits),
        )
        self.events.append(self.listener.open())
        return self.listener

    def new_recorder(self, bench: BenchFile, label: str = "made up") -> Recorder:
        """Records what is listened to, on the made clock; somebody must give it the events."""
        about, calendar = self.listener.about, self.listener.calendar
        assert about is not None
        return Recorder(bench, about, label, calendar, self.clock.seconds)

    def passes(self, seconds: float) -> Sequence[ev.Event]:
        """Time passes; gives what was told meanwhile."""
        until, first = self.clock.seconds() + seconds, len(self.events)
        for _ in range(MOST_STEPS):
            if self.clock.seconds() >= until or self.listener.over:
                break
            self.events += self.listener.step(STEP_S)
        return self.events[first:]

    def until(self, wanted: Callable[[ev.Event], bool], most_s: float = 30.0) -> ev.Event:
        """Time passes until something is told; gives it."""
        end = self.clock.seconds() + most_s
        while self.clock.seconds() < end:
            for event in self.passes(STEP_S):
                if wanted(event):
                    return event
        raise AssertionError("waited in vain")

    def heard(self, name: str, events: Sequence[ev.Event] | None = None) -> list[ev.Heard]:
        """The exchanges of a wire."""
        every = self.events if events is None else events
        return [row for row in every if isinstance(row, ev.Heard) and row.wire == name]

    def drop_bytes(self, count: int) -> None:
        """The next bytes of the probe do not arrive."""
        left = [count]

        def spoil(data: bytes) -> bytes:
            lost = min(left[0], len(data))
            left[0] -= lost
            return data[lost:]

        self.loop.spoil = spoil

    @property
    def now_us(self) -> float:
        """This moment in the cave, µs."""
        return self.clock.now_ns / 1000
