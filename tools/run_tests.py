"""Runs all tests and ends with one plain line: so many passed, failed, skipped.

All tests run as three processes side by side, about as long each: those that listen to something
live, which mostly wait, with those of many exchanges; those of the window; and all others.
"""

import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

ROOT = Path(__file__).parent.parent
OTHERS = "--others"
GROUPS: dict[str, tuple[str, ...]] = {
    "--live": (
        "tests.files.benchfile",
        "tests.cli.test_listen",
        "tests.listening",
        "tests.keeping",
        "tests.bench.test_live_bench",
        "tests.sources",
        "tests.standin",
        "tests.firmware",
        "tests.insight",
        "tests.feeds",
    ),
    OTHERS: ("tests.ui.test_monkey",),
    "--window": ("tests.ui",),
}
"""What runs in a process of its own: beginnings of names, the first that fits counts.  What fits
nowhere is of the others."""


def main() -> int:
    """Runs the tests whose names are given, else all; returns the exit status."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    sys.path.insert(0, str(ROOT))
    names = sys.argv[1:]
    if not names:
        return all_groups()
    if names[0] in GROUPS:
        files = sorted((ROOT / "tests").rglob("test_*.py"))
        modules = [".".join(path.relative_to(ROOT).with_suffix("").parts) for path in files]
        names = [module for module in modules if group_of(module) == names[0]]
    return run(unittest.defaultTestLoader.loadTestsFromNames(names))


def group_of(name: str) -> str:
    """The group in which the tests of a module run."""
    return next((group for group, heads in GROUPS.items() if name.startswith(heads)), OTHERS)


def all_groups() -> int:
    """Runs all groups side by side, and adds up."""
    with tempfile.TemporaryDirectory() as folder:
        # Files long in the making are shared; sums of products use no threads beside the processes.
        shared = {**os.environ, "PIVET_TEST_FILES": folder, "OPENBLAS_NUM_THREADS": "1"}
        runs = []
        for group in GROUPS:
            path = Path(folder) / f"out{group}"
            with path.open("w", encoding="utf-8") as stream:
                words = [sys.executable, __file__, group]
                process = subprocess.Popen(words, stdout=stream, stderr=stream, env=shared)
                runs.append((process, path))
        status, counts = 0, [0, 0, 0]
        for process, path in runs:
            status = max(status, abs(process.wait()))
            text = path.read_text(encoding="utf-8").rstrip()
            print(text, flush=True)
            words = text.rpartition("\n")[2].split()
            ended = len(words) == 6 and words[1] == "passed,"
            status = status if ended else 1
            found = [int(words[at]) for at in (0, 2, 4)] if ended else [0, 1, 0]
            counts = [one + other for one, other in zip(counts, found, strict=True)]
    print("{} passed, {} failed, {} skipped".format(*counts), flush=True)
    return min(status, 1)


def run(suite: unittest.TestSuite) -> int:
    """Runs some tests."""
    result = unittest.TextTestRunner(verbosity=1, stream=sys.stdout).run(suite)
    broken = {id(test) for test, _ in (*result.failures, *result.errors)}
    failed, skipped = len(broken), len(result.skipped)
    passed = result.testsRun - failed - skipped
    print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)
    return 0 if result.wasSuccessful() and result.testsRun else 1


if __name__ == "__main__":
    sys.exit(main())
