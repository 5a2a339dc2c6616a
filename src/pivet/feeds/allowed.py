"""Which feeds this person lets send: a bench may come from anybody, and so may its feeds."""

import json
from pathlib import Path

from pivet.feeds.setup import FeedSetup
from pivet.files.disk import make_folder, write_text
from pivet.person.own_folder import data_folder

MOST = 10_000


def allowed_path() -> Path:
    """Where they are kept."""
    return data_folder() / "feeds.json"


def _mark(setup: FeedSetup) -> str:
    """A feed that was changed to lead elsewhere is another one."""
    return f"{setup.id} {setup.url}"


def _allowed() -> list[str]:
    try:
        found = json.loads(allowed_path().read_text(encoding="utf-8"))["allowed"]
    except (OSError, ValueError, KeyError, TypeError):
        return []
    return [str(row) for row in found] if isinstance(found, list) else []


def is_allowed(setup: FeedSetup) -> bool:
    """Whether this person has added it, or let it send.

    Args:
        setup: of the feed.
    """
    return _mark(setup) in _allowed()


def allow(setup: FeedSetup) -> None:
    """Lets a feed send from now on.

    Args:
        setup: of the feed.

    Raises:
        OutputError: that cannot be kept.
    """
    rows = [row for row in _allowed() if row != _mark(setup)][-MOST:]
    path = allowed_path()
    make_folder(path.parent)
    write_text(path, json.dumps({"form": 1, "allowed": [*rows, _mark(setup)]}, indent=1) + "\n")
