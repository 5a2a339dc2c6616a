"""Figures that change only when somebody means it: a room's figures.toml, beside its tests."""

import importlib
import tomllib
import unittest
from pathlib import Path
from typing import Any


def figures(module: str) -> dict[str, Any]:
    """What stands beside the test module of this path."""
    return tomllib.loads(Path(module).with_name("figures.toml").read_text(encoding="utf-8"))


def constants_test(module: str) -> type[unittest.TestCase]:
    """A test that the constants of a room's modules are as they were when they were last meant."""
    room = Path(module).parent.name

    class Constants(unittest.TestCase):
        """Each module's own."""

        def test_as_they_were_meant(self) -> None:
            """Those that stand in the file."""
            for name, wanted in figures(module)["constants"].items():
                found = importlib.import_module(f"pivet.{room}.{name}")
                with self.subTest(name):
                    rows = ((key, getattr(found, key)) for key in wanted)
                    plain = {key: list(row) if isinstance(row, tuple) else row for key, row in rows}
                    self.assertEqual(wanted, plain)

    return Constants
