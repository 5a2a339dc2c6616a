"""Writing whole files, with failures said in one sentence."""

import errno
import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, cast

from pivet.errors import OutputError

WRITE_ADVICE = {
    errno.ENOSPC: ("the disk is full", "make room or choose another place"),
    errno.EDQUOT: ("your share of the disk is used up", "make room or choose another place"),
    errno.EACCES: ("the folder may not be written to", "choose another place"),
    errno.EROFS: ("the disk is read-only", "choose another place"),
    errno.ENOENT: ("the folder is not there", "choose another place"),
    errno.EISDIR: ("a folder has that name", "choose another name"),
}


@contextmanager
def writing(path: Path, binary: bool = False) -> Iterator[IO[str] | IO[bytes]]:
    """Opens a file beside ``path`` and puts it in its place when all is written.

    What stood at ``path`` stays as it was if anything fails.

    Args:
        path: where the file shall stand.
        binary: bytes, else UTF-8 text.

    Raises:
        OutputError: the file cannot be written.
    """
    beside: Path | None = None
    path = _real(path)
    try:
        number, name = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
        beside = Path(name)
        mode, encoding = ("wb", None) if binary else ("w", "utf-8")
        with os.fdopen(number, mode, encoding=encoding, newline=None if binary else "") as stream:
            yield stream
            stream.flush()
            os.fsync(stream.fileno())
        beside.chmod(0o666 & ~_umask())
        beside.replace(path)
        beside = None
    except OSError as error:
        raise write_error(path, error) from error
    finally:
        if beside is not None:
            beside.unlink(missing_ok=True)


def write_text(path: Path, text: str) -> None:
    """Writes a whole file of UTF-8 text; see ``writing``.

    Args:
        path: where the file shall stand.
        text: all of it.

    Raises:
        OutputError: the file cannot be written.
    """
    with writing(path) as stream:
        cast(IO[str], stream).write(text)


def _real(path: Path) -> Path:
    """Where a file stands to which links lead; what is there already must be a plain file.

    Raises:
        OutputError: it is a device, a pipe or a folder.
    """
    real = path.resolve() if path.is_symlink() else path
    if real.exists() and not real.is_file():
        what = "a folder" if real.is_dir() else "a device or a pipe"
        raise OutputError(f"{path} is {what}, no file", "choose another name")
    return real


def write_error(path: Path, error: OSError) -> OutputError:
    """The sentence for a failed write.

    Args:
        path: the file.
        error: what the system says.
    """
    if isinstance(error, OutputError):
        return error
    what, todo = WRITE_ADVICE.get(error.errno or 0, (f"{error.strerror}", "choose another place"))
    return OutputError(f"{path} was not written, {what}", todo)


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def make_folder(path: Path) -> None:
    """Makes a folder to write into, if it is not there.

    Args:
        path: the path of the folder.

    Raises:
        OutputError: it cannot be made.
    """
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise write_error(path, error) from error
