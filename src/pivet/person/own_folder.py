"""Where what is a person's own stands: known without reading any of it."""

import os
from pathlib import Path


def data_folder() -> Path:
    """Where Pivet keeps what is a person's own (XDG base directories)."""
    base = os.environ.get("XDG_DATA_HOME", "")
    return (Path(base) if Path(base).is_absolute() else Path.home() / ".local/share") / "pivet"


def own_folder() -> Path:
    """Where a person's timing sheets stand."""
    return data_folder() / "sheets"
