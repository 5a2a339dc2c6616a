"""What a host says to a probe."""

import struct
from typing import ClassVar

from pivet.frozen import FrozenValue
from pivet.sources.link.words import MAJOR, MINOR, Drive, member, unpack_from


class Hello(FrozenValue):
    """Host: who are you?"""

    KIND: ClassVar[int] = 0x01
    major: int = MAJOR
    minor: int = MINOR

    def pack(self) -> bytes:
        """Its payload."""
        return bytes((self.major, self.minor))

    @classmethod
    def unpack(cls, data: bytes) -> "Hello":
        """From a payload.

        Args:
            data: payload of the frame.
        """
        return cls(*unpack_from(struct.Struct("<BB"), data))


class AskLine(FrozenValue):
    """Host: what is this line?"""

    KIND: ClassVar[int] = 0x02
    line: int

    def pack(self) -> bytes:
        """Its payload."""
        return bytes((self.line,))

    @classmethod
    def unpack(cls, data: bytes) -> "AskLine":
        """From a payload.

        Args:
            data: payload of the frame.
        """
        return cls(*unpack_from(struct.Struct("<B"), data))


class Configure(FrozenValue):
    """Host: switch the probe's own pull-up of a line on or off."""

    KIND: ClassVar[int] = 0x03
    line: int
    pull_up: bool

    def pack(self) -> bytes:
        """Its payload."""
        return bytes((self.line, self.pull_up))

    @classmethod
    def unpack(cls, data: bytes) -> "Configure":
        """From a payload.

        Args:
            data: payload of the frame.
        """
        line, flags = unpack_from(struct.Struct("<BB"), data)
        return cls(line, bool(flags & 1))


class Listen(FrozenValue):
    """Host: record the edges of these lines, of no others; none stops.

    Attributes:
        lines: bit n for line n.
    """

    KIND: ClassVar[int] = 0x04
    lines: int

    def pack(self) -> bytes:
        """Its payload."""
        return struct.pack("<I", self.lines)

    @classmethod
    def unpack(cls, data: bytes) -> "Listen":
        """From a payload.

        Args:
            data: payload of the frame.
        """
        return cls(*unpack_from(struct.Struct("<I"), data))


class Ask(FrozenValue):
    """Host: drive a line for so long, let it go for so long, and so on; then only listen.

    Attributes:
        ident: chosen by the host, comes back in ``Asked``.
        line: number of the line.
        drive: to which level.
        steps: the varints, with 0, k, n for "the last k once more, n times"; µs.
    """

    KIND: ClassVar[int] = 0x05
    ident: int
    line: int
    drive: Drive
    steps: bytes

    def pack(self) -> bytes:
        """Its payload."""
        return bytes((self.ident, self.line, self.drive)) + self.steps

    @classmethod
    def unpack(cls, data: bytes) -> "Ask":
        """From a payload.

        Args:
            data: payload of the frame.
        """
        ident, line, drive = unpack_from(struct.Struct("<BBB"), data)
        return cls(ident, line, Drive(member(Drive, drive)), data[3:])


class HostBeat(FrozenValue):
    """Host: I am still there; without one for 5 s a probe lets all lines go and stops."""

    KIND: ClassVar[int] = 0x06

    def pack(self) -> bytes:
        """Its payload."""
        return b""

    @classmethod
    def unpack(cls, data: bytes) -> "HostBeat":
        """From a payload.

        Args:
            data: payload of the frame.
        """
        return cls()


class AskStamps(FrozenValue):
    """Host: how exact are the stamps of this line?  Since 1.1."""

    KIND: ClassVar[int] = 0x07
    line: int

    def pack(self) -> bytes:
        """Its payload."""
        return bytes((self.line,))

    @classmethod
    def unpack(cls, data: bytes) -> "AskStamps":
        """From a payload.

        Args:
            data: payload of the frame.
        """
        return cls(*unpack_from(struct.Struct("<B"), data))
