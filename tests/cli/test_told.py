"""What the command line prints, word by word: a session with made-up captures."""

import contextlib
import os
import shlex
import tempfile
import time
import zlib
from collections.abc import Iterator
from pathlib import Path
from unittest import mock

from pivet.person.own_sheets import use_folder
from tests.base import CAPTURES, PivetTest, few_drawn, older_bench
from tests.cli.running import pivet
from tests.night import night_file
from tests.pages import Page

PAGE = Page(__file__)
SHOWN, LONGEST = 40, 1600
"""So many lines of what a command prints; of a longer line its begin, and a sum."""

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
        Path(folder, "cap").symlink_to(CAPTURES)
        Path(folder, "night.pivet").symlink_to(night_file())
        stack.enter_context(few_drawn())
        for typed in TYPED.read_text(encoding="utf-8").splitlines():
            with mock.patch("pivet.cli.choosing._taken", []):
                done = pivet(*shlex.split(typed))
            yield f"$ pivet {typed}   [{done.exit_code}]"
            said = [*done.stdout.splitlines(), *(f"! {line}" for line in done.stderr.splitlines())]
            yield from (shown(line.replace(folder, "HERE").rstrip()) for line in said[:SHOWN])


def shown(line: str) -> str:
    """A line, whose end is told by a sum where it is long."""
    rest = line[LONGEST:]
    return f"{line[:LONGEST]}… {zlib.crc32(rest.encode()):x}" if rest else line


class Told(PivetTest):
    """Against the page that was last looked through."""

    def test_word_by_word(self) -> None:
        PAGE.same(self, lines())
