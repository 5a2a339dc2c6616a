"""The host's side of the probe link: bytes in, pieces of lines out."""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import Enum

import numpy as np

from pivet.frozen import FrozenObject, FrozenValue
from pivet.signal import varint
from pivet.signal.trace import Int64Array, Level
from pivet.sources.ask import Ask, in_runs
from pivet.sources.link import messages as msg
from pivet.sources.link.frames import FrameReader, FrameWriter
from pivet.sources.link.words import MOST_RUN, MOST_STEP_US, MOST_TICK

WRAP = 1 << 32
MOST_NS = 1 << 61
"""Times beyond are none of this world: 73 years."""

BACK_NS = 1_000_000_000
SHORTEST_RUN = 3
"""Steps that come so often in a row are sent as a run."""


class Why(Enum):
    """Why a line is not known for a while."""

    BEGIN = "nobody listened"
    LINK = "bytes were lost on the way from the probe"
    PROBE = "the probe's memory was full"


class Missing(FrozenValue):
    """A stretch of a line that is not known.

    Attributes:
        since, until: its ticks.
        level: of the line at its end.
        count: lost edges; None when nobody knows.
        why: what happened.
    """

    since: int
    until: int
    level: Level
    count: int | None
    why: Why


class Heard(FrozenObject):
    """Edges of a line, on the probe's whole clock.

    Attributes:
        line: its number.
        ticks: strictly rising, int64 (n,).
        known_until: the line is known up to this tick.
        gap: what is missing before these edges; None when nothing is.
        loose: how many of them are told without saying when they came, only by when.
    """

    line: int
    ticks: Int64Array
    known_until: int
    gap: Missing | None = None
    loose: int = 0


@dataclass(slots=True)
class _LineState:
    """What the host knows of a line that it listens to."""

    until: int
    sent: int
    level: Level


NONE = np.empty(0, dtype=np.int64)
ProbeMessage = (
    Heard | msg.IAm | msg.LineIs | msg.Done | msg.Refused | msg.Asked | msg.ProbeBeat | msg.Stamps
)


