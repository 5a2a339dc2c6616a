"""A report on paper."""

import re
import unittest

from pivet.ui.app import make_app
from pivet.ui.printing import WIDTH, _document, _page_of, _pdf, _without_dates
from tests.base import PivetTest

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
        """Wherever a drawing goes to the next page, what stands over it goes with it."""
        make_app()
        drawn = DRAWN.format(600, 500)
        for lines in range(20, 60):
            rows = "".join(f"<p>row {row}</p>" for row in range(lines))
            document = _document(f"<body>{rows}<h2>over</h2><p>own</p>{drawn}</body>")
            pages = {
                block.text(): _page_of(block)
                for block in (document.findBlockByNumber(lines + at) for at in range(3))
            }
            self.assertEqual(3, len(pages))
            self.assertEqual(1, len(set(pages.values())), (lines, pages))

    def test_nothing_is_left_out(self) -> None:
        """Every line has its height, however many drawings and headings stand between."""
        make_app()
        part = (
            "<h3>what</h3><p>why</p><table><tr><td>a</td><td>b</td></tr></table>"
            f"<p>first</p>{DRAWN.format(500, 200)}<p>then</p>{DRAWN.format(500, 90)}<p>last</p>"
        )
        for number in (3, 40):
            document = _document(f"<body>{part * number}</body>")
            boxes = document.documentLayout()
            block, lines = document.begin(), 0
            while block.isValid():
                if block.text().strip():
                    lines += 1
                    self.assertGreater(boxes.blockBoundingRect(block).height(), 5, block.text())
                block = block.next()
            self.assertEqual(9 * number, lines)


class Dates(PivetTest):
    """When it was made does not stand in it."""

    def test_in_any_zone(self) -> None:
        """East and west of Greenwich, by hours and by halves: the same, byte by byte."""
        make_app()
        made = []
        for zone in ("Asia/Kathmandu", "America/St_Johns", "America/Lima"):
            self.in_zone(zone)
            raw = _pdf("<body><p>night</p></body>")
            self.assertIn(b"D:20", raw)
            made.append(_without_dates(raw))
            self.assertEqual(len(raw), len(made[-1]))
        self.assertEqual(1, len(set(made)))
        self.assertEqual({b"D:20000101"}, set(re.findall(rb"D:\d{8}", made[0])))
        # Older Qt writes it once, newer in the description of the document, too.
        dates = set(re.findall(rb'Date="([^"]*)"', made[0]))
        self.assertLessEqual(dates, {b"2000-01-01T00:00:00+00:00"})
