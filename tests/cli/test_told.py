"""What the command line prints, word by word: a session with made-up captures."""

import contextlib
import os
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from unittest import mock

from pivet.person.own_sheets import use_folder
from tests.base import PivetTest, older_bench
from tests.cli.running import pivet
from tests.pages import Page

PAGE = Page(__file__)
SHOWN = 40
"""So many lines of what a command prints."""

TYPED = Path(__file__).with_name("typed.txt")
"""Commands, one a line."""


def lines() -> Iterator[str]:
    """The page."""
    with contextlib.ExitStack() as stack:
        folder = stack.enter_context(tempfile.TemporaryDirectory())
        stack.enter_context(contextlib.chdir(folder))
        own = {f"XDG_{name}_HOME": folder for name in ("DATA", "CONFIG", "STATE")}
        stack.callback(time.tzset)
        stack.enter_context(mock.patch.dict(os.environ, own | {"TZ": "UTC"}))
        time.tzset()
        (Path(folder) / "pivet" / "sheets").mkdir(parents=True)
        stack.callback(use_folder, Path(folder) / "none")
        older_bench(1, Path(folder))
        for typed in TYPED.read_text(encoding="utf-8").splitlines():
            with mock.patch("pivet.cli.choosing._taken", []):
                done = pivet(*typed.split())
            yield f"$ pivet {typed}   [{done.exit_code}]"
            said = [*done.stdout.splitlines(), *(f"! {line}" for line in done.stderr.splitlines())]
            yield from (line.replace(folder, "HERE").rstrip() for line in said[:SHOWN])


class Told(PivetTest):
    """Against the page that was last looked through."""

    def test_word_by_word(self) -> None:
        PAGE.same(self, lines())
