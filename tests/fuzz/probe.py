"""A hostile probe: whole frames with impossible content."""

from typing import Any

import numpy as np

from pivet.errors import PivetError
from pivet.frozen import replace
from pivet.listening import events as ev
from pivet.listening.listener import Listener
from pivet.listening.setup import WireSetup
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level
from pivet.sources.link import messages as msg
from pivet.sources.link.frames import FrameReader, frame_bytes
from pivet.sources.probe import ProbeSource
from pivet.standin.live.cave import make_cave
from pivet.standin.probe.loop import Loop, MadeClock
from tests.fuzz.base import HOSTILE_TEXTS, Fuzzer

WIRES = (
    ("shelf_A", ("shelf_A",), "dht22"),
    ("wheels", ("wheels",), "onewire"),
    ("brine_vat", ("brine_vat.trigger", "brine_vat.echo"), "hc-sr04"),
)
MOST_NS = 2**62


class HostileProbe(Fuzzer):
    """A probe of the cave, of whose messages some are changed on the way."""

    name = "probe"
    few = 7

    def case(self, rng: np.random.Generator) -> None:
        """Listens for a while; whatever comes is refused in the link, nothing raises."""
        clock = MadeClock()
        loop = Loop(list(make_cave().circuits.values()), clock)
        source = ProbeSource("loop", None, loop.open_port, clock)
        reader, share = FrameReader(), float(rng.choice([0.02, 0.2, 0.9]))

        def spoil(data: bytes) -> bytes:
            frames = [self.changed(row, rng, share) for row in reader.feed(data)]
            return b"".join(frames)

        loop.spoil = spoil
        setups = [WireSetup(name, lines, find_sheet(sheet), 0.0) for name, lines, sheet in WIRES]
        listener = Listener(source, lambda _: setups, clock.seconds, clock.sleep)
        until: dict[str, int] = {}
        try:
            self.check(listener.open(), until)
            for _ in range(60):
                for event in listener.step(0.05):
                    self.check(event, until)
            for event in listener.finish():
                self.check(event, until)
            self.taken += 1
        except PivetError as error:
            self.refuse(error)
        finally:
            listener.close()

    def changed(self, frame: Any, rng: np.random.Generator, share: float) -> bytes:
        """A frame as it was, or with another content."""
        kind = msg.FROM_PROBE.get(frame.kind)
        payload = frame.payload
        if kind is not None and rng.random() < share:
            try:
                message: Any = kind.unpack(payload)
                name = str(rng.choice(message.__struct_fields__))
                message = replace(message, **{name: self.hostile(getattr(message, name), rng)})
                payload = message.pack()
            except Exception:  # noqa: BLE001  what cannot be packed becomes noise
                payload = rng.bytes(int(rng.integers(0, 60)))
        return frame_bytes(frame.kind, frame.number, payload)

    def hostile(self, value: Any, rng: np.random.Generator) -> Any:
        """Another value of the same kind."""
        if isinstance(value, np.ndarray):
            made = 10 ** rng.uniform(0, 10.5, int(rng.integers(1, 300)))
            return np.minimum(made.astype(np.int64) + 1, 2**35 - 1)
        if isinstance(value, Level):
            return Level(int(rng.integers(0, 2)))
        if isinstance(value, dict):
            return {line: int(rng.integers(0, 65536)) for line in range(int(rng.integers(0, 32)))}
        if isinstance(value, str):
            return str(rng.choice(HOSTILE_TEXTS)).encode("utf-8", "replace").decode()[:100]
        if isinstance(value, int):
            bits = int(rng.choice([1, 4, 8, 16, 31, 32, 40, 55, 56, 62]))
            return int(rng.choice([0, value + 1, max(value - 10**6, 0), 2**bits - 1]))
        return value

    def check(self, event: ev.Event, until: dict[str, int]) -> None:
        """Edges rise, nothing that is known goes back, every exchange can be shown."""
        if isinstance(event, ev.Heard):
            event.report()
        elif isinstance(event, ev.Away):
            until.clear()
        for piece in event.pieces if isinstance(event, ev.Edges) else ():
            edges, known = piece.edges_ns, piece.known_until_ns
            assert -MOST_NS < known < MOST_NS
            assert known >= until.get(piece.line, -MOST_NS), "knowledge goes back"
            if edges.size:
                assert (np.diff(edges) > 0).all(), "edges do not rise"
                assert int(edges[-1]) <= known
                assert int(edges[0]) > until.get(piece.line, -MOST_NS)
            until[piece.line] = known
