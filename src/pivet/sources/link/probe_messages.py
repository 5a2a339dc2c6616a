"""What a probe says to its host."""

import struct
from collections.abc import Mapping
from typing import ClassVar

import msgspec
import numpy as np

from pivet.frozen import FrozenObject, FrozenValue
from pivet.signal import varint
from pivet.signal.trace import BoolArray, Int64Array, Level
from pivet.sources.link.words import (
    MAJOR,
    MOST_LINES,
    MOST_TICK,
    MOST_VARINT,
    Can,
    Malformed,
    Reason,
    member,
    text_of,
    unpack_from,
)


class IAm(FrozenValue):
    """Probe: who it is and what it can.

    Attributes:
        boot: another number after each start of the probe.
        tick_ps: length of its tick, ps.
        lines: so many, numbered from 0.
        buffer: how many edges it can hold back.
        most_body: the longest body (kind, number, payload, CRC) that it takes, bytes.
        most_steps: the most bytes of steps in an ask.
        name: as people read it.
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
        """From a payload; of another major version only the version is read.

        Args:
            data: payload of the frame.

        Raises:
            Malformed: the payload makes no sense.
        """
        major, minor = unpack_from(struct.Struct("<BB"), data)
        if major != MAJOR:
            return cls(major, minor, 0, 1, 0, 0, 0, 0, "")
        major, minor, boot, tick, lines, buffer, body, steps = unpack_from(cls.FORM, data)
        if not tick or lines > MOST_LINES:
            raise Malformed("a tick of no length, or too many lines")
        name = text_of(data[cls.FORM.size :])
        return cls(major, minor, boot, tick, lines, buffer, body, steps, name)


class LineIs(FrozenValue):
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
        """From a payload.

        Args:
            data: payload of the frame.
        """
        line, can, state = unpack_from(struct.Struct("<BBB"), data)
        return cls(line, Can(can & 7), Level(state & 1), bool(state & 2), text_of(data[3:]))


class Done(FrozenValue):
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
        """From a payload.

        Args:
            data: payload of the frame.
        """
        return cls(*unpack_from(struct.Struct("<B"), data))


class Refused(FrozenValue):
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
        """From a payload.

        Args:
            data: payload of the frame.
        """
        number, reason = unpack_from(struct.Struct("<BB"), data)
        return cls(number, Reason(member(Reason, reason)))


class Edges(FrozenObject):
    """Probe: edges of one line.

    Attributes:
        line: its number.
        level: of the line after the first edge.
        sent: how many edges of this line were sent before, since it is listened to; low 16 bits.
        first: tick of the first edge, its low 32 bits.
        quiet: after the last edge the line is known to be quiet for so long, ticks.
        between: from each edge to the next, int64 (n - 1,), ticks, each at least 1.
        loose: those of ``between`` that are only the most it can be, bool (n - 1,).
    """

    KIND: ClassVar[int] = 0x85
    FORM: ClassVar[struct.Struct] = struct.Struct("<BBHI")
    line: int
    level: Level
    sent: int
    first: int
    quiet: int
    between: Int64Array
    loose: BoolArray = msgspec.field(default_factory=lambda: np.empty(0, dtype=np.bool_))

    def pack(self) -> bytes:
        """Its payload."""
        head = self.FORM.pack(self.line, self.level, self.sent, self.first)
        numbers = np.insert(self.between, np.flatnonzero(self.loose), 0)
        return head + varint.packed((self.quiet,)) + varint.packed_array(numbers)

    @classmethod
    def unpack(cls, data: bytes) -> "Edges":
        """From a payload.

        Args:
            data: payload of the frame.

        Raises:
            Malformed: the payload makes no sense.
        """
        line, level, sent, first = unpack_from(cls.FORM, data)
        numbers = varint.unpacked(data[cls.FORM.size :], MOST_VARINT)
        if numbers is None or not numbers.size:
            raise Malformed("broken numbers")
        distances = numbers[1:]
        marks = distances == 0
        between = distances[~marks]
        if marks.size and (marks[-1] or (marks[1:] & marks[:-1]).any()):
            raise Malformed("two edges at once")
        loose = np.concatenate(([False], marks[:-1]))[~marks] if marks.size else marks
        return cls(line, Level(level & 1), sent, first, int(numbers[0]), between, loose)

    @property
    def offsets(self) -> Int64Array:
        """Each edge from the first, int64 (n,), ticks; where only the most is known, half of it."""
        found = np.concatenate(([0], np.cumsum(self.between)))
        if self.loose.any():
            found[1:] -= np.where(self.loose, self.between // 2, 0)
        return found


class ProbeBeat(FrozenValue):
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
        """From a payload.

        Args:
            data: payload of the frame.

        Raises:
            Malformed: the payload makes no sense.
        """
        tick, levels, listening = unpack_from(cls.FORM, data)
        lines = [line for line in range(MOST_LINES) if listening >> line & 1]
        counts = unpack_from(struct.Struct(f"<{len(lines)}H"), data[cls.FORM.size :])
        if tick > MOST_TICK:
            raise Malformed("a tick beyond all clocks")
        return cls(tick, levels, dict(zip(lines, counts, strict=True)))


class Asked(FrozenValue):
    """Probe: an ask was carried out, and all edges of its line up to its end were sent.

    Attributes:
        ident: the ident of the ask.
        line: its line.
        level: of the line at the end.
        sent: how many edges of the line were sent, as in ``Edges``.
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
        """From a payload.

        Args:
            data: payload of the frame.
        """
        ident, line, level, sent, begin, end = unpack_from(cls.FORM, data)
        return cls(ident, line, Level(level & 1), sent, begin, end)


class Lost(FrozenValue):
    """Probe: it could not record or send some edges.

    Attributes:
        line: its number.
        level: of the line at ``until``.
        since, until: low 32 bits of the ticks between which the line is not known.
        count: how many edges; ``UNKNOWN_COUNT`` when the probe cannot say.
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
        """From a payload.

        Args:
            data: payload of the frame.
        """
        line, level, since, until, count = unpack_from(cls.FORM, data)
        return cls(line, Level(level & 1), since, until, count)


class Stamps(FrozenValue):
    """Probe: how exact the stamps of a line are.  Since 1.1.

    Attributes:
        line: its number.
        wrong_ns: no distance between two of its edges is told more wrongly than by this, ns.
        shortest_ns: a pulse of at least this length is told with its width, ns.
        seen_ns: a shorter one is told as there from this length on, ns.
    """

    KIND: ClassVar[int] = 0x89
    FORM: ClassVar[struct.Struct] = struct.Struct("<BIII")
    line: int
    wrong_ns: int
    shortest_ns: int
    seen_ns: int

    def pack(self) -> bytes:
        """Its payload."""
        return self.FORM.pack(self.line, self.wrong_ns, self.shortest_ns, self.seen_ns)

    @classmethod
    def unpack(cls, data: bytes) -> "Stamps":
        """From a payload.

        Args:
            data: payload of the frame.
        """
        return cls(*unpack_from(cls.FORM, data))
