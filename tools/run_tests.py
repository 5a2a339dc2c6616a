"""Runs all tests and ends with one plain line: so many passed, failed, skipped.

All tests run in four processes side by side, each of which takes the next module that none has
taken: those that listen to something live mostly wait, and those that take longest come first.
"""

import os
import subprocess
import sys
import tempfile
import unittest
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parent.parent
PROCESSES = 4
CLAIMS = "--claims"
LONGEST = (
    "tests.firmware.test_listening",
    "tests.ui.test_live",
    "tests.ui.test_monkey",
    "tests.judge.test_turns",
    "tests.ui.test_many",
    "tests.listening.test_told",
    "tests.keeping.test_failures",
    "tests.ui.test_bench",
    "tests.ui.test_readings_live",
    "tests.ui.test_readings",
    "tests.ui.test_registry",
    "tests.listening.test_asking",
    "tests.cli.test_listen",
    "tests.fuzz.test_fuzz",
    "tests.files.benchfile.test_kills",
)
"""Modules that take longest, or wait longest: the last one to end should be short."""


def main() -> int:
    """Runs the tests whose names are given, else all; returns the exit status."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    # Dozens of tests start Pivet, which need not be compiled for each.
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    sys.path.insert(0, str(ROOT))
    names = sys.argv[1:]
    if not names:
        return all_modules()
    if names[0] == CLAIMS:
        return run(Claimed(Path(names[1])))
    return run(unittest.defaultTestLoader.loadTestsFromNames(names))


def modules() -> list[str]:
    """All modules with tests, the longest first."""
    files = sorted((ROOT / "tests").rglob("test_*.py"))
    names = [".".join(path.relative_to(ROOT).with_suffix("").parts) for path in files]
    return [*LONGEST, *(name for name in names if name not in LONGEST)]


class Claimed(unittest.TestSuite):
    """The modules that no other process has taken, each loaded when it is its turn.

    Args:
        folder: where each leaves the name of what it has taken.
    """

    def __init__(self, folder: Path) -> None:
        super().__init__()
        self._folder = folder

    def __iter__(self) -> Iterator[unittest.TestSuite | unittest.TestCase]:
        for name in modules():
            try:
                (self._folder / name).touch(exist_ok=False)
            except FileExistsError:
                continue
            yield unittest.defaultTestLoader.loadTestsFromName(name)

    def _removeTestAtIndex(self, _index: int) -> None:
        """Nothing is kept that could be taken out."""


def all_modules() -> int:
    """Runs all modules in processes side by side, and adds up."""
    with tempfile.TemporaryDirectory() as folder:
        claims = Path(folder) / "claims"
        claims.mkdir()
        # Files long in the making are shared; sums of products use no threads beside the processes.
        shared = {**os.environ, "PIVET_TEST_FILES": folder, "OPENBLAS_NUM_THREADS": "1"}
        runs = []
        for number in range(PROCESSES):
            path = Path(folder) / f"out{number}"
            with path.open("w", encoding="utf-8") as stream:
                words = [sys.executable, __file__, CLAIMS, str(claims)]
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
