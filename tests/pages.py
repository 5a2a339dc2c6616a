"""Pages of what is told, looked through once and kept: a word changes only when it is meant to.

``WRITE_PAGES=1 TZ=UTC python -m unittest tests.judge.test_told`` writes one anew; read what is
other then.
"""

import os
import unittest
from collections.abc import Iterable, Iterator
from pathlib import Path

from pivet.captures.causes import causes_of
from pivet.captures.wire import Wire
from pivet.judge.verdict import Verdict

WRITE = "WRITE_PAGES"


def one_of_each(wire: Wire) -> Iterator[int]:
    """The first sound exchange of a wire, then the first of each cause."""
    yield int((wire.verdicts == Verdict.SOUND).argmax())
    yield from (cause.at[0] for cause in causes_of(wire))


class Page:
    """A page beside the module that makes it.

    Args:
        module: path of the test module; where WRITE_PAGES is set, its test writes the page anew.
    """

    def __init__(self, module: str) -> None:
        self.path = Path(module).with_suffix(".txt")

    def same(self, test: unittest.TestCase, lines: Iterable[str]) -> None:
        """What is told now is what stands on the page."""
        told = "\n".join(lines).splitlines()
        if WRITE in os.environ:
            self.path.write_text("\n".join(told).rstrip("\n") + "\n", encoding="utf-8")
        test.maxDiff = 4000
        test.assertEqual(self.path.read_text(encoding="utf-8").splitlines(), told)
