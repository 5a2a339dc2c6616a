"""Where a person's own timing sheets stand: known without reading any."""

import os
from pathlib import Path


def own_folder() -> Path:
    """Where a person's sheets stand (XDG base directories)."""
    base = os.environ.get("XDG_DATA_HOME", "")
    return (Path(base) if Path(base).is_absolute() else Path.home() / ".local/share") / (
        "pivet/sheets"
    )
