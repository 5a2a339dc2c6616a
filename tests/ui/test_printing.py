"""A report on paper."""

import re
import unittest

from pivet.ui.app import make_app
from pivet.ui.printing import WIDTH, _document, _page_of, _pdf

PAGE = re.compile(rb"/Type\s*/Page\b")
DRAWN = '<svg xmlns="http://www.w3.org/2000/svg" width="{0}" height="{1}"></svg>'


class Pages(unittest.TestCase):
    """Where things stand on them."""

    def test_drawings_take_no_more_room_than_they_need(self) -> None:
        """However far the lines of the text stand apart; wide ones are made smaller."""
        make_app()
        style = "<style>body { line-height: 1.5; }</style>"
        for width, height in ((340, 165), (2 * WIDTH, 330)):
            for number, pages in ((5, 1), (9, 2)):
                html = f"{style}<body>{DRAWN.format(width, height) * number}</body>"
                self.assertEqual(pages, len(PAGE.findall(_pdf(html))), (width, number))

    def test_headings_stay_with_what_follows(self) -> None:
        """Wherever a drawing goes to the next page, its headings go with it."""
        make_app()
        drawn = DRAWN.format(600, 500)
        for lines in range(20, 60):
            rows = "".join(f"<p>row {row}</p>" for row in range(lines))
            document = _document(f"<body>{rows}<h2>over</h2><h3>own</h3>{drawn}</body>")
            pages = {
                block.text(): _page_of(block)
                for block in (document.findBlockByNumber(lines + at) for at in range(3))
            }
            self.assertEqual(3, len(pages))
            self.assertEqual(1, len(set(pages.values())), (lines, pages))
