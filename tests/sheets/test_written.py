"""Where the entries of a sheet's text stand."""

import unittest

from pivet.sheets.written import line_of, lines_of

TEXT = """id = "x"
  name="y"

[ echo ]
lines = 2
[[window]]
key = "a"
[[ window ]]   # the second
"key" = "b"
[[value]]
[wiring]
"""


class Lines(unittest.TestCase):
    """Tables, tables of several, entries with and without quotes."""

    def test_each(self) -> None:
        """The first line of each."""
        lines = lines_of(TEXT)
        for place, line in (
            (("id",), 1),
            (("name",), 2),
            (("echo",), 4),
            (("echo", "lines"), 5),
            (("window",), 6),
            (("window", 0), 6),
            (("window", 0, "key"), 7),
            (("window", 1), 8),
            (("window", 1, "key"), 9),
            (("value",), 10),
            (("value", 0), 10),
            (("wiring",), 11),
        ):
            self.assertEqual(line, lines[place], place)
        self.assertEqual(12, len(lines))

    def test_what_is_missing(self) -> None:
        """It would stand in what is there; nothing at all is the whole text."""
        lines = lines_of(TEXT)
        self.assertEqual(4, line_of(("echo", "timeout_us"), lines))
        self.assertEqual(8, line_of(("window", 1, "label"), lines))
        self.assertIsNone(line_of(("interval", "least_s"), lines))
        self.assertIsNone(line_of((), lines))
