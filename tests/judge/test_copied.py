"""Bytes copied from elsewhere."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from pivet.bench.by_hand import explain_bytes, explained_lines
from pivet.errors import InputError
from pivet.judge.verdict import Verdict


class Copied(unittest.TestCase):
    """Whatever it is; what is said of some stands in test_told.txt."""

    @given(st.text(alphabet="0123456789abcdefxX ,:-\nt=crYESNO", max_size=60))
    def test_any_text(self, text: str) -> None:
        """A meaning or a sentence, nothing else."""
        try:
            found = explain_bytes(text)
        except InputError:
            return
        self.assertTrue(list(explained_lines(found)))

    @given(st.binary(min_size=5, max_size=9).filter(lambda data: len(data) in (5, 8, 9)))
    def test_any_bytes(self, data: bytes) -> None:
        """Sound only if the check holds."""
        for row in explain_bytes(data.hex()):
            if row.verdict is not Verdict.UNSOUND:
                self.assertTrue(row.check.ok)
