"""Lines of which nobody knows what they carry."""

from collections.abc import Sequence

import numpy as np

from pivet.captures.finding import find_wires
from pivet.captures.wire import Wire
from pivet.listening.asking.conversation import Levels
from pivet.person.choices import NO_CHOICE
from pivet.progress import silent
from pivet.signal.trace import Line, Trace
from pivet.sources.source import Piece

LOOK_EDGES = 20
LOOK_MOST = 20_000
LOOK_QUIET_NS = 120_000_000
"""A line nobody knows is looked at when it has so many edges, and then is quiet."""


class Unknown:
    """A line of which nobody knows what it carries: it is recognised once it has spoken.

    Args:
        lines: the lines of the wire.
        resolution_ns: step of the source's time stamps, ns.
    """

    def __init__(self, lines: tuple[str, ...], resolution_ns: int) -> None:
        self._lines, self._resolution_ns = lines, resolution_ns
        self.pieces: list[Piece] = []
        self._levels = Levels()
        self._edges = self._looked_at = 0
        self._until = 0

    def hear(self, pieces: Sequence[Piece]) -> Wire | None:
        """Takes pieces; gives the wire when they show what it is.

        Args:
            pieces: the pieces, in order of time for each line.
        """
        own = [piece for piece in pieces if piece.line in self._lines]
        if not own:
            return None
        self._levels.hear(own)
        self.pieces += [part for part in own if part.edges_ns.size or part.gap is not None]
        self._edges += sum(part.edges_ns.size for part in own)
        self._until = own[-1].known_until_ns
        if self._edges - self._looked_at < LOOK_EDGES or not self._at_rest():
            return None
        self._looked_at = self._edges
        wire = self.look()
        if wire is None and self._edges >= LOOK_MOST:
            self._forget()
        return wire

    def _forget(self) -> None:
        """So many edges show nothing: begins anew."""
        self.pieces = self._levels.beginning(self._lines)
        self._edges = self._looked_at = 0

    def look(self) -> Wire | None:
        """The wire that the pieces so far show, if they show one."""
        if not self.pieces:
            return None
        lines, start, end = [], self.pieces[0].known_until_ns, self._until
        for name in self._lines:
            line = self._line(name)
            if line is None:
                return None
            lines.append(line)
            start = min([start, *line.edges_ns[:1].tolist()])
        trace = Trace(tuple(lines), start - 1, end, self._resolution_ns)
        named = len(lines) > 1
        found = find_wires(tuple(lines), trace, NO_CHOICE, named, silent).wires
        return found[0] if found else None

    def _at_rest(self) -> bool:
        if self._edges >= LOOK_MOST:
            return True
        last = max(
            (int(piece.edges_ns[-1]) for piece in self.pieces if piece.edges_ns.size), default=0
        )
        return self._until - last >= LOOK_QUIET_NS

    def _line(self, name: str) -> Line | None:
        own = [piece for piece in self.pieces if piece.line == name]
        gaps = [number for number, piece in enumerate(own) if piece.gap is not None]
        if not gaps:
            return None
        first = own[gaps[-1]].gap
        assert first is not None
        edges = np.concatenate([piece.edges_ns for piece in own[gaps[-1] :]])
        return Line(name, first.level, edges)
