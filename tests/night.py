"""The long demo night, recorded once for all tests."""

import shutil
from datetime import UTC, datetime
from pathlib import Path

from pivet.bench.demo_night import FILE, record_night
from tests.made import made

BEGAN = datetime(2026, 3, 7, 21, 0, tzinfo=UTC)
"""When it begins, in tests."""

BEGAN_NS = round(BEGAN.timestamp()) * 10**9


def night_file() -> Path:
    """A bench file with the night; only to be read."""
    return made(FILE, lambda path: record_night(path, began=BEGAN))


def copy_of_night(folder: Path) -> Path:
    """A copy that may be written."""
    return Path(shutil.copy(night_file(), folder / FILE))
