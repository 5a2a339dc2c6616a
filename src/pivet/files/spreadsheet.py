"""Cells that a spreadsheet must not take for formulas; see docs/csv.md."""

import re
from collections.abc import Iterable

RUNS = frozenset("=+-@\t\r")
NUMBER = re.compile(r"[-+]?\d+(?:\.\d+)?")
MARK = "'"
"""Spreadsheets take what follows for text."""


def harmless(cell: object) -> object:
    """A cell; a text that would run as a formula gets a mark before it, numbers stay numbers.

    Args:
        cell: the value.
    """
    if isinstance(cell, str) and cell[:1] in RUNS and not NUMBER.fullmatch(cell):
        return MARK + cell
    return cell


def harmless_row(cells: Iterable[object]) -> list[object]:
    """A row of such cells.

    Args:
        cells: values of a row.
    """
    return [harmless(cell) for cell in cells]


def without_mark(text: str) -> str:
    """A text as it was before ``harmless``.

    Args:
        text: as somebody wrote it.
    """
    return text[1:] if text[:1] == MARK and text[1:2] in RUNS else text
