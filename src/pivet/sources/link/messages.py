"""The messages of the probe link and their bytes; see docs/probe-link.md.

Numbers are little-endian; durations and distances between edges are varints.
"""

import struct
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import IntEnum, IntFlag
from typing import ClassVar

import numpy as np

from pivet.signal import varint
from pivet.signal.trace import Int64Array, Level

MAJOR, MINOR = 1, 0
"""The version that is spoken here.  A probe of another major version is not understood."""

UNKNOWN_COUNT = 0xFFFF_FFFF

MOST_LINES = 32
MOST_VARINT = 5
"""Bytes of a varint."""

SENT_WRAP = 1 << 16
MOST_TICK = 1 << 56


class Malformed(Exception):
    """A frame whose CRC holds, but whose content is none of ours."""


class Can(IntFlag):
    """What a line can do."""

    PULL_LOW = 1
    DRIVE_HIGH = 2
    PULL_UP = 4


class Drive(IntEnum):
    """How an ask drives its line: in its odd steps; in the even ones the line is let go."""

    LOW = 0
    HIGH = 1


class Reason(IntEnum):
    """Why a probe refuses a message."""

    UNKNOWN_MESSAGE = 1
    BAD_CONTENT = 2
    NO_SUCH_LINE = 3
    LINE_CANNOT = 4
    TOO_LONG = 5
    BUSY = 6
    VERSION = 7

    @property
    def says(self) -> str:
        """For people."""
        return (
            "it does not know this message",
            "it does not understand the content",
            "it has no such line",
            "the line cannot do that",
            "it is too long for its memory",
            "it is still busy with another ask",
            "it speaks another version of the probe link",
        )[self - 1]


def _unpack(form: struct.Struct, data: bytes) -> tuple[int, ...]:
    if len(data) < form.size:
        raise Malformed("too short")
    return form.unpack_from(data)


def _text(data: bytes) -> str:
    return data.decode("utf-8", errors="replace")


def _whole(kind: type[IntEnum], value: int) -> IntEnum:
    try:
        return kind(value)
    except ValueError as error:
        raise Malformed(f"no {kind.__name__} {value}") from error


@dataclass(frozen=True, slots=True)
class Hello:
    """Host: who are you?"""

    KIND: ClassVar[int] = 0x01
    major: int = MAJOR
    minor: int = MINOR

    def pack(self) -> bytes:
        """Its payload."""
        return bytes((self.major, self.minor))

    @classmethod
    def unpack(cls, data: bytes) -> "Hello":
        """From a payload."""
        return cls(*_unpack(struct.Struct("<BB"), data))


@dataclass(frozen=True, slots=True)
class AskLine:
    """Host: what is this line?"""

    KIND: ClassVar[int] = 0x02
    line: int

    def pack(self) -> bytes:
        """Its payload."""
        return bytes((self.line,))

    @classmethod
    def unpack(cls, data: bytes) -> "AskLine":
        """From a payload."""
        return cls(*_unpack(struct.Struct("<B"), data))


@dataclass(frozen=True, slots=True)
class Configure:
    """Host: switch the probe's own pull-up of a line on or off."""

    KIND: ClassVar[int] = 0x03
    line: int
    pull_up: bool

    def pack(self) -> bytes:
        """Its payload."""
        return bytes((self.line, self.pull_up))

    @classmethod
    def unpack(cls, data: bytes) -> "Configure":
        """From a payload."""
        line, flags = _unpack(struct.Struct("<BB"), data)
        return cls(line, bool(flags & 1))


@dataclass(frozen=True, slots=True)
class Listen:
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
        """From a payload."""
        return cls(*_unpack(struct.Struct("<I"), data))


@dataclass(frozen=True, slots=True)
class Ask:
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
        """From a payload."""
        ident, line, drive = _unpack(struct.Struct("<BBB"), data)
        return cls(ident, line, Drive(_whole(Drive, drive)), data[3:])


@dataclass(frozen=True, slots=True)
class HostBeat:
    """Host: I am still there; without one for 5 s a probe lets all lines go and stops."""

    KIND: ClassVar[int] = 0x06

    def pack(self) -> bytes:
        """Its payload."""
        return b""

    @classmethod
    def unpack(cls, data: bytes) -> "HostBeat":
        """From a payload."""
        return cls()


