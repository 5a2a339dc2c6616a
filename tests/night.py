"""The nights of the demo, made once for all tests."""

import shutil
from datetime import UTC, datetime
from functools import cache
from pathlib import Path

from pivet.bench.demo import demo_capture
from pivet.bench.demo_night import FILE, record_night
from pivet.captures.capture import Capture
from pivet.signal.trace import Trace
from pivet.standin.long_night import long_night
from tests.made import made

BEGAN = datetime(2026, 3, 7, 21, 0, tzinfo=UTC)
"""When it begins, in tests."""

BEGAN_NS = round(BEGAN.timestamp()) * 10**9


@cache
def demo_night() -> Capture:
    """The short one, open."""
    return demo_capture()


def night_file() -> Path:
    """A bench file with the long one; only to be read."""
    return made(FILE, lambda path: record_night(path, began=BEGAN))


@cache
def night_trace() -> Trace:
    """The edges of the long one."""
    return long_night()


def copy_of_night(folder: Path) -> Path:
    """A copy that may be written."""
    return Path(shutil.copy(night_file(), folder / FILE))
