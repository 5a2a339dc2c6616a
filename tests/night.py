"""The long demo night, recorded once for all tests."""

import atexit
import shutil
import tempfile
from datetime import UTC, datetime
from functools import cache
from pathlib import Path

from pivet.bench.demo_night import FILE, record_night

BEGAN = datetime(2026, 3, 7, 21, 0, tzinfo=UTC)
"""When it begins, in tests."""

BEGAN_NS = round(BEGAN.timestamp()) * 10**9


@cache
def night_file() -> Path:
    """A bench file with the night; only to be read."""
    folder = Path(tempfile.mkdtemp(prefix="pivet-night-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    path = folder / FILE
    record_night(path, began=BEGAN)
    return path


def copy_of_night(folder: Path) -> Path:
    """A copy that may be written."""
    return Path(shutil.copy(night_file(), folder / FILE))
