"""What every source of live edges promises.

``open``, ``listen``, then ``read`` again and again; ``ask`` drives a line; ``close``.  A
source belongs to one thread.  Times are in ns from the moment it was first opened, by the
clock of whoever stamps the edges; ``now_ns`` is the same by the host's clock.
"""

from abc import ABC, abstractmethod
from collections.abc import Sequence

import numpy as np

from pivet.errors import PivetError
from pivet.frozen import FrozenObject, FrozenValue
from pivet.signal.naming import meant, pair_meant
from pivet.signal.trace import Int64Array, Level, Trace
from pivet.sources.ask import Ask

NO_EDGES: Int64Array = np.empty(0, dtype=np.int64)
NO_EDGES.flags.writeable = False


class SourceError(PivetError):
    """A source cannot be opened, or cannot do what was wanted."""


class SourceLost(SourceError):
    """A source that was open is gone: unplugged, crashed, ended.  It may come back."""


class SourceEnded(SourceLost):
    """A source has given all that it will ever give; nothing is wrong."""


class Exactness(FrozenValue):
    """How exact the time stamps of a line are.

    Attributes:
        wrong_ns: no width is told more wrongly than by this, ns.
        shortest_ns: pulses of at least this length are told with their width, ns.
        seen_ns: shorter ones are told as there from this length on, ns; still shorter ones may
            be missed.
    """

    wrong_ns: int
    shortest_ns: int
    seen_ns: int


class LineInfo(FrozenValue):
    """A line of a source.

    Attributes:
        name: as the source calls it.
        can_pull_low, can_drive_high: what an ask can do on it.
        can_pull_up: the source has a pull-up of its own for it, which can be switched on.
        exact: how exact its stamps are; None where the source's step is all that is known.
        level: when it was looked at; None when that is not known.
        note: what a person should know of it; may be empty.
        sheet: id of the sensor type that hangs there, where the source knows it; else empty.
    """

    name: str
    can_pull_low: bool = False
    can_drive_high: bool = False
    level: Level | None = None
    note: str = ""
    can_pull_up: bool = False
    exact: Exactness | None = None
    sheet: str = ""


class About(FrozenValue):
    """What a source is.

    Attributes:
        name: as people read it.
        lines: the lines that it can listen to.
        resolution_ns: step of its time stamps, ns.
        facts: what else can be told of it, each with a word for it.
    """

    name: str
    lines: tuple[LineInfo, ...]
    resolution_ns: int
    facts: tuple[tuple[str, str], ...] = ()

    def line(self, name: str) -> LineInfo:
        """A line by name, or by a last part of its name that only one line has.

        Args:
            name: the name of the line.

        Raises:
            SourceError: there is no such line.
        """
        names = meant(name, [line.name for line in self.lines])
        found = [line for line in self.lines if line.name in names]
        if len(found) == 1:
            return found[0]
        known = ", ".join(line.name for line in self.lines) or "none"
        raise SourceError(f"{self.name} has no line {name!r}", f"its lines are: {known}")

    def resolution_of(self, names: Sequence[str]) -> int:
        """How far widths on some lines may be from the truth, ns.

        Args:
            names: the names of its lines; of others only the step is known.
        """
        exact = [line.exact for line in self.lines if line.name in names and line.exact is not None]
        return max([self.resolution_ns, *(one.wrong_ns for one in exact)])

    def wire_lines(self, names: Sequence[str]) -> tuple[str, ...]:
        """The whole names of the lines of a wire, as a person names them.

        Args:
            names: a line, trigger and echo, or what the names of those two share.

        Raises:
            SourceError: there is no such line.
        """
        every = [line.name for line in self.lines]
        if len(names) == 1 and not meant(names[0], every):
            names = pair_meant(names[0], every) or names
        return tuple(self.line(name).name for name in names)


class Gap(FrozenValue):
    """From here to there a line is not known.

    Attributes:
        start_ns, end_ns: of the stretch that is not known; equal where listening begins, ns.
        level: of the line at its end.
        lost: how many edges; None when nobody can say.
        why: for people; empty where listening begins.
    """

    start_ns: int
    end_ns: int
    level: Level
    lost: int | None = None
    why: str = ""


