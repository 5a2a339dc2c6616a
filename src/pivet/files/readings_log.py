"""A running log: lines appended as they come, a file a day, gone on with after a restart."""

import contextlib
import os
from collections import deque
from datetime import date, datetime
from pathlib import Path
from typing import IO

from pivet.errors import OutputError
from pivet.files import disk
from pivet.files.readings_table import Table

MOST_WAITING = 100_000
"""While nothing can be written so many rows wait; then the oldest are given up."""

TAIL = 1 << 16
MOST_FILES = 1000


class RunningLog:
    """Appends to files beside each other.

    Each line is in the operating system's hands when ``add`` returns.  A line that was cut by a
    crash is taken away when the file is gone on with.

    Args:
        path: the path of the log, ``night.csv``; with ``daily`` the day stands in it,
            ``night-2026-11-23.csv``.
        table: makes the lines.
        daily: begins a new file at midnight.
    """

    def __init__(self, path: Path, table: Table, daily: bool = True) -> None:
        self.path, self._table, self._daily = path, table, daily
        self._stream: IO[bytes] | None = None
        self._day: date | None = None
        self._waiting: deque[tuple[int, str]] = deque(maxlen=MOST_WAITING)
        self.file = path

    @property
    def table(self) -> Table:
        """Makes the lines."""
        return self._table

    def use(self, table: Table) -> None:
        """Makes lines by another table from now on; with another header in another file.

        Args:
            table: how lines are written.
        """
        self._table = table
        self._end()

    def add(self, at_ns: int, lines: str) -> None:
        """Appends lines of a moment.

        Args:
            at_ns: says the day, ns since 1970.
            lines: with their ends.

        Raises:
            OutputError: they cannot be written now; they wait for the next call.
        """
        if lines:
            self._waiting.append((at_ns, lines))
        try:
            while self._waiting:
                at_ns, text = self._waiting[0]
                stream = self._stream_of(datetime.fromtimestamp(at_ns / 1e9).date())
                _append(stream, text.encode("utf-8"))
                self._waiting.popleft()
        except OSError as error:
            self._end()
            raise disk.write_error(self.file, error) from error

    def close(self) -> None:
        """Ends it; may be called twice."""
        self._end()

    def _end(self) -> None:
        stream, self._stream = self._stream, None
        if stream is not None:
            stream.close()

    def _stream_of(self, day: date) -> IO[bytes]:
        same = self._stream is not None and (day == self._day or not self._daily)
        if same and self._stream is not None and _stands_at(self._stream, self.file):
            return self._stream
        self._end()
        header = self._table.header().encode("utf-8")
        for number in range(1, MOST_FILES):
            self.file = self._named(day, number)
            if not self.file.exists() or not self.file.stat().st_size:
                stream = self.file.open("ab", buffering=0)
                _append(stream, header)
                break
            if goes_on(self.file, header):
                stream = self.file.open("ab", buffering=0)
                break
        else:
            raise OutputError(f"{self.path} has too many parts", "choose another name")
        self._stream, self._day = stream, day
        return stream

    def _named(self, day: date, number: int) -> Path:
        stem = f"{self.path.stem}-{day:%Y-%m-%d}" if self._daily else self.path.stem
        again = f"-{number}" if number > 1 else ""
        return self.path.with_name(f"{stem}{again}{self.path.suffix}")


def _append(stream: IO[bytes], data: bytes) -> None:
    """Appends all of some bytes, or nothing: a full disk may take a part.

    Raises:
        OSError: they cannot be written.
    """
    size = os.fstat(stream.fileno()).st_size
    try:
        left = memoryview(data)
        while left:
            left = left[stream.write(left) :]
    except OSError:
        with contextlib.suppress(OSError):
            os.ftruncate(stream.fileno(), size)
        raise


def _stands_at(stream: IO[bytes], path: Path) -> bool:
    """Whether an open file is still the one that stands at a path."""
    try:
        return os.path.samestat(os.fstat(stream.fileno()), path.stat())
    except OSError:
        return False


def goes_on(path: Path, header: bytes) -> bool:
    """Whether a log can be gone on with; if so, what a crash left of its last line goes.

    Args:
        path: the log; it may not exist.
        header: the line that it must begin with.

    Raises:
        OSError: it cannot be read or changed.
    """
    with path.open("r+b") as stream:
        if stream.read(len(header)) != header:
            return False
        size = stream.seek(0, 2)
        start = max(size - TAIL, 0)
        stream.seek(start)
        tail = stream.read()
        if tail and not tail.endswith(b"\n"):
            whole = tail.rfind(b"\n") + 1
            if whole or not start:
                stream.truncate(start + whole)
    return True
