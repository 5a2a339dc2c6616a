"""A probe at a port: what is refused, lost and dropped."""

import errno
import os
import termios
import time
from types import SimpleNamespace
from typing import Any
from unittest import mock

from pivet.signal.trace import Level
from pivet.sources.ask import Ask
from pivet.sources.link import messages as msg
from pivet.sources.link.frames import FrameReader, frame_bytes
from pivet.sources.port import Port, PortRow, ports, refusal
from pivet.sources.probe import ProbeSource
from pivet.sources.registry import make_source
from pivet.sources.source import SourceError, SourceLost
from pivet.standin.live.cave import make_cave
from pivet.standin.probe.loop import Loop, MadeClock
from tests.base import PivetTest


class FakePort:
    """A port with something else at its other end."""

    def __init__(self, answer: Any) -> None:
        self._answer, self._out, self.reader = answer, b"", FrameReader()

    def read(self, timeout_s: float) -> bytes:
        out, self._out = self._out, b""
        if not out:
            time.sleep(min(timeout_s, 0.01))
        return out

    def write(self, data: bytes) -> None:
        for frame in self.reader.feed(data):
            self._out += self._answer(frame)

    def set_baud(self, baud: int) -> None:
        pass

    def close(self) -> None:
        pass


class Probe(PivetTest):
    """What can be wrong with a probe, each in a sentence."""

    def refused(self, answer: Any) -> str:
        """Why a probe that answers so cannot be opened."""
        source = ProbeSource("/dev/x", 115_200, lambda _url, _baud: FakePort(answer))
        with self.assertRaises(SourceError) as caught:
            source.open()
        return str(caught.exception)

    def test_other_devices(self) -> None:
        """Silence, another protocol, another version."""
        self.assertIn("nobody there answers", self.refused(lambda _: b""))
        self.assertIn("no probe link", self.refused(lambda _: b"ready\r\n\0ok\0"))
        newer = msg.IAm(2, 3, 1, 1000, 1, 1, 1, 1, "x")
        says = self.refused(lambda _: frame_bytes(newer.KIND, 0, newer.pack()[:2]))
        self.assertIn("version 2", says)
        self.assertIn("newer Pivet", says)

    def test_falls_silent(self) -> None:
        """A probe that says nothing for 3 s is gone."""
        clock = MadeClock()
        loop = Loop(list(make_cave().circuits.values()), clock)
        source = ProbeSource("loop", None, loop.open_port, clock)
        source.open()
        loop.spoil = lambda _: b""
        with self.assertRaisesRegex(SourceLost, "not spoken for 3 s"):
            for _ in range(200):
                source.read(0.05)

    def test_restarts_unseen(self) -> None:
        """A probe that starts anew without leaving its port no longer listens: that is seen."""
        clock = MadeClock()
        loop = Loop(list(make_cave().circuits.values()), clock)
        source = ProbeSource("loop", None, loop.open_port, clock)
        source.open()
        source.listen(["shelf_A"])
        for _ in range(20):
            source.read(0.05)
        beat = msg.ProbeBeat(10**9, 0, {})
        loop.spoil = lambda _: frame_bytes(beat.KIND, 0, beat.pack())
        with self.assertRaisesRegex(SourceLost, "has restarted"):
            for _ in range(20):
                source.read(0.05)

    def test_refused_asks(self) -> None:
        """A second ask on a busy line is refused; the first goes on and is told once."""
        clock = MadeClock()
        loop = Loop(list(make_cave().circuits.values()), clock)
        source = ProbeSource("loop", None, loop.open_port, clock)
        source.open()
        source.listen(["shelf_A"])
        first = source.ask(Ask("shelf_A", (1000,)))
        second = source.ask(Ask("shelf_A", (1000,)))
        done = {row.ident: row.refused for _ in range(20) for row in source.read(0.02).asked}
        self.assertEqual({first, second}, set(done))
        self.assertEqual("", done[first])
        self.assertIn("busy", done[second])
        self.assertEqual({}, source._asks)

    def test_lines_that_cannot(self) -> None:
        """Driving high what must not be; lines that are not there; asks that are too long."""
        clock = MadeClock()
        loop = Loop(list(make_cave().circuits.values()), clock)
        source = ProbeSource("loop", None, loop.open_port, clock)
        source.open()
        with self.assertRaisesRegex(SourceError, "driven high"):
            source.ask(Ask("shelf_A", (10,), Level.HIGH))
        with self.assertRaisesRegex(SourceError, "no line 'moon'"):
            source.listen(["moon"])
        long = Ask("wheels", tuple(range(1, 700)))
        self.assertFalse(source.fits(long))
        with self.assertRaisesRegex(SourceError, "too long"):
            source.ask(long)

    def test_ports(self) -> None:
        """No port, no right, taken, nobody there."""
        with self.assertRaisesRegex(SourceError, "no port"):
            Port("/dev/no-such-port", 115_200)
        with self.assertRaisesRegex(SourceError, "nobody answers"):
            Port("socket://127.0.0.1:9", 115_200)
        told = str(refusal("/dev/null", PermissionError(errno.EACCES, "x")))
        self.assertIn("join the group", told)
        self.assertIn("taken", str(refusal("/dev/x", OSError(errno.EBUSY, "x"))))
        with self.assertRaisesRegex(SourceError, "names no source"):
            make_source("moonshine")

    def test_terminal_that_goes_away(self) -> None:
        """Between being opened and being set up, or while its speed changes."""
        ours, theirs = os.openpty()
        self.addCleanup(os.close, ours)
        self.addCleanup(os.close, theirs)
        path = os.ttyname(theirs)
        gone = mock.Mock(side_effect=termios.error(errno.EIO, "Input/output error"))
        refused = self.assertRaisesRegex(SourceError, "cannot be opened .*Input/output error")
        with mock.patch("termios.tcsetattr", gone), refused:
            Port(path, 115_200)
        port = Port(path, 115_200)
        self.addCleanup(port.close)
        with mock.patch("termios.tcsetattr", gone), self.assertRaises(SourceLost):
            port.set_baud(57_600)

    def test_taken_port(self) -> None:
        """Two programs cannot use one port."""
        master, slave = os.openpty()
        self.addCleanup(os.close, master)
        path = os.ttyname(slave)
        first = Port(path, 115_200)
        self.addCleanup(os.close, slave)
        self.addCleanup(first.close)
        with self.assertRaisesRegex(SourceError, "taken"):
            Port(path, 115_200)


class Listed(PivetTest):
    """The ports that there are."""

    def test_by_name(self) -> None:
        """With what is known of each, and whether it may be used."""
        mine = self.folder / "ttyB"
        mine.touch()
        found = [
            SimpleNamespace(device=str(mine), description="a probe"),
            SimpleNamespace(device="/dev/ttyA", description="n/a"),
            SimpleNamespace(device="/dev/ttyC", description=None),
        ]
        with mock.patch("serial.tools.list_ports.comports", return_value=found[:1]):
            (row,) = ports()
            with mock.patch("os.access", lambda _, how: how == os.R_OK):
                self.assertFalse(ports()[0].usable)
            with mock.patch("os.access", lambda _, how: how == os.R_OK | os.W_OK):
                self.assertTrue(ports()[0].usable)
        self.assertEqual(PortRow(str(mine), "a probe", True), row)
        for one in found[1:]:
            with mock.patch("serial.tools.list_ports.comports", return_value=[one]):
                (row,) = ports()
            self.assertEqual(PortRow(one.device, "", False), row)
