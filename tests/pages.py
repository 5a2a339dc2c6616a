"""Pages of what is told, looked through once and kept: a word changes only when it is meant to."""

import sys
import unittest
from collections.abc import Iterable, Iterator
from pathlib import Path

from pivet.captures.causes import causes_of
from pivet.captures.wire import Wire
from pivet.judge.verdict import Verdict


def one_of_each(wire: Wire) -> Iterator[int]:
    """The first sound exchange of a wire, then the first of each cause."""
    yield int((wire.verdicts == Verdict.SOUND).argmax())
    yield from (cause.at[0] for cause in causes_of(wire))


class Page:
    """A page beside the module that makes it.

    Args:
        module: path of the test module; ``python -m`` of it writes the page anew.
    """

    def __init__(self, module: str) -> None:
        self.path = Path(module).with_suffix(".txt")

    def same(self, test: unittest.TestCase, lines: Iterable[str]) -> None:
        """What is told now is what stands on the page."""
        test.maxDiff = 4000
        kept = self.path.read_text(encoding="utf-8").splitlines()
        test.assertEqual(kept, "\n".join(lines).splitlines())

    def write(self, lines: Iterable[str]) -> None:
        """Writes it anew; read the difference."""
        self.path.write_text("\n".join(lines).rstrip("\n") + "\n", encoding="utf-8")
        sys.stdout.write(f"{self.path} was written\n")
