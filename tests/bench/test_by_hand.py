"""Bytes copied from elsewhere, for all families at once."""

import unittest

from pivet.bench.by_hand import explain_bytes, explained_lines
from pivet.errors import InputError
from pivet.families import FAMILIES
from pivet.judge.verdict import Verdict


class ByHand(unittest.TestCase):
    """What the command line and the window ask."""

    def test_likeliest_first(self) -> None:
        """By verdict, whatever the family."""
        for text in ("02 8C 01 5F EE", "a2 00 4b 46 7f ff 0c 10 74", "28-0000051B2C7D"):
            verdicts = [row.verdict for row in explain_bytes(text)]
            self.assertEqual(sorted(verdicts), verdicts)

    def test_none_has_so_many(self) -> None:
        """Says how many there are, and what each family would take."""
        for text, says in (("02 8c", "no type has 2 bytes"), ("", "there are no bytes")):
            with self.assertRaises(InputError) as raised:
                explain_bytes(text)
            self.assertIn(says, str(raised.exception))
            for family in FAMILIES.values():
                self.assertIn(family.copied, str(raised.exception))

    def test_as_text(self) -> None:
        """Each meaning with its mark, its check and its parts."""
        found = explain_bytes("02 8C 01 5F EF")
        lines = list(explained_lines(found))
        self.assertEqual(sum(2 + len(row.rows) for row in found), len(lines))
        self.assertEqual(Verdict.UNSOUND, found[0].verdict)
        self.assertEqual(f"✗ {found[0].title}: {found[0].says}", lines[0])
        self.assertEqual(found[0].check.says, lines[1].strip())
        (part, meaning), line = found[0].rows[0], lines[2]
        self.assertEqual([part, meaning], line.split(maxsplit=1))
