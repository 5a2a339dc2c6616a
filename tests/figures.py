"""Figures that change only when somebody means it: a room's figures.toml, beside its tests."""

import importlib
import tomllib
import unittest
from pathlib import Path
from typing import Any


def figures(module: str) -> dict[str, Any]:
    """What stands beside the test module of this path."""
    return tomllib.loads(Path(module).with_name("figures.toml").read_text(encoding="utf-8"))


def same_constants(case: unittest.TestCase, module: str) -> None:
    """The constants of a room's modules are as they were when they were last meant."""
    room = Path(module).parent.name
    for name, wanted in figures(module)["constants"].items():
        found = importlib.import_module(f"pivet.{room}.{name}")
        with case.subTest(name):
            rows = ((key, getattr(found, key)) for key in wanted)
            plain = {key: list(row) if isinstance(row, tuple) else row for key, row in rows}
            case.assertEqual(wanted, plain)
