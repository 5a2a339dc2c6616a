"""Progress of long commands, on a terminal only."""

import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager

from pivet.cli.terminal import escaped, is_quiet
from pivet.progress import Progress, silent

SHOWN_AFTER_S = 0.5
RENEWED_AFTER_S = 0.1


@contextmanager
def progress_line(label: str) -> Iterator[Progress]:
    """A line on standard error that says how far a job is; nothing if that is no terminal.

    Args:
        label: what is being done.
    """
    if not sys.stderr.isatty() or is_quiet():
        yield silent
        return
    shown_at = time.monotonic() + SHOWN_AFTER_S - RENEWED_AFTER_S
    width = 0

    def show(share: float) -> None:
        nonlocal shown_at, width
        now = time.monotonic()
        if now - shown_at >= RENEWED_AFTER_S:
            text = escaped(f"{label} {share:4.0%}")
            sys.stderr.write("\r" + text)
            sys.stderr.flush()
            shown_at, width = now, len(text)

    try:
        yield show
    finally:
        if width:
            sys.stderr.write("\r" + " " * width + "\r")
            sys.stderr.flush()
