"""Pages of what is told, looked through once and kept: a word changes only when it is meant to.

``WRITE_PAGES=1 TZ=UTC python -m unittest tests.judge.test_told`` writes one anew; read what is
other then.
"""

import enum
import os
import unittest
import zlib
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

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
    kind = type(value)
    way = WAYS.get(kind)
    if way is None:
        way = WAYS[kind] = _way(kind)
    return way(value)


def _way(kind: type) -> Callable[[Any], str]:
    """How values of a type are told: pages are made of very many."""
    if issubclass(kind, Sheet | Window):
        return lambda value: getattr(value, "id", "") or getattr(value, "key", "")
    if issubclass(kind, Later | Call):
        return lambda value: plain(value())
    if issubclass(kind, enum.Enum):
        return lambda value: str(value.name)
    if issubclass(kind, float | np.floating):
        return lambda value: f"{value:.6g}"
    if issubclass(kind, np.ndarray):
        return lambda value: f"array{value.shape}"
    names = getattr(kind, "__struct_fields__", getattr(kind, "__slots__", None))
    if names and not issubclass(kind, str):
        shown = [(name, f"{name.removeprefix('make_')}=") for name in names]

        def told(value: object) -> str:
            parts = ", ".join([said + plain(getattr(value, at)) for at, said in shown])
            return f"{kind.__name__}({parts})"

        return told
    if issubclass(kind, Mapping):
        return lambda value: (
            "{" + ", ".join([f"{plain(k)}: {plain(v)}" for k, v in value.items()]) + "}"
        )
    return _row if issubclass(kind, list | tuple) else str


def _row(value: Sequence[object]) -> str:
    more = f" and {len(value) - MOST} more" if len(value) > MOST else ""
    return f"[{', '.join(map(plain, value[:MOST]))}{more}]"


WAYS: dict[type, Callable[[Any], str]] = {}
"""By type, as they are met."""


def columns_of(found: Any) -> Iterator[tuple[str, np.ndarray]]:
    """The columns of exchanges, or of what is said of them, by name."""
    for name in found.__struct_fields__:
        values = getattr(found, name)
        if isinstance(values, np.ndarray):
            yield name, values


def sum_of(values: np.ndarray, before: int = 0) -> int:
    """A sum over a column of whole numbers, the same on every machine."""
    return zlib.crc32(np.ascontiguousarray(values.astype(np.int64)).tobytes(), before)


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
