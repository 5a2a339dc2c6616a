"""A raw host at a simulated board: what the chip tells, beside what its pins did."""

import contextlib
import os
import select
import termios
import time
import tty
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TypeVar

import numpy as np

from pivet.signal import varint
from pivet.signal.trace import Int64Array
from pivet.sources.link import messages as msg
from pivet.sources.link.host import Heard, LinkHost
from pivet.standin.board import BAUD, CHIPS, Board, built
from tests.base import PivetTest
from tests.patience import PATIENCE_S

LINES = {
    "atmega328p": ("D2", "D3", "D4", "D8", "D9", "A0"),
    "atmega2560": ("D2", "D3", "D18", "D19", "D10", "D20", "D49", "D48"),
}
SPEEDS = {1_000_000: termios.B1000000, 500_000: termios.B500000, 115_200: termios.B115200}
CYCLES_PER_US = 16
BEAT_S = 0.5

M = TypeVar("M")


class InVain(AssertionError):
    """What was to come did not."""


class Chip:
    """A board with a raw host at its port, as fast as this computer simulates it.

    Args:
        folder: for the record of its pins, and edges to be played.
        attached: what hangs on its lines.
        chip: which one.
        baud: speed of its line.
        free: does not keep the world's pace.
        minor: version that the host speaks.
    """

    def __init__(
        self,
        folder: Path,
        attached: Sequence[str] = (),
        chip: str = CHIPS[0],
        baud: int = BAUD,
        free: bool = True,
        minor: int = msg.MINOR,
    ) -> None:
        self._folder, self._names = folder, LINES[chip]
        self._record = folder / "pins.txt"
        options = ["--record", str(self._record), *(["--free"] if free else [])]
        self.board = Board(attached, chip, baud, options)
        self._port = os.open(self.board.path, os.O_RDWR | os.O_NOCTTY)
        tty.setraw(self._port)
        settings = termios.tcgetattr(self._port)
        settings[4] = settings[5] = SPEEDS[baud]
        termios.tcsetattr(self._port, termios.TCSANOW, settings)
        self.host = LinkHost()
        self.told: list[object] = []
        self._beat = 0.0
        self.hello(minor)

    def hello(self, minor: int = msg.MINOR) -> msg.IAm:
        """Says hello until it is answered."""
        self.told.clear()
        until = time.monotonic() + PATIENCE_S
        while time.monotonic() < until:
            os.write(self._port, b"\0")
            self.send(msg.Hello(minor=minor))
            with contextlib.suppress(AssertionError):
                found = self.wait(msg.IAm, 0.5)
                self.host.believe(found)
                self.wait(msg.ProbeBeat)
                return found
        raise AssertionError("the chip does not answer")

    def number(self, line: str) -> int:
        """Of a line."""
        return self._names.index(line)

    def send(self, message: msg.HostMessage) -> int:
        """Says something; gives the number of its frame."""
        number, data = self.host.pack(message)
        os.write(self._port, data)
        return number

    def take(self, seconds: float) -> None:
        """Hears what comes, and keeps the chip listening."""
        now = time.monotonic()
        if now - self._beat > BEAT_S:
            self._beat = now
            self.send(msg.HostBeat())
        if select.select([self._port], [], [], seconds)[0]:
            self.told += self.host.feed(os.read(self._port, 1 << 16))

    def wait(self, kind: type[M], seconds: float = PATIENCE_S) -> M:
        """The next message of a kind."""
        found: list[M] = []

        def there() -> bool:
            found[:] = [row for row in self.told if isinstance(row, kind)][:1]
            return bool(found)

        self.until(there, seconds)
        self.told.remove(found[0])
        return found[0]

    def until(self, there: Callable[[], bool], seconds: float = PATIENCE_S) -> None:
        """Hears until something is so."""
        until = time.monotonic() + seconds
        while not there():
            if time.monotonic() > until:
                raise InVain("waited in vain for the chip")
            self.take(0.02)

    def listen(self, *lines: str) -> None:
        """Listens to lines."""
        self.send(msg.Listen(sum(1 << self.number(line) for line in lines)))
        self.wait(msg.Done)
        self.until(lambda: all(self.number(line) in self.host._lines for line in lines))

    def ask(self, line: str, steps: Sequence[int], high: bool = False, ident: int = 9) -> int:
        """Asks; gives the number of the frame."""
        drive = msg.Drive.HIGH if high else msg.Drive.LOW
        return self.send(msg.Ask(ident, self.number(line), drive, varint.packed(tuple(steps))))

    def play(self, line: str, widths_ns: Int64Array) -> None:
        """Plays edges on a line; the first width is the wait."""
        path = self._folder / f"{line}.bin"
        widths_ns.astype(np.int64).tofile(path)
        self.board.order(f"play {line} {path}")

    def heard(self, line: str) -> list[Heard]:
        """What was told of a line."""
        number = self.number(line)
        return [row for row in self.told if isinstance(row, Heard) and row.line == number]

    def edges_us(self, line: str) -> np.ndarray:
        """Edges of a line, as they were told, µs of the chip's clock."""
        parts = [row.ticks for row in self.heard(line)]
        return np.concatenate([np.empty(0), *parts]) * 0.5

    def lost(self, line: str) -> list[int | None]:
        """How many edges are missing, gap by gap."""
        gaps = [row.gap for row in self.heard(line) if row.gap is not None]
        return [gap.count for gap in gaps if gap.count != 0]

    def pins_us(self) -> dict[str, np.ndarray]:
        """Edges of all lines, as the simulator saw them at the pins, µs; ends the chip."""
        self.close()
        found: dict[str, list[int]] = {}
        for row in self._record.read_text().splitlines():
            cycle, line, _ = row.split()
            found.setdefault(line, []).append(int(cycle))
        return {line: np.array(cycles) / CYCLES_PER_US for line, cycles in found.items()}

    def close(self) -> None:
        """Ends it."""
        self.board.close()
        with contextlib.suppress(OSError):
            os.close(self._port)


class ChipTest(PivetTest):
    """Has simulated chips."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        built()

    def chip(self, *attached: str, **options: object) -> Chip:
        """A chip that ends with the test."""
        chip = Chip(self.folder, attached, **options)  # type: ignore[arg-type]
        self.addCleanup(chip.close)
        return chip