@dataclass(frozen=True, slots=True)
class IAm:
    """Probe: who it is and what it can.

    Attributes:
        boot: another number after each start of the probe.
        tick_ps: length of its tick, ps.
        lines: so many, numbered from 0.
        buffer: so many edges it can hold back.
        most_body: the longest body (kind, number, payload, CRC) that it takes, bytes.
        most_steps: the most bytes of steps in an ask.
        name: for people.
    """

    KIND: ClassVar[int] = 0x81
    FORM: ClassVar[struct.Struct] = struct.Struct("<BBHIBHHH")
    major: int
    minor: int
    boot: int
    tick_ps: int
    lines: int
    buffer: int
    most_body: int
    most_steps: int
    name: str

    def pack(self) -> bytes:
        """Its payload."""
        head = self.FORM.pack(
            self.major,
            self.minor,
            self.boot,
            self.tick_ps,
            self.lines,
            self.buffer,
            self.most_body,
            self.most_steps,
        )
        return head + self.name.encode("utf-8")

    @classmethod
    def unpack(cls, data: bytes) -> "IAm":
        """From a payload; of another major version only the version is read."""
        major, minor = _unpack(struct.Struct("<BB"), data)
        if major != MAJOR:
            return cls(major, minor, 0, 1, 0, 0, 0, 0, "")
        major, minor, boot, tick, lines, buffer, body, steps = _unpack(cls.FORM, data)
        if not tick or lines > MOST_LINES:
            raise Malformed("a tick of no length, or too many lines")
        name = _text(data[cls.FORM.size :])
        return cls(major, minor, boot, tick, lines, buffer, body, steps, name)


@dataclass(frozen=True, slots=True)
class LineIs:
    """Probe: what a line is.

    Attributes:
        line: its number.
        can: what it can do.
        level: at this moment.
        pull_up: the probe's own pull-up is on.
        name: as it stands on the board.
    """

    KIND: ClassVar[int] = 0x82
    line: int
    can: Can
    level: Level
    pull_up: bool
    name: str

    def pack(self) -> bytes:
        """Its payload."""
        state = int(self.level) | int(self.pull_up) << 1
        return bytes((self.line, self.can, state)) + self.name.encode("utf-8")

    @classmethod
    def unpack(cls, data: bytes) -> "LineIs":
        """From a payload."""
        line, can, state = _unpack(struct.Struct("<BBB"), data)
        return cls(line, Can(can & 7), Level(state & 1), bool(state & 2), _text(data[3:]))


@dataclass(frozen=True, slots=True)
class Done:
    """Probe: a message was carried out.

    Attributes:
        number: of the host's frame.
    """

    KIND: ClassVar[int] = 0x83
    number: int

    def pack(self) -> bytes:
        """Its payload."""
        return bytes((self.number,))

    @classmethod
    def unpack(cls, data: bytes) -> "Done":
        """From a payload."""
        return cls(*_unpack(struct.Struct("<B"), data))


@dataclass(frozen=True, slots=True)
class Refused:
    """Probe: a message was not carried out.

    Attributes:
        number: of the host's frame.
        reason: why not.
    """

    KIND: ClassVar[int] = 0x84
    number: int
    reason: Reason

    def pack(self) -> bytes:
        """Its payload."""
        return bytes((self.number, self.reason))

    @classmethod
    def unpack(cls, data: bytes) -> "Refused":
        """From a payload."""
        number, reason = _unpack(struct.Struct("<BB"), data)
        return cls(number, Reason(_whole(Reason, reason)))


@dataclass(frozen=True, slots=True, eq=False)
class Edges:
    """Probe: edges of one line.

    Attributes:
        line: its number.
        level: of the line behind the first edge.
        sent: so many edges of this line were sent before, since it is listened to; low 16 bits.
        first: tick of the first edge, its low 32 bits.
        quiet: behind the last edge the line is known to be quiet for so long, ticks.
        between: from each edge to the next, int64 (n - 1,), ticks, each at least 1.
    """

    KIND: ClassVar[int] = 0x85
    FORM: ClassVar[struct.Struct] = struct.Struct("<BBHI")
    line: int
    level: Level
    sent: int
    first: int
    quiet: int
    between: Int64Array = field(repr=False)

    def pack(self) -> bytes:
        """Its payload."""
        head = self.FORM.pack(self.line, self.level, self.sent, self.first)
        return head + varint.packed((self.quiet,)) + varint.packed_array(self.between)

    @classmethod
    def unpack(cls, data: bytes) -> "Edges":
        """From a payload."""
        line, level, sent, first = _unpack(cls.FORM, data)
        numbers = varint.unpacked(data[cls.FORM.size :], MOST_VARINT)
        if numbers is None or not numbers.size:
            raise Malformed("broken numbers")
        if numbers.size > 1 and int(numbers[1:].min()) < 1:
            raise Malformed("two edges at once")
        return cls(line, Level(level & 1), sent, first, int(numbers[0]), numbers[1:])

    @property
    def offsets(self) -> Int64Array:
        """Each edge from the first, int64 (n,), ticks."""
        return np.concatenate(([0], np.cumsum(self.between)))