class Piece(FrozenObject):
    """What was heard of one line since the last piece of it.

    Attributes:
        line: its name.
        edges_ns: strictly rising, after those of the last piece, int64 (n,), ns.
        known_until_ns: the line is known up to here, ns.
        gap: what is missing before these edges; the first piece of a line has one.
        resolution_ns: step of these time stamps where it is not the source's, ns; else 0.
    """

    line: str
    edges_ns: Int64Array
    known_until_ns: int
    gap: Gap | None = None
    resolution_ns: int = 0


class AskDone(FrozenValue):
    """An ask was carried out.

    Attributes:
        ident: as ``ask`` gave it.
        begin_ns, end_ns: of its first edge and of its last step, ns.
        late_us: the worst step came so much later than wanted, µs; 0 where the source keeps
            time by itself.
        refused: why it was not carried out; empty when it was.
    """

    ident: int
    begin_ns: int
    end_ns: int
    late_us: float = 0.0
    refused: str = ""


class Batch(FrozenObject):
    """What a source has to tell.

    Attributes:
        pieces: the pieces, in order of time for each line.
        asked: asks that are over.
        notes: troubles that did not end anything, each in a sentence.
        capture: of which the pieces are the whole; None when they are a part of what comes.
    """

    pieces: tuple[Piece, ...] = ()
    asked: tuple[AskDone, ...] = ()
    notes: tuple[str, ...] = ()
    capture: Trace | None = None

    @property
    def empty(self) -> bool:
        """Nothing is new."""
        return not (self.pieces or self.asked or self.notes)


class Source(ABC):
    """A source of live edges; see the module.

    Attributes:
        returns: after ``SourceLost`` it may be opened again, and then goes on.
        can_ask: asks can be made at all.
        grows: its lines are not known beforehand; they come with their first piece.
        replays: its time is that of a recording, at whatever pace it is played.
    """

    returns: bool = True
    replays: bool = False
    grows: bool = False
    can_ask: bool = False

    @property
    @abstractmethod
    def name(self) -> str:
        """For people, as it was asked for."""

    @abstractmethod
    def open(self) -> About:
        """Opens it, or opens it again after it was lost; the clock goes on.

        Raises:
            SourceError: it cannot be opened; says why, and what to do.
        """

    @abstractmethod
    def listen(self, lines: Sequence[str]) -> None:
        """Listens to these lines from now on, and to no others.

        Args:
            lines: names of lines; none means all.

        Raises:
            SourceError: there is no such line, or too many are wanted.
            SourceLost: it is gone.
        """

    @abstractmethod
    def read(self, timeout_s: float) -> Batch:
        """What is new; waits for news at most so long, s.

        Args:
            timeout_s: the longest wait, s.

        Raises:
            SourceLost: it is gone.
        """

    @abstractmethod
    def now_ns(self) -> int:
        """This moment on the source's clock, as well as the host knows, ns."""

    def ask(self, ask: Ask) -> int:
        """Begins an ask; its number comes back in a batch when it was carried out.

        Args:
            ask: what is to be driven, and how.

        Raises:
            SourceError: the line cannot do that.
            SourceLost: it is gone.
        """
        raise SourceError(f"{self.name} can only listen", "choose a probe to ask sensors")

    def pull_up(self, line: str, on: bool) -> None:
        """Switches the source's own pull-up of a line on or off.

        Args:
            line: its name.
            on: whether it is switched on.

        Raises:
            SourceError: the line has none.
            SourceLost: it is gone.
        """
        raise SourceError(f"{self.name} has no pull-ups of its own", "put a resistor on the line")

    def fits(self, ask: Ask) -> bool:
        """Whether an ask can be made in one piece.

        Args:
            ask: what is to be driven, and how.
        """
        return True

    @abstractmethod
    def close(self) -> None:
        """Lets everything go; may be called twice."""

    def __enter__(self) -> "Source":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()
