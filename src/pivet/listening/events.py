"""What listening tells whoever shows or keeps it."""

from collections.abc import Mapping
from pathlib import Path

from pivet.captures.wire import NO_NAMES, Wire
from pivet.frozen import FrozenObject, FrozenValue
from pivet.history.watching import LimitEvent
from pivet.judge.report import Report
from pivet.listening.asking.explore import Found
from pivet.listening.setup import NO_SETUP, WireSetup
from pivet.sources.source import About, Gap, Piece


class Opened(FrozenValue):
    """The source is there, or there again."""

    about: About
    again: bool


class Away(FrozenValue):
    """The source is not there; it is looked for again and again.

    Attributes:
        says: why, one sentence.
    """

    says: str


class Ended(FrozenValue):
    """The source has given all it has."""


class Note(FrozenValue):
    """A trouble that ended nothing.

    Attributes:
        says: one sentence.
        wire: which one it befell; empty for the source.
    """

    says: str
    wire: str = ""


class Edges(FrozenObject):
    """What was heard of lines, before anything was made of it.

    Attributes:
        pieces: the pieces, in order of time for each line.
    """

    pieces: tuple[Piece, ...]


class Moved(FrozenValue):
    """A bench file went away while it was recorded, and goes on elsewhere.

    Attributes:
        former: where it was.
        path: where it is.
    """

    former: Path
    path: Path


class Crossed(FrozenValue):
    """A reading crossed a limit, or is back.

    Attributes:
        told: which, and how far.
    """

    told: LimitEvent


class Fed(FrozenValue):
    """How a feed is doing; told when that changes, and at the end.

    Attributes:
        feed: its name.
        state: what it does, in a few words.
        waiting: how many exchanges are still to be sent.
        behind_s: how long ago the oldest of them began, s.
        sent: how many rows were ever acknowledged.
        trouble: why the last try failed; empty when it did not.
    """

    feed: str
    state: str
    waiting: int
    behind_s: float
    sent: int
    trouble: str


class Total(FrozenValue):
    """How it went on a wire; told at the end.

    Attributes:
        wire: its name.
        exchanges: how many.
        retries: how many of them were further tries.
        by_verdict: how many of each verdict.
    """

    wire: str
    exchanges: int
    retries: int
    by_verdict: tuple[int, ...]


class Known(FrozenValue):
    """What is on a wire was found out.

    Attributes:
        wire: its name.
        found: what.
    """

    wire: str
    found: Found


class Heard(FrozenObject):
    """An exchange is over.

    Attributes:
        wire: name of the wire.
        number: of the exchange, since listening began, from 1.
        shown: the wire with its latest exchanges, judged.
        index: of the exchange in ``shown``.
        attempt: 0 asked by somebody else, 1 asked from here, 2 and more a retry.
        revised: it was told before, and more or something else is known since.
        setup: what was wanted of the wire.
    """

    wire: str
    number: int
    shown: Wire
    index: int
    attempt: int
    revised: bool = False
    setup: WireSetup = NO_SETUP

    def report(self, names: Mapping[str, str] = NO_NAMES) -> Report:
        """Everything about it; ``names`` are the person's names of devices.

        Args:
            names: the person's names of devices, by code.
        """
        return self.shown.report(self.index, names)


class Withdrawn(FrozenValue):
    """What was told was no exchange after all; it was the last, and its number comes again.

    Attributes:
        wire: its name.
        number: that it had, from 1.
    """

    wire: str
    number: int


class Missed(FrozenValue):
    """A stretch of a wire is not known.

    Attributes:
        wire: its name.
        gap: the stretch.
    """

    wire: str
    gap: Gap


class Silent(FrozenValue):
    """A sensor gives no reading any more.

    Attributes:
        wire: its name.
        code: the code of the 1-Wire device in kernel form; empty for others.
        says: why, in a few words.
        look: what the line itself says, and how the sensor is wired.
        number: of the exchange that gave none, counted on the wire from 1.
        reason: code of what was noticed in it; empty where nothing has a name.
    """

    wire: str
    code: str
    says: str
    look: str = ""
    number: int = 0
    reason: str = ""


class Back(FrozenValue):
    """A sensor gives readings again.

    Attributes:
        wire: its name.
        code: the code of the 1-Wire device in kernel form; empty for others.
    """

    wire: str
    code: str


Event = (
    Opened
    | Away
    | Ended
    | Note
    | Edges
    | Moved
    | Fed
    | Total
    | Crossed
    | Known
    | Heard
    | Withdrawn
    | Missed
    | Silent
    | Back
)
