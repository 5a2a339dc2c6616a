"""Files that are long in the making: made once for all processes of a test run."""

import atexit
import fcntl
import os
import shutil
import tempfile
from collections.abc import Callable
from functools import cache
from pathlib import Path

SHARED = "PIVET_TEST_FILES"
"""The folder that all processes of a run share; a single one has its own."""


@cache
def _folder() -> Path:
    shared = os.environ.get(SHARED)
    if shared is not None:
        return Path(shared)
    own = Path(tempfile.mkdtemp(prefix="pivet-made-"))
    atexit.register(shutil.rmtree, own, ignore_errors=True)
    return own


def made(name: str, make: Callable[[Path], object]) -> Path:
    """A file, only to be read; whoever wants it first makes it, others wait.

    Args:
        name: of the file.
        make: writes it; called once.
    """
    path = _folder() / name
    with (_folder() / f"{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not path.exists():
            part = path.with_name(f"part-{name}")
            part.unlink(missing_ok=True)
            make(part)
            part.rename(path)
    return path
