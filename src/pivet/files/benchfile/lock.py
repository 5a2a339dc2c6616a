"""Who may write: one instance at a time."""

import contextlib
import errno
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

    def take(self) -> str:
        """Takes it, if nobody holds it; why not, for people, or nothing."""
        try:
            handle = os.open(
                self._path, os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW | os.O_CLOEXEC, 0o644
            )
        except OSError as error:
            if error.errno == errno.ELOOP:
                return f"a link stands where its lock should be ({self._path.name}): take it away"
            return f"its folder may not be written to ({error.strerror})"
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            # Who held it before may have taken the file away between opening and locking.
            if os.path.samestat(os.fstat(handle), self._path.lstat()):
                self._handle = handle
                return ""
        except OSError:
            pass
        os.close(handle)
        return "it is open in another window"

    def give(self) -> None:
        """Lets it go."""
        if self._handle is not None:
            with contextlib.suppress(OSError):
                if os.path.samestat(os.fstat(self._handle), self._path.lstat()):
                    self._path.unlink()
            os.close(self._handle)
            self._handle = None