class LinkHost:
    """Speaks with one probe.

    ``feed`` never raises, whatever arrives.  The probe counts the edges that it sends of each
    line, so the host sees how many did not arrive: then the line is not known from the last
    news of it, and ``Heard.gap`` says so.

    What cannot be is refused here and counts as lost: times beyond all clocks, edges that do not
    rise, knowledge that goes back.  So whoever gets ``Heard`` need not doubt it.

    Attributes:
        frames: finds the frames; counts damaged and missing ones.
        malformed: frames that were whole, but made no sense.
        tick: the latest tick that the probe spoke of.
        most_tick: no later tick is believed; what comes after could not be counted on.
        back_ticks: so far a later message may go back behind what is known.
    """

    def __init__(self) -> None:
        self.frames = FrameReader()
        self._writer = FrameWriter()
        self.malformed = 0
        self.tick = 0
        self.most_tick = MOST_TICK
        self.back_ticks = 0
        self._lines: dict[int, _LineState] = {}
        self._waiting: set[int] = set()
        self._listen: int | None = None

    def pack(self, message: msg.HostMessage) -> tuple[int, bytes]:
        """Number and bytes of a message's frame; ``Done`` and ``Refused`` name the number.

        Args:
            message: to the probe.
        """
        if isinstance(message, msg.Listen):
            wanted = {line for line in range(msg.MOST_LINES) if message.lines >> line & 1}
            self._waiting = wanted - self._lines.keys()
            self._lines = {line: known for line, known in self._lines.items() if line in wanted}
            self._listen, data = self._writer.write(message.KIND, message.pack())
            return self._listen, data
        return self._writer.write(message.KIND, message.pack())

    def believe(self, probe: msg.IAm) -> None:
        """Which ticks can be, by the length that a probe says they have.

        Args:
            probe: what the probe said of itself.
        """
        self.most_tick = min(MOST_NS * 1000 // probe.tick_ps, MOST_TICK)
        self.back_ticks = BACK_NS * 1000 // probe.tick_ps

    def whole_tick(self, low: int) -> int:
        """A tick of 64 bits from its low 32: that nearest to the latest known.

        Args:
            low: the low 32 bits of the tick.
        """
        ahead = (low - self.tick + WRAP // 2) % WRAP - WRAP // 2
        return max(self.tick + ahead, 0)

    def feed(self, data: bytes) -> Iterator[ProbeMessage]:
        """Takes bytes from the probe; gives what they tell.

        Args:
            data: what came, cut anywhere.
        """
        for frame in self.frames.feed(data):
            kind = msg.FROM_PROBE.get(frame.kind)
            if kind is None:
                continue
            try:
                yield from self._told(kind.unpack(frame.payload))
            except msg.Malformed:
                self.malformed += 1

    def _told(self, message: msg.ProbeMessage) -> Iterator[ProbeMessage]:
        if isinstance(message, msg.Edges):
            yield from self._edges(message)
        elif isinstance(message, msg.Lost):
            yield from self._lost(message)
        elif isinstance(message, msg.Done | msg.Refused):
            if message.number == self._listen:
                self._listen = None
            yield message
        elif isinstance(message, msg.ProbeBeat):
            # The only whole tick: after a restart of the probe it may stand anywhere, but then
            # the probe does not listen to the lines any more.
            listens = self._lines.keys() <= message.sent.keys()
            known = [stretch.until for stretch in self._lines.values()] if listens else []
            self._refuse_beyond(message.tick, max(known, default=0))
            self.tick = message.tick
            for line, sent in message.sent.items():
                level = Level(message.levels >> line & 1)
                yield from self._news(line, message.tick, level, sent)
            yield message
        elif isinstance(message, msg.Asked):
            end = self.whole_tick(message.end)
            self._refuse_beyond(end, 0)
            yield from self._news(message.line, end, message.level, message.sent)
            yield message
        else:
            yield message

    def _refuse_beyond(self, tick: int, known: int) -> None:
        """Refuses a tick beyond all clocks, or far behind what is known already.

        Raises:
            Malformed: it is.
        """
        if not known - self.back_ticks <= tick <= self.most_tick:
            raise msg.Malformed("a tick that cannot be")

    def _edges(self, message: msg.Edges) -> Iterator[Heard]:
        first = self.whole_tick(message.first)
        self._refuse_beyond(first + int(message.between.sum()) + message.quiet, 0)
        before = Level(message.level ^ 1)
        row = self._lines.get(message.line)
        gap = None
        if row is None:
            if message.line not in self._waiting or self._listen is not None:
                return
            row = self._begin(message.line, first - 1, message.sent, before)
            gap = Missing(row.until, row.until, before, 0, Why.BEGIN)
        elif first <= row.until:
            raise msg.Malformed("edges that do not rise")
        missing = (message.sent - row.sent) % msg.SENT_WRAP
        if missing or row.level is not before:
            gap = Missing(row.until, first - 1, before, missing or None, Why.LINK)
        ticks = first + message.offsets
        row.until = first + int(message.between.sum()) + message.quiet
        row.sent = (message.sent + ticks.size) % msg.SENT_WRAP
        row.level = Level(message.level ^ (message.between.size & 1))
        self.tick = max(self.tick, row.until)
        yield Heard(message.line, ticks, row.until, gap, int(message.loose.sum()))

    def _begin(self, line: int, tick: int, sent: int, level: Level) -> _LineState:
        self._waiting.discard(line)
        self._lines[line] = _LineState(tick, sent, level)
        return self._lines[line]

    def _lost(self, message: msg.Lost) -> Iterator[Heard]:
        row = self._lines.get(message.line)
        if row is None:
            return
        self._refuse_beyond(self.whole_tick(message.until), row.until)
        until = max(self.whole_tick(message.until), row.until)
        count = None if message.count == msg.UNKNOWN_COUNT else message.count
        gap = Missing(row.until, until, message.level, count, Why.PROBE)
        row.level, row.until = message.level, until
        self.tick = max(self.tick, until)
        yield Heard(message.line, NONE, until, gap)

    def _news(self, line: int, tick: int, level: Level, sent: int) -> Iterator[Heard]:
        """All edges of a line up to a tick were sent; those that did not arrive are missing."""
        row = self._lines.get(line)
        if row is None:
            if line in self._waiting and self._listen is None:
                self._begin(line, tick, sent, level)
                yield Heard(line, NONE, tick, Missing(tick, tick, level, 0, Why.BEGIN))
            return
        missing = (sent - row.sent) % msg.SENT_WRAP
        gap = None
        until = max(tick, row.until)
        if missing or row.level is not level:
            gap = Missing(row.until, until, level, missing or None, Why.LINK)
        if until > row.until or gap is not None:
            row.level, row.until, row.sent = level, until, sent
            yield Heard(line, NONE, until, gap)


def packed_steps(ask: Ask) -> bytes:
    """The steps of an ask as bytes, runs of alike slots shortened.

    Args:
        ask: what is to be driven, and how.
    """
    data = bytearray()
    for period, times in in_runs(ask.steps_us):
        if times < SHORTEST_RUN:
            data += varint.packed(period * times)
        else:
            data += varint.packed((*period, 0, len(period), times - 1))
    return bytes(data)


def unpacked_steps(data: bytes, most: int) -> list[int] | None:
    """The steps in some bytes, µs; None when they are none, too long, or more than ``most``.

    A run repeats steps that stand written right before it: nothing else has to be remembered.

    Args:
        data: as in docs/probe-link.md.
        most: how many steps may be there.
    """
    numbers = varint.unpacked(data, msg.MOST_VARINT)
    if numbers is None:
        return None
    steps: list[int] = []
    written = 0
    queue = iter(numbers.tolist())
    for number in queue:
        if number:
            steps.append(number)
            written += 1
        else:
            count, times = next(queue, 0), next(queue, 0)
            if not 0 < count <= min(written, MOST_RUN) or len(steps) + count * times > most:
                return None
            steps += steps[-count:] * times
            written = 0
        if number > MOST_STEP_US or len(steps) > most:
            return None
    return steps or None
