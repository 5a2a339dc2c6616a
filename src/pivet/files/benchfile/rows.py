"""What stands in a bench file, a class a table; see docs/bench-file.md."""

from pivet.frozen import FrozenObject, FrozenValue
from pivet.signal.trace import Int64Array, Level


class CaptureRow(FrozenValue):
    """A recording, or a file that was taken in.

    Attributes:
        id: in the file.
        name: as people read it.
        source: where its edges came from.
        began_ns: its zero by the calendar, ns since 1970.
        resolution_ns: step of its time stamps, ns.
    """

    id: int
    name: str
    source: str
    began_ns: int
    resolution_ns: int


class WireRow(FrozenValue):
    """A wire of a capture.

    Attributes:
        id: in the file.
        capture: its capture.
        name: given by the person.
        lines: names of its lines.
        family: the family whose exchanges it carries.
        sheet: id of its sheet; None when it is recognised.
        setup: how it is asked, as JSON.
    """

    id: int
    capture: int
    name: str
    lines: str
    family: str
    sheet: str | None
    setup: str


class Block(FrozenObject):
    """A stretch of a line.

    Attributes:
        start_ns, end_ns: from and until when it is known, ns.
        level: at its start.
        edges_ns: int64 (n,), ns.
    """

    start_ns: int
    end_ns: int
    level: Level
    edges_ns: Int64Array


class GapRow(FrozenValue):
    """A stretch of a line that is not known; see ``sources.source.Gap``."""

    start_ns: int
    end_ns: int
    level: Level
    lost: int | None
    why: str


class ExchangeRow(FrozenValue):
    """An exchange as it was judged when it was heard; see ``docs/bench-file.md``."""

    number: int
    start_ns: int
    length_ns: int
    verdict: int
    notices: int
    attempt: int
    device: str | None
    data: bytes | None
    margin: int | None = None
