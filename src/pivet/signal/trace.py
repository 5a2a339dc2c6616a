"""Lines and traces: when which signal changed, on one clock.

A line is its level at the start and the times at which the level turns over.
Levels alternate by construction, so no array of levels is kept.
"""

from enum import IntEnum

import numpy as np
import numpy.typing as npt
from msgspec.structs import force_setattr

from pivet.frozen import FrozenObject, replace

Int64Array = npt.NDArray[np.int64]
BoolArray = npt.NDArray[np.bool_]


class Level(IntEnum):
    """A line's logic level."""

    LOW = 0
    HIGH = 1


def frozen(array: Int64Array) -> Int64Array:
    """A view of ``array`` as contiguous int64 through which nobody can write.

    Args:
        array: int64 (n,).
    """
    own = np.ascontiguousarray(array, dtype=np.int64).view()
    own.flags.writeable = False
    return own


class Line(FrozenObject):
    """One signal line of a trace.

    Attributes:
        name: full dotted name in its file.
        initial: level before the first edge.
        edges_ns: strictly rising times of the level changes, int64, shape (n,), ns.
        aliases: further names of the same net.
        notes: what had to be assumed to read this line, in plain words.
        uncertain_ns: how far each edge may be from the truth either way, int64 (n,), ns; None
            where half a step of the trace is all that is known.
        turned: it was recorded inverted, and is turned over here.
    """

    name: str
    initial: Level
    edges_ns: Int64Array
    aliases: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    uncertain_ns: Int64Array | None = None
    turned: bool = False

    def __post_init__(self) -> None:
        force_setattr(self, "edges_ns", frozen(self.edges_ns))

    def level_after(self, index: int) -> Level:
        """Level after edge ``index``; -1 stands for before the first edge.

        Args:
            index: of the edge, from 0; -1 for before the first.
        """
        return Level(self.initial ^ ((index + 1) & 1))

    def level_at(self, t_ns: int) -> Level:
        """Level at time ``t_ns``.

        Args:
            t_ns: the moment, ns.
        """
        return self.level_after(int(np.searchsorted(self.edges_ns, t_ns, side="right")) - 1)

    def turned_over(self) -> "Line":
        """The same line with high for low: a transistor before the recorder inverted it."""
        return replace(self, initial=Level(1 - self.initial), turned=not self.turned)

    def answers_to(self, name: str) -> bool:
        """True when ``name`` is the full name, an alias or a last part of one of them.

        Args:
            name: as a person writes it.
        """
        return any(own == name or own.endswith("." + name) for own in (self.name, *self.aliases))


class Trace(FrozenObject):
    """The lines of one capture on a common clock.

    Attributes:
        lines: the signal lines.
        start_ns: from when on the lines are known, ns from the file's own zero.
        end_ns: until when they are known, ns.
        resolution_ns: the step in which time was captured, ns.  A pulse width is
            uncertain by this much either way.
        notes: what had to be assumed to read the trace, in plain words.
    """

    lines: tuple[Line, ...]
    start_ns: int
    end_ns: int
    resolution_ns: int
    notes: tuple[str, ...] = ()

    def find(self, name: str) -> tuple[Line, ...]:
        """The lines that ``name`` can mean: an exact name wins over last parts.

        Args:
            name: of it, as people write it.
        """
        exact = tuple(line for line in self.lines if line.name == name)
        return exact or tuple(line for line in self.lines if line.answers_to(name))

    @property
    def edge_count(self) -> int:
        """Number of edges on all lines."""
        return sum(line.edges_ns.size for line in self.lines)
