"""Where the program starts: command line and window meet only here."""

import sys
from collections.abc import Sequence
from pathlib import Path


def open_window(files: Sequence[Path], demo: bool = False) -> int:
    """Opens the window; its packages are imported only now."""
    from pivet.ui.app import run

    return run(files, demo)


def main() -> int:
    """Runs ``pivet``; returns the exit status."""
    if len(sys.argv) == 1:
        return open_window(())
    from pivet.cli.commands import build, use_utf8

    use_utf8()
    build(open_window)(prog_name="pivet")
    return 0


if __name__ == "__main__":
    sys.exit(main())
