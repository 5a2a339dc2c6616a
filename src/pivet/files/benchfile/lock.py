"""Who may write: one instance at a time."""

import contextlib
import fcntl
import os
from pathlib import Path


class WriterLock:
    """A lock beside the bench file, gone with the process that holds it.

    SQLite's own locks are by file, and closing any handle of the file would drop them: so this
    one is on a file of its own.

    Args:
        bench: the bench file.
    """

    def __init__(self, bench: Path) -> None:
        self._path = bench.with_name(f".{bench.name}-lock")
        self._handle: int | None = None

    def take(self) -> bool:
        """Takes it, if nobody holds it; tells whether."""
        try:
            handle = os.open(self._path, os.O_RDWR | os.O_CREAT, 0o644)
        except OSError:
            return False
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            os.close(handle)
            return False
        self._handle = handle
        return True

    def give(self) -> None:
        """Lets it go."""
        if self._handle is not None:
            with contextlib.suppress(OSError):
                self._path.unlink()
            os.close(self._handle)
            self._handle = None
