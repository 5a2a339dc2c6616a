"""A watched folder: captures that another instrument drops there, taken in once finished."""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from pivet.errors import PivetError
from pivet.files.captures import read_capture
from pivet.signal.seconds import ns_of
from pivet.signal.trace import Level, Line, Trace
from pivet.sources.source import About, Batch, Gap, Piece, Source, SourceError, SourceLost

SUFFIXES = (".vcd", ".csv")
LOOK_S = 0.2
CALM_S = 0.6
"""A file that has not changed for so long is finished."""

BETWEEN = "between two captures"


@dataclass(slots=True)
class _File:
    """A file that was seen: its state, since when it is so, and whether it was taken in."""

    state: tuple[int, int]
    since: float
    taken: bool


class FolderSource(Source):
    """Takes in the captures that lie there, the oldest first, and those that come.

    A capture stands at the moment at which it was taken in, or after the one before it.

    Args:
        folder: the folder to be watched.
        clock: monotonic seconds.
    """

    grows = True

    def __init__(self, folder: Path, clock: Callable[[], float] = time.monotonic) -> None:
        self._folder, self._clock = folder, clock
        self._files: dict[Path, _File] = {}
        self._zero = clock()
        self._end_ns = 0
        self._known: dict[str, int] = {}
        self._wanted: frozenset[str] = frozenset()

    @property
    def name(self) -> str:
        """The folder."""
        return str(self._folder)

    def open(self) -> About:
        """Begins watching; see ``Source.open``.

        Raises:
            SourceError: there is no such folder.
        """
        if not self._folder.is_dir():
            raise SourceError(f"there is no folder {self._folder}", "make it, or give another")
        return About(f"folder {self._folder}", (), 1, (("takes in", ", ".join(SUFFIXES)),))

    def listen(self, lines: Sequence[str]) -> None:
        """Keeps to these lines; none keeps all.

        Args:
            lines: names of lines; none means all.
        """
        self._wanted = frozenset(lines)

    def now_ns(self) -> int:
        """Since the first opening, ns."""
        return ns_of(self._clock() - self._zero)

    def _states(self) -> dict[Path, tuple[int, int]]:
        found = {}
        try:
            paths = sorted(self._folder.iterdir())
        except OSError as error:
            raise SourceLost(
                f"the folder {self._folder} is gone ({error.strerror})", "bring it back"
            ) from error
        for path in paths:
            if path.suffix.lower() in SUFFIXES and not path.name.startswith("."):
                try:
                    info = path.stat()
                except OSError:
                    continue
                found[path] = (info.st_size, info.st_mtime_ns)
        return found

    def read(self, timeout_s: float) -> Batch:
        """Takes in one finished capture, if there is one; see ``Source.read``.

        Args:
            timeout_s: the longest wait, s.
        """
        until = self._clock() + timeout_s
        while True:
            path = self._finished()
            if path is not None:
                return self._take(path)
            left = until - self._clock()
            if left <= 0:
                return Batch()
            time.sleep(min(left, LOOK_S))

    def _finished(self) -> Path | None:
        """A file that has changed since it was taken in, and is at rest now."""
        now = self._clock()
        states = self._states()
        self._files = {path: file for path, file in self._files.items() if path in states}
        for path, state in sorted(states.items(), key=lambda entry: entry[1][1]):
            row = self._files.get(path)
            if row is None or row.state != state:
                self._files[path] = _File(state, now, taken=False)
            elif not row.taken and now - row.since >= CALM_S and state[0]:
                row.taken = True
                return path
        return None

    def _take(self, path: Path) -> Batch:
        try:
            trace = read_capture(path)
        except PivetError as error:
            return Batch(notes=(str(error),))
        start = max(self.now_ns(), self._end_ns + 1)
        self._end_ns = start + trace.end_ns - trace.start_ns
        lines = [line for line in trace.lines if self._takes(line)]
        pieces = tuple(self._piece(line, trace, start) for line in lines)
        notes = () if pieces else (f"{path.name} has no line that changes.",)
        return Batch(pieces, (), (f"{path.name} was taken in.", *notes), trace)

    def _takes(self, line: Line) -> bool:
        if not line.edges_ns.size:
            return False
        return not self._wanted or any(line.answers_to(name) for name in self._wanted)

    def _piece(self, line: Line, trace: Trace, start_ns: int) -> Piece:
        named = next((name for name in sorted(self._wanted) if line.answers_to(name)), line.name)
        before = self._known.get(named)
        self._known[named] = self._end_ns
        why = "" if before is None else BETWEEN
        level = Level(line.initial)
        gap = Gap(start_ns if before is None else before, start_ns, level, 0, why)
        edges = line.edges_ns - trace.start_ns + start_ns
        return Piece(named, edges, self._end_ns, gap, trace.resolution_ns)

    def close(self) -> None:
        """Nothing is held."""
