"""What the command line tells of each sheet, word by word: its figures change only when meant."""

from collections.abc import Iterator

from pivet.cli.sheet_table import sheet_lines, sheet_rows
from pivet.sheets.load import all_sheets
from tests.base import PivetTest
from tests.pages import Page

PAGE = Page(__file__)


def lines() -> Iterator[str]:
    """The page."""
    yield from sheet_rows(all_sheets().values())
    for sheet in all_sheets().values():
        yield f"# {sheet.id}"
        yield from sheet_lines(sheet)


class Sheets(PivetTest):
    """Against the page that was last looked through."""

    def test_told(self) -> None:
        PAGE.same(self, lines())