@dataclass(frozen=True, slots=True)
class ProbeBeat:
    """Probe: all edges up to this tick were sent.

    Attributes:
        tick: its clock, 64 bits.
        levels: bit n is the level of line n.
        sent: by line that is listened to, so many edges were sent; low 16 bits.
    """

    KIND: ClassVar[int] = 0x86
    FORM: ClassVar[struct.Struct] = struct.Struct("<QII")
    tick: int
    levels: int
    sent: Mapping[int, int]

    def pack(self) -> bytes:
        """Its payload."""
        lines = sorted(self.sent)
        listening = sum(1 << line for line in lines)
        counts = struct.pack(f"<{len(lines)}H", *(self.sent[line] for line in lines))
        return self.FORM.pack(self.tick, self.levels, listening) + counts

    @classmethod
    def unpack(cls, data: bytes) -> "ProbeBeat":
        """From a payload."""
        tick, levels, listening = _unpack(cls.FORM, data)
        lines = [line for line in range(MOST_LINES) if listening >> line & 1]
        counts = _unpack(struct.Struct(f"<{len(lines)}H"), data[cls.FORM.size :])
        if tick > MOST_TICK:
            raise Malformed("a tick beyond all clocks")
        return cls(tick, levels, dict(zip(lines, counts, strict=True)))


@dataclass(frozen=True, slots=True)
class Asked:
    """Probe: an ask was carried out, and all edges of its line up to its end were sent.

    Attributes:
        ident: of the ask.
        line: its line.
        level: of the line at the end.
        sent: so many edges of the line were sent, as in ``Edges``.
        begin, end: low 32 bits of the ticks of its first edge and of its end.
    """

    KIND: ClassVar[int] = 0x87
    FORM: ClassVar[struct.Struct] = struct.Struct("<BBBHII")
    ident: int
    line: int
    level: Level
    sent: int
    begin: int
    end: int

    def pack(self) -> bytes:
        """Its payload."""
        return self.FORM.pack(self.ident, self.line, self.level, self.sent, self.begin, self.end)

    @classmethod
    def unpack(cls, data: bytes) -> "Asked":
        """From a payload."""
        ident, line, level, sent, begin, end = _unpack(cls.FORM, data)
        return cls(ident, line, Level(level & 1), sent, begin, end)


@dataclass(frozen=True, slots=True)
class Lost:
    """Probe: it could not record or send some edges.

    Attributes:
        line: its number.
        level: of the line at ``until``.
        since, until: low 32 bits of the ticks between which the line is not known.
        count: so many edges; ``UNKNOWN_COUNT`` when the probe cannot say.
    """

    KIND: ClassVar[int] = 0x88
    FORM: ClassVar[struct.Struct] = struct.Struct("<BBIII")
    line: int
    level: Level
    since: int
    until: int
    count: int

    def pack(self) -> bytes:
        """Its payload."""
        return self.FORM.pack(self.line, self.level, self.since, self.until, self.count)

    @classmethod
    def unpack(cls, data: bytes) -> "Lost":
        """From a payload."""
        line, level, since, until, count = _unpack(cls.FORM, data)
        return cls(line, Level(level & 1), since, until, count)


HostMessage = Hello | AskLine | Configure | Listen | Ask | HostBeat
ProbeMessage = IAm | LineIs | Done | Refused | Edges | ProbeBeat | Asked | Lost

FROM_HOST: dict[int, type[HostMessage]] = {
    row.KIND: row for row in (Hello, AskLine, Configure, Listen, Ask, HostBeat)
}
FROM_PROBE: dict[int, type[ProbeMessage]] = {
    row.KIND: row for row in (IAm, LineIs, Done, Refused, Edges, ProbeBeat, Asked, Lost)
}
"""The messages of either side, by their kind."""
