"""``python -m unittest tests.decode`` runs all tests of that room, ``tests`` those of all."""

import unittest
from collections.abc import Callable
from pathlib import Path

ROOT = Path(__file__).parents[1]

LoadTests = Callable[[unittest.TestLoader, unittest.TestSuite, str | None], unittest.TestSuite]


def all_in(package: str) -> LoadTests:
    """What unittest asks a package for: its tests and those of the packages in it.

    Args:
        package: file of the package.
    """
    folder = Path(package).parent

    def load_tests(
        loader: unittest.TestLoader, _own: unittest.TestSuite, pattern: str | None
    ) -> unittest.TestSuite:
        names = [path.with_suffix("") for path in folder.glob(pattern or "test*.py")]
        names += [path.parent for path in folder.glob("*/__init__.py")]
        dotted = [".".join(path.relative_to(ROOT).parts) for path in sorted(names)]
        return loader.loadTestsFromNames(dotted)

    return load_tests
