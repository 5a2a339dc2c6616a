"""What is decoded of a sound line with one thing done to it: see ``tests.physics.edits``."""

from collections.abc import Iterator
from itertools import groupby
from typing import Any

from pivet.captures.decoding import decode_lines
from tests.base import FAMILIES, PivetTest
from tests.pages import Page, columns_of, sum_of
from tests.physics.edits import captures

PAGE = Page(__file__)
PLACES = 14


def told(found: Any) -> str:
    """How many and their marks; of all columns together a sum over their bytes."""
    whole = 0
    for _, values in columns_of(found):
        whole = sum_of(values, whole)
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
