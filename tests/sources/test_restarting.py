"""Boards that restart when their port is opened, at a speed that nobody knows."""

import os
import select
import termios
import threading
import time
import tty

from pivet.sources.probe import ProbeSource
from pivet.sources.source import SourceError
from pivet.standin.live.cave import make_cave
from pivet.standin.probe.device import TICK_NS, LinkProbe
from tests.base import PivetTest

SPEEDS = {1_000_000: termios.B1000000, 500_000: termios.B500000, 115_200: termios.B115200}


class Board(threading.Thread):
    """A board at a pseudo-terminal: hears nothing while its boot loader runs.

    Args:
        baud: what it hears and says is noise for who goes at another speed.
        deaf_s: from the opening of its port.
    """

    def __init__(self, baud: int, deaf_s: float) -> None:
        super().__init__(daemon=True)
        self._speed, self._deaf_s = SPEEDS[baud], deaf_s
        self._master, self._slave = os.openpty()
        tty.setraw(self._slave)
        self.path = os.ttyname(self._slave)
        self.speeds: list[int] = []
        self._ended = threading.Event()

    def run(self) -> None:
        """Until it is ended."""
        probe, began = LinkProbe(list(make_cave().circuits.values()), 1), time.monotonic()
        while not self._ended.is_set():
            now_s = time.monotonic() - began
            ready = select.select([self._master], [], [], 0.005)[0]
            data = os.read(self._master, 4096) if ready else b""
            speed = termios.tcgetattr(self._slave)[4]
            if not self.speeds or self.speeds[-1] != speed:
                self.speeds.append(speed)
            if now_s < self._deaf_s:
                continue
            right = speed == self._speed
            now = round(now_s * 1e9) // TICK_NS
            probe.feed(data if right else bytes(byte ^ 0xA5 for byte in data), now)
            said = probe.poll(now)
            if said:
                os.write(self._master, said if right else bytes(byte ^ 0x5A for byte in said))

    def end(self) -> None:
        """The board is pulled off."""
        self._ended.set()
        self.join()
        os.close(self._slave)
        os.close(self._master)


class Restarting(PivetTest):
    """A port is opened once: each opening restarts the board."""

    def board(self, baud: int, deaf_s: float) -> Board:
        """A board that was plugged in."""
        board = Board(baud, deaf_s)
        board.start()
        self.addCleanup(board.end)
        return board

    def test_each_speed(self) -> None:
        """Found whatever its speed, at once or after a boot loader of more than a second."""
        for baud, deaf_s in ((1_000_000, 1.3), (115_200, 1.6), (500_000, 0.0)):
            with self.subTest(baud=baud, deaf_s=deaf_s):
                board = self.board(baud, deaf_s)
                source = ProbeSource(board.path)
                about = source.open()
                self.addCleanup(source.close)
                self.assertIn("cave.shelf_A", [line.name for line in about.lines])
                self.assertEqual(SPEEDS[baud], board.speeds[-1])

    def test_a_given_speed(self) -> None:
        """It is waited for as long, and no other is tried."""
        board = self.board(115_200, 1.3)
        source = ProbeSource(board.path, 115_200)
        source.open()
        self.addCleanup(source.close)
        self.assertLessEqual(set(board.speeds[1:]), {SPEEDS[115_200]})
        other = self.board(115_200, 0.0)
        with self.assertRaisesRegex(SourceError, "no probe link|nobody there"):
            ProbeSource(other.path, 500_000).open()
