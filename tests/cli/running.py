"""Runs the command line as the program does, within a test."""

import contextlib
import io
from dataclasses import dataclass
from unittest import mock

from pivet.cli.commands import OpenWindow, ShowDemo, build
from pivet.cli.terminal import run


@dataclass(frozen=True)
class Done:
    """How a command ended.

    Attributes:
        exit_code: its status.
        stdout, stderr: what it printed where.
    """

    exit_code: int
    stdout: str
    stderr: str

    @property
    def output(self) -> str:
        """All that it printed."""
        return self.stdout + self.stderr


def pivet(
    *words: object, window: OpenWindow = lambda _: 0, demo: ShowDemo = lambda _: 0, typed: str = ""
) -> Done:
    """Runs ``pivet`` with some words; something stands in for the windows."""
    out, err = io.StringIO(), io.StringIO()
    command = build(window, demo)
    argv = mock.patch("sys.argv", ["pivet", *map(str, words)])
    stdin = mock.patch("sys.stdin", io.StringIO(typed))
    with argv, stdin, contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        status = run(command)
    return Done(status, out.getvalue(), err.getvalue())
