"""The long demo night, recorded once for all tests."""

import shutil
from datetime import UTC, datetime
from functools import cache
from pathlib import Path

from pivet.bench.demo_night import FILE, record_night
from pivet.signal.trace import Trace
from pivet.standin.long_night import long_night
from tests.made import made

BEGAN = datetime(2026, 3, 7, 21, 0, tzinfo=UTC)
"""When it begins, in tests."""

BEGAN_NS = round(BEGAN.timestamp()) * 10**9


def night_file() -> Path:
    """A bench file with the night; only to be read."""
    return made(FILE, lambda path: record_night(path, began=BEGAN))


@cache
def night_trace() -> Trace:
    """The edges of the night."""
    return long_night()


def copy_of_night(folder: Path) -> Path:
    """A copy that may be written."""
    return Path(shutil.copy(night_file(), folder / FILE))
