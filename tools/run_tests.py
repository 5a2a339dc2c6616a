"""Runs all tests and ends with one plain line: so many passed, failed, skipped."""

import os
import sys
import unittest
from pathlib import Path

ROOT = Path(__file__).parent.parent


def main() -> int:
    """Runs the tests whose names are given, else all; returns the exit status."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    sys.path.insert(0, str(ROOT))
    loader = unittest.TestLoader()
    names = sys.argv[1:]
    suite = (
        loader.loadTestsFromNames(names)
        if names
        else loader.discover(str(ROOT / "tests"), top_level_dir=str(ROOT))
    )
    result = unittest.TextTestRunner(verbosity=1, stream=sys.stdout).run(suite)
    broken = {id(test) for test, _ in (*result.failures, *result.errors)}
    failed, skipped = len(broken), len(result.skipped)
    passed = result.testsRun - failed - skipped
    print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)
    return 0 if result.wasSuccessful() and result.testsRun else 1


if __name__ == "__main__":
    sys.exit(main())
