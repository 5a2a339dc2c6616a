"""Pages of what is told, looked through once and kept: a word changes only when it is meant to.

``WRITE_PAGES=1 TZ=UTC python -m unittest tests.judge.test_told`` writes one anew; read what is
other then.
"""

import enum
import os
import unittest
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path

import numpy as np

from pivet.captures.causes import causes_of
from pivet.captures.wire import Wire
from pivet.judge.later import Call, Later
from pivet.judge.verdict import Verdict
from pivet.sheets.model import Sheet, Window

WRITE = "WRITE_PAGES"

MOST = 12
"""So many of many are told."""


def one_of_each(wire: Wire) -> Iterator[int]:
    """The first sound exchange of a wire, then the first of each cause."""
    yield int((wire.verdicts == Verdict.SOUND).argmax())
    yield from (cause.at[0] for cause in causes_of(wire))


def plain(value: object) -> str:
    """A value as text, the same on every machine."""
    if isinstance(value, Sheet | Window):
        return getattr(value, "id", "") or getattr(value, "key", "")
    if isinstance(value, Later | Call):
        return plain(value())
    if isinstance(value, enum.Enum):
        return value.name
    if isinstance(value, float | np.floating):
        return f"{value:.6g}"
    if isinstance(value, np.ndarray):
        return f"array{value.shape}"
    names = getattr(value, "__struct_fields__", getattr(value, "__slots__", None))
    if names and not isinstance(value, str):
        rows = (f"{_shown(name)}={plain(getattr(value, name))}" for name in names)
        return f"{type(value).__name__}({', '.join(rows)})"
    if isinstance(value, Mapping):
        return "{" + ", ".join(f"{plain(k)}: {plain(v)}" for k, v in value.items()) + "}"
    if isinstance(value, list | tuple):
        more = f" and {len(value) - MOST} more" if len(value) > MOST else ""
        return f"[{', '.join(map(plain, value[:MOST]))}{more}]"
    return str(value)


def _shown(name: str) -> str:
    return name.removeprefix("make_")


class Page:
    """A page beside the module that makes it.

    Args:
        module: path of the test module; where WRITE_PAGES is set, its test writes the page anew.
    """

    def __init__(self, module: str) -> None:
        self.path = Path(module).with_suffix(".txt")

    def same(self, test: unittest.TestCase, lines: Iterable[str]) -> None:
        """What is told now is what stands on the page."""
        told = "\n".join(lines).splitlines()
        if WRITE in os.environ:
            self.path.write_text("\n".join(told).rstrip("\n") + "\n", encoding="utf-8")
        test.maxDiff = 4000
        test.assertEqual(self.path.read_text(encoding="utf-8").splitlines(), told)
