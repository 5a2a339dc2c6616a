"""Where the program starts: command line and window meet only here."""

import gc
import os
import sys
from collections.abc import Sequence
from pathlib import Path


def load_window() -> None:
    """Imports what the window needs."""
    # What is loaded stays: there is nothing to collect until the window does that by itself.
    gc.disable()
    # What needs no Qt comes first: the Qt binding looks into every module imported after it.
    import pivet.captures.capture
    import pivet.captures.text
    import pivet.ui.app  # noqa: F401


def open_window(files: Sequence[Path], demo: bool = False, board: str | None = None) -> int:
    """Opens the window; its packages are imported only now."""
    load_window()
    from pivet.ui.app import run

    return run(files, demo, board)


def show_demo(folder: Path | None) -> int:
    """Shows the demo in the window, or writes its pictures to a folder without a display."""
    if folder is None:
        return open_window((), demo=True)
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from pivet.ui.demo_pictures import write_demo_pictures

    write_demo_pictures(folder)
    return 0


def print_html(html: str, path: Path) -> None:
    """Writes the HTML of a report as PDF, without a display."""
    from pivet.ui.printing import print_beside

    print_beside(html, path)


def main() -> int:
    """Runs ``pivet``; returns the exit status."""
    # A shell that asks how a command goes on must never get a window.
    if len(sys.argv) == 1 and "_PIVET_COMPLETE" not in os.environ:
        return open_window(())
    from pivet.cli.commands import build, use_utf8
    from pivet.cli.terminal import run

    use_utf8()
    return run(build(open_window, show_demo, print_html))


if __name__ == "__main__":
    sys.exit(main())
