"""Serving the stand-in probe at a pseudo-terminal, until it is told to stop."""

import contextlib
import os
import select
import sys
import time
import tty
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TextIO

from pivet.errors import InputError
from pivet.standin.live.cave import Cave
from pivet.standin.live.circuit import Circuit
from pivet.standin.probe.device import TICK_NS, LinkProbe
from pivet.standin.probe.orders import Mishaps, carry_out

LONGEST_WAIT_S = 0.02
SHORTEST_WAIT_S = 0.001
CHUNK = 1 << 16
PIECE = 1 << 12


class Terminal:
    """A pseudo-terminal, and a link to it that keeps its name when the terminal changes.

    Args:
        link: path of the link; None for none.
    """

    def __init__(self, link: Path | None) -> None:
        self._link = link
        self._master, self._slave = os.openpty()
        tty.setraw(self._slave)
        os.set_blocking(self._master, False)
        self.path = os.ttyname(self._slave)
        if link is not None:
            _point(link, self.path)

    @property
    def fileno(self) -> int:
        """To wait for."""
        return self._master

    def read(self) -> bytes:
        """What the host sent."""
        with contextlib.suppress(BlockingIOError):
            return os.read(self._master, CHUNK)
        return b""

    def write(self, data: bytes) -> int:
        """Sends what fits now; gives the number of bytes that did."""
        with contextlib.suppress(BlockingIOError):
            return os.write(self._master, data[:PIECE])
        return 0

    def close(self) -> None:
        """Goes away, as a probe does that is unplugged."""
        os.close(self._master)
        os.close(self._slave)
        if self._link is not None:
            self._link.unlink(missing_ok=True)


def _point(link: Path, path: str) -> None:
    """Makes the link in one step, so that nobody finds half of it.

    Raises:
        InputError: something else stands at its place.
    """
    if link.exists() and not link.is_symlink():
        raise InputError(f"{link} is a file", "give the link a name that is not taken")
    beside = link.with_name(f".{link.name}.{os.getpid()}")
    beside.unlink(missing_ok=True)
    try:
        beside.symlink_to(path)
        beside.replace(link)
    except OSError as error:
        raise InputError(f"the link {link} cannot be made ({error.strerror})", "") from error


class Server:
    """The stand-in probe at a terminal.

    Args:
        cave: with its circuits.
        more: circuits beside those of the cave.
        link: path that always leads to the terminal; None for none.
        orders: where orders come from; None for nowhere.
        say: prints a line.
        until_eof: ends when ``orders`` ends.
    """

    def __init__(
        self,
        cave: Cave,
        more: Sequence[Circuit] = (),
        link: Path | None = None,
        orders: TextIO | None = None,
        say: Callable[[str], None] = print,
        until_eof: bool = False,
    ) -> None:
        self._cave, self._more, self._link = cave, tuple(more), link
        self._orders, self._say, self._until_eof = orders, say, until_eof
        self._mishaps = Mishaps()
        self._zero = time.monotonic_ns()
        self._boot = 0
        self._away_until: float | None = None
        self._out = bytearray()
        self._typed = b""
        self._going = True
        self._terminal: Terminal | None = None
        self._probe = self._start()

    def _start(self) -> LinkProbe:
        """The probe starts: a new terminal, a new boot number; the cave goes on."""
        self._terminal = Terminal(self._link)
        self._boot += 1
        self._out.clear()
        self._say(f"stand-in probe at {self._link or self._terminal.path}")
        return LinkProbe([*self._cave.circuits.values(), *self._more], self._boot)

    def _tick(self) -> int:
        return (time.monotonic_ns() - self._zero) // TICK_NS

    def run(self) -> None:
        """Serves until it is told to stop, or interrupted."""
        try:
            while self._going:
                self._turn()
        finally:
            if self._terminal is not None:
                self._terminal.close()
                self._terminal = None

    def _turn(self) -> None:
        if self._terminal is None:
            self._rest()
            return
        out, self._out = self._out, bytearray()
        out += self._spoiled(self._probe.poll(self._tick(), len(out)))
        if out:
            done = self._terminal.write(bytes(out))
            del out[:done]
        self._out = out
        self._wait(self._terminal)
        if self._mishaps.crash_s is not None:
            self._away_until = time.monotonic() + self._mishaps.crash_s
            self._mishaps.crash_s = None
            self._terminal.close()
            self._terminal = None

    def _rest(self) -> None:
        """The probe is away after a crash; orders are still heard."""
        self._listen_for_orders(LONGEST_WAIT_S)
        if self._away_until is not None and time.monotonic() >= self._away_until:
            self._away_until = None
            self._probe = self._start()

    def _spoiled(self, data: bytes) -> bytes:
        """The bytes that do not get lost on the way."""
        lost = min(self._mishaps.drop, len(data))
        self._mishaps.drop -= lost
        return data[lost:]

    def _wait(self, terminal: Terminal) -> None:
        """Waits for the host, an order, room to write, or the next thing to do."""
        idle = self._probe.idle_ticks(self._tick()) * TICK_NS / 1e9
        wait = min(max(idle, SHORTEST_WAIT_S), LONGEST_WAIT_S)
        readable = [terminal.fileno]
        if self._orders is not None:
            readable.append(self._orders.fileno())
        writable = [terminal.fileno] if self._out else []
        ready, _, _ = select.select(readable, writable, [], wait)
        if terminal.fileno in ready:
            self._probe.feed(terminal.read(), self._tick())
        if self._orders is not None and self._orders.fileno() in ready:
            self._listen_for_orders(0.0)

    def _listen_for_orders(self, wait_s: float) -> None:
        if self._orders is None:
            time.sleep(wait_s)
            return
        ready, _, _ = select.select([self._orders.fileno()], [], [], wait_s)
        if not ready:
            return
        data = os.read(self._orders.fileno(), CHUNK)
        if not data:
            self._orders = None
            self._going = not self._until_eof
            return
        *lines, self._typed = (self._typed + data).split(b"\n")
        for line in lines:
            self._obey(line.decode("utf-8", errors="replace"))

    def _obey(self, line: str) -> None:
        now_s = (time.monotonic_ns() - self._zero) / 1e9
        try:
            answer = carry_out(line, self._cave, self._mishaps, now_s)
        except InputError as error:
            answer = f"error: {error}"
        if answer:
            self._say(answer)


def say_line(text: str) -> None:
    """Prints a line at once."""
    sys.stdout.write(text + "\n")
    sys.stdout.flush()
