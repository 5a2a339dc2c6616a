"""What the command line tells of each sheet, word by word: its figures change only when meant."""

import unittest
from collections.abc import Iterator
from pathlib import Path

from pivet.cli.sheet_table import sheet_lines, sheet_rows
from pivet.sheets.load import all_sheets

PAGE = Path(__file__).parent / "sheets.txt"


def lines() -> Iterator[str]:
    """The page."""
    yield from sheet_rows(all_sheets().values())
    for sheet in all_sheets().values():
        yield f"# {sheet.id}"
        yield from sheet_lines(sheet)


class Sheets(unittest.TestCase):
    """Against the page that was last looked through."""

    maxDiff = 4000

    def test_word_by_word(self) -> None:
        """``python -m tests.cli.test_sheets`` writes it anew; read the difference."""
        self.assertEqual(PAGE.read_text(encoding="utf-8").splitlines(), list(lines()))


if __name__ == "__main__":
    PAGE.write_text("\n".join(lines()) + "\n", encoding="utf-8")
