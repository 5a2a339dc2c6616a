"""What stands beside a bench file: SQLite's own files, and where a lost one goes on."""

import re
from pathlib import Path

SUFFIX = ".pivet"
ENDINGS = ("", "-wal", "-shm")

GOES_ON = "goes on"


def remove_bench(path: Path) -> None:
    """Takes a bench away, with what SQLite keeps beside it.

    Args:
        path: the file.
    """
    for ending in ENDINGS:
        path.with_name(path.name + ending).unlink(missing_ok=True)


def next_beside(path: Path, folder: Path | None = None) -> Path:
    """Where a bench goes on whose file went away while it was recorded.

    Args:
        path: where it was.
        folder: the folder to be used in place of its own.
    """
    taken = {known.name for known in continuations(path, folder)}
    stem = path.name.removesuffix(SUFFIX)
    number = 1
    while True:
        name = f"{stem} ({GOES_ON}{'' if number == 1 else f' {number}'}){SUFFIX}"
        if name not in taken:
            return (folder or path.parent) / name
        number += 1


def continuations(path: Path, folder: Path | None = None) -> list[Path]:
    """The files in which a bench went on, in order; see ``next_beside``.

    Args:
        path: the first file.
        folder: where they stand; None for beside the first.
    """
    stem = re.escape(path.name.removesuffix(SUFFIX))
    form = re.compile(rf"{stem} \({GOES_ON}(?: (\d+))?\){re.escape(SUFFIX)}")
    try:
        found = [(form.fullmatch(near.name), near) for near in (folder or path.parent).iterdir()]
    except OSError:
        return []
    rows = [(int(match[1] or 1), near) for match, near in found if match is not None]
    return [near for _, near in sorted(rows)]


def gone_advice(path: Path) -> str:
    """What to do about a bench file that is not there.

    Args:
        path: the file.
    """
    rows = continuations(path)
    if not rows:
        return "check the name, or whether it was moved"
    return f"it went away while it was recorded, and goes on in {rows[-1].name}: open that"


SQLITE = b"SQLite format 3\0"


def is_bench(path: Path) -> bool:
    """Whether a file is a bench file, by its ending or by how it begins.

    Args:
        path: the file.
    """
    return path.suffix == SUFFIX or is_bench_content(path)


def is_bench_content(path: Path) -> bool:
    """Whether a file begins as a bench file does.

    Args:
        path: the file.
    """
    try:
        if not path.is_file():
            return False
        with path.open("rb") as stream:
            return stream.read(len(SQLITE)) == SQLITE
    except OSError:
        return False
