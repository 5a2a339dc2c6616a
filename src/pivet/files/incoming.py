"""Reading whole what somebody else made: files, pipes, and what only looks like a file."""

import errno
import os
import re
import select
import stat
import threading
import time
from pathlib import Path

from pivet.errors import InputError
from pivet.progress import Progress, silent

PIECE = 8 << 20
AT_ONCE = 64 << 20
"""A file of this size is there in less time than anybody would want to cancel it."""

MOST_FILE = 4 << 30
MOST_PIPE = 1 << 30
"""Nothing larger is taken into memory."""

WRITER_S = 2.0
"""A pipe that nobody has opened to write into for so long is refused."""

LOOK_S = 0.1

READ_ADVICE = {
    errno.ENOENT: ("is not there (any more)", "check the name, or whether it was moved"),
    errno.EACCES: ("may not be read", "ask for the right to read it"),
    errno.EISDIR: ("is a folder", "choose a file in it"),
    errno.ELOOP: ("is a link that leads round in a circle", "choose the file itself"),
    errno.ENAMETOOLONG: ("is no name of a file", "check the name"),
}
INHERITED = re.compile(r"/dev/stdin|/(?:dev|proc/self)/fd/(\d+)")


STANDARD_INPUT = Path("/dev/stdin")


def called(path: Path) -> str:
    """A file as it was named.

    Args:
        path: the file.
    """
    return "standard input" if path == STANDARD_INPUT else str(path)


def read_bytes(
    path: Path,
    progress: Progress = silent,
    most: int = MOST_FILE,
    again: str = "record the capture again",
) -> bytes:
    """The content of a file, or all that comes through a pipe.

    Args:
        path: the file.
        progress: called with the share done, 0 to 1.
        most: a larger one is refused, bytes.
        again: what to do about an empty one.

    Raises:
        InputError: it is not there, may not be read, is no file, is too large, changes while it is
            read, or is empty; or it is a pipe into which nobody writes.
        Cancelled: ``progress`` raised it.
    """
    try:
        content = _content(path, progress, most)
    except InputError:
        raise
    except ValueError as error:
        raise InputError(f"{str(path)!r} is no name of a file", "check the name") from error
    except OSError as error:
        what, todo = READ_ADVICE.get(
            error.errno or 0, (f"cannot be read ({error.strerror})", "try a copy of it")
        )
        raise InputError(f"{called(path)} {what}", todo) from error
    if re.search(rb"[^\0 \t\r\n]", content) is None:
        raise InputError(f"{called(path)} is empty", again)
    return content


def _content(path: Path, progress: Progress, most: int) -> bytes:
    inherited = INHERITED.fullmatch(str(path))
    if inherited:
        handle = os.dup(int(inherited[1] or 0))
    else:
        kind = path.stat().st_mode
        if stat.S_ISFIFO(kind):
            handle = _opened_pipe(path, progress)
        else:
            # What waits for somebody does not hold the program up.
            handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    try:
        mode = os.fstat(handle).st_mode
        if stat.S_ISREG(mode):
            return _file(path, handle, progress, most)
        if stat.S_ISFIFO(mode) or stat.S_ISSOCK(mode):
            return _stream(path, handle, progress, min(most, MOST_PIPE))
        if stat.S_ISDIR(mode):
            raise IsADirectoryError(errno.EISDIR, "is a folder")
        raise InputError(f"{called(path)} is a device, no file", "choose a capture file")
    finally:
        os.close(handle)


def _file(path: Path, handle: int, progress: Progress, most: int) -> bytes:
    """A file that stays as it is while it is read."""
    before = os.fstat(handle)
    if before.st_size > most:
        raise _too_large(path, most)
    pieces: list[bytes] = []
    size = 0
    while piece := os.read(handle, AT_ONCE):
        pieces.append(piece)
        size += len(piece)
        if size > before.st_size:
            break
        progress(size / max(before.st_size, 1))
    after = os.fstat(handle)
    if size != before.st_size or (after.st_size, after.st_mtime_ns) != (size, before.st_mtime_ns):
        raise InputError(
            f"{path} changed while it was read", "wait until whatever writes it has finished"
        )
    return pieces[0] if len(pieces) == 1 else b"".join(pieces)


def _stream(path: Path, handle: int, progress: Progress, most: int) -> bytes:
    """All that comes through a pipe; between two looks it can be interrupted."""
    pieces: list[bytes] = []
    size = 0
    while True:
        progress(0.0)
        if not select.select([handle], [], [], LOOK_S)[0]:
            continue
        piece = os.read(handle, PIECE)
        if not piece:
            return b"".join(pieces)
        pieces.append(piece)
        size += len(piece)
        if size > most:
            raise _too_large(path, most)


def _opened_pipe(path: Path, progress: Progress) -> int:
    """Opens a named pipe once somebody has opened it to write.

    Opening waits for that, so another thread does it.
    """
    opened: list[int] = []
    failed: list[OSError] = []

    def work() -> None:
        try:
            opened.append(os.open(path, os.O_RDONLY | os.O_CLOEXEC))
        except OSError as error:
            failed.append(error)

    thread = threading.Thread(target=work, daemon=True)
    thread.start()
    until = time.monotonic() + WRITER_S
    try:
        while thread.is_alive() and time.monotonic() < until:
            thread.join(LOOK_S)
            progress(0.0)
    finally:
        if thread.is_alive():
            # A writer that goes at once lets the thread end.
            os.close(os.open(path, os.O_WRONLY | os.O_NONBLOCK))
            thread.join()
            for handle in opened:
                os.close(handle)
            opened.clear()
    if failed:
        raise failed[0]
    if not opened:
        raise InputError(
            f"{path} is a pipe into which nobody writes", "start what writes into it first"
        )
    return opened[0]


def _too_large(path: Path, most: int) -> InputError:
    return InputError(f"{called(path)} is larger than {most >> 20} MB", "cut it into smaller parts")
