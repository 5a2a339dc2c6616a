"""Timeout and farthest distance that are given by hand, and what windows can be."""

import unittest

from pivet.errors import InputError
from pivet.frozen import replace
from pivet.sheets.load import all_sheets, find_sheet
from pivet.sheets.reach import AS_IN_SHEET, Reach, reach_of


class Given(unittest.TestCase):
    """What is given stands in place of the sheet's."""

    def test_from_and_up_to(self) -> None:
        """The least and the most are possible; beyond them there is a sentence."""
        for timeout, farthest in ((1.0, None), (1000.0, None), (None, 0.1), (None, 50.0)):
            self.assertEqual(Reach(timeout, farthest), reach_of(timeout, farthest))
        for timeout, farthest, says in (
            (0.99, None, "0.99 ms is no timeout of an echo sensor; give 1 to 1000 ms"),
            (1001.0, None, "1001 ms is no timeout of an echo sensor; give 1 to 1000 ms"),
            (None, 0.09, "an echo sensor does not reach 0.09 m; give 0.1 to 50 m"),
            (None, 50.1, "an echo sensor does not reach 50.1 m; give 0.1 to 50 m"),
        ):
            with self.assertRaises(InputError) as caught:
                reach_of(timeout, farthest)
            self.assertEqual(says.split(";")[0], str(caught.exception).split(":")[0].split(";")[0])

    def test_only_what_is_given_changes(self) -> None:
        """The other stays as in the sheet; sheets of other families stay as they are."""
        sheet = find_sheet("hc-sr04")
        self.assertIs(sheet, AS_IN_SHEET.of(sheet))
        self.assertEqual(replace(sheet.echo, timeout_us=20_000.0), Reach(20.0).of(sheet).echo)
        self.assertEqual(replace(sheet.echo, farthest_m=6.0), Reach(None, 6.0).of(sheet).echo)
        frames = find_sheet("dht22")
        self.assertIs(frames, Reach(20.0, 6.0).of(frames))


class Windows(unittest.TestCase):
    """What is common in copies contains the window."""

    def test_common(self) -> None:
        """From its own limits on, on either side; a window without a top has none to hold."""
        window = next(
            row
            for sheet in all_sheets().values()
            for row in sheet.windows.values()
            if row.common_us is not None and row.max_us is not None
        )
        low, high = window.min_us, window.max_us or 0.0
        for common in ((low, high), (low - 0.5, high + 0.5)):
            self.assertEqual(common, replace(window, common_us=common).common_us)
        for common in ((low + 0.1, high), (low, high - 0.1), (0.0, high), (-1.0, high)):
            with self.subTest(common), self.assertRaises(ValueError):
                replace(window, common_us=common)
        self.assertIsNone(replace(window, max_us=None, common_us=(low, low)).max_us)
