"""The numbers of notices: they stand in bench files, so none may ever mean something else.

``notice_numbers.txt`` keeps them.  A new notice gets a new line at the end of its family (write
them with ``python -m tests.judge.test_notice_numbers``); one that goes keeps its line, with a
dash before its code.
"""

import unittest
from pathlib import Path

from pivet.families import FAMILIES
from pivet.judge.notices import bits_of

PAGE = Path(__file__).with_name("notice_numbers.txt")
MOST = 62
"""A bench file keeps them as one signed number."""

Numbers = dict[tuple[str, int], str]
"""Codes by family and place of the bit."""


def kept() -> Numbers:
    """What the page says."""
    rows = (line.split() for line in PAGE.read_text(encoding="utf-8").splitlines())
    return {(family, int(place)): code for family, place, code in rows}


def present() -> Numbers:
    """What the program says."""
    return {
        (key, bit.bit_length() - 1): code
        for key, family in FAMILIES.items()
        for code, bit in bits_of(family.notices).items()
    }


class NoticeNumbers(unittest.TestCase):
    """One number, one meaning, for ever."""

    def test_none_is_used_again(self) -> None:
        """Each number means what it always did, or nothing."""
        now, page = present(), kept()
        self.assertEqual({}, {row: now.get(row) for row in now if page.get(row) != now[row]})
        gone = {row: code for row, code in page.items() if row not in now}
        self.assertEqual({}, {row: code for row, code in gone.items() if not code.startswith("-")})

    def test_each_is_one_bit(self) -> None:
        """Of those that the file can keep."""
        for key, family in FAMILIES.items():
            bits = list(bits_of(family.notices).values())
            self.assertEqual([1] * len(bits), [bit.bit_count() for bit in bits], key)
            self.assertLess(max(bits), 1 << MOST)


if __name__ == "__main__":
    rows = {**present(), **kept()}
    lines = [f"{family} {place} {rows[family, place]}\n" for family, place in sorted(rows)]
    PAGE.write_text("".join(lines), encoding="utf-8")
