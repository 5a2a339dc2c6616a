"""What is decoded of a sound line with one thing done to it: see ``tests.physics.edits``."""

import zlib
from collections.abc import Iterator
from itertools import groupby
from typing import Any

import numpy as np

from pivet.captures.decoding import decode_lines
from tests.base import FAMILIES, PivetTest
from tests.pages import Page
from tests.physics.edits import captures

PAGE = Page(__file__)
PLACES = 14


def told(found: Any) -> str:
    """How many and their marks; of all columns together a sum over their bytes."""
    whole = 0
    for name in found.__struct_fields__:
        if isinstance(values := getattr(found, name), np.ndarray):
            whole = zlib.crc32(np.ascontiguousarray(values.astype(np.int64)).tobytes(), whole)
    marks = found.marks.tolist()
    return f"{len(found)} {marks if any(marks) else ''} {whole:x}"


def lines() -> Iterator[str]:
    """The page."""
    rows = (
        (told(decode_lines(FAMILIES[family], trace.lines, trace)), what)
        for family, what, trace in captures(PLACES)
    )
    for came, group in groupby(rows, key=lambda row: row[0]):
        yield f"{', '.join(what for _, what in group)}: {came}"


class Edits(PivetTest):
    """Against the page that was last looked through."""

    def test_line_by_line(self) -> None:
        PAGE.same(self, lines())
