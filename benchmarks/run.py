"""Measures all figures and prints their table; exits with 1 when one misses its limit."""

import sys
from pathlib import Path

ROOT = Path(__file__).parent.parent


def main() -> int:
    """Runs the benchmarks whose names are given (decoding, reading, window), else all."""
    sys.path.insert(0, str(ROOT))
    from benchmarks import decoding, reading, window
    from benchmarks.table import table

    parts = {"decoding": decoding, "reading": reading, "window": window}
    chosen = sys.argv[1:] or list(parts)
    found = [figure for name in chosen for figure in parts[name].figures()]
    print("\n".join(table(found)))
    return 0 if all(figure.holds for figure in found) else 1


if __name__ == "__main__":
    sys.exit(main())
