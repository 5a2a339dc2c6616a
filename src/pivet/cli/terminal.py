"""What goes to the terminal: names from files and probes cannot do anything there."""

import os
import re
import sys
from collections.abc import Callable, Iterable
from typing import IO, Any, cast

import click

from pivet.errors import PivetError

Command = Callable[..., Any]

EXIT_UNSOUND = 1
EXIT_UNUSABLE = 2
EXIT_INTERRUPTED = 130
"""As shells have it: 128 and the number of the signal."""

CONTROLS = "\x00-\x08\x0b-\x1f\x7f-\x9f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ud800-\udfff"
"""Control characters, those that turn the direction of writing, and halves of pairs."""

IN_TEXT = re.compile(f"[{CONTROLS}]")
IN_LINE = re.compile(f"[{CONTROLS}\n\t]")


def _escape(found: re.Match[str]) -> str:
    number = ord(found[0])
    short = {"\n": r"\n", "\t": r"\t", "\r": r"\r"}.get(found[0])
    return short or (f"\\x{number:02x}" if number < 0x100 else f"\\u{number:04x}")


def escaped(text: str) -> str:
    r"""A line with whatever could steer a terminal written out, as ``\x1b`` for instance."""
    return IN_LINE.sub(_escape, text)


def say(line: str, error: bool = False) -> None:
    """Prints a line."""
    click.echo(escaped(line), err=error)


AT_ONCE = 64
"""How many lines go to the terminal in one go, when they come fast."""


def say_lines(lines: Iterable[str]) -> None:
    """Prints lines, many in one go."""
    waiting: list[str] = []
    for line in lines:
        waiting.append(escaped(line))
        if len(waiting) >= AT_ONCE:
            click.echo("\n".join(waiting))
            waiting.clear()
    if waiting:
        click.echo("\n".join(waiting))


def say_note(line: str) -> None:
    """Prints what was done, unless only what was asked for shall be printed."""
    if not is_quiet():
        say(line)


QUIET = "pivet.quiet"


def is_quiet() -> bool:
    """Whether only what was asked for shall be printed."""
    ctx = click.get_current_context(silent=True)
    return ctx is not None and bool(ctx.meta.get(QUIET))


def quiet_option(command: Command) -> Command:
    """``--quiet``."""

    def keep(ctx: click.Context, _param: click.Parameter, value: bool) -> None:
        ctx.meta[QUIET] = value

    made: Command = click.option(
        "--quiet",
        "-q",
        is_flag=True,
        expose_value=False,
        callback=keep,
        help="Print no progress, no remarks, and nothing of what is sound.",
    )(command)
    return made


def say_text(text: str) -> None:
    """Prints lines that have their ends."""
    click.echo(IN_TEXT.sub(_escape, text), nl=False)


def say_json(line: str) -> None:
    """Prints a JSON text; what could steer a terminal stands in it as JSON writes it."""
    click.echo(IN_TEXT.sub(lambda found: f"\\u{ord(found[0]):04x}", line))


class EscapedStream:
    """A stream to a terminal: writes to it as ``say_text`` does.

    Args:
        error: to standard error.
    """

    def __init__(self, error: bool = False) -> None:
        self._error = error

    def write(self, text: str) -> int:
        """Prints lines."""
        click.echo(IN_TEXT.sub(_escape, text), nl=False, err=self._error)
        return len(text)

    def flush(self) -> None:
        """Nothing waits."""


class Enough(Exception):
    """Nobody reads what is printed any more; nothing is wrong."""


def run(command: click.Command) -> int:
    """Runs the command line; returns the exit status, see docs/reliability.md."""
    return guarded(lambda: command.main(prog_name="pivet", standalone_mode=False))


def guarded(work: Callable[[], Any]) -> int:
    """Does something for the command line; whatever goes wrong is one sentence.

    A reader that has seen enough (``| head``) is no trouble.
    """
    try:
        status = work()
        sys.stdout.flush()
    except PivetError as error:
        return _refused(str(error))
    except click.ClickException as error:
        error.show(cast(IO[str], EscapedStream(error=True)))
        return error.exit_code
    except (click.Abort, KeyboardInterrupt):
        return EXIT_INTERRUPTED
    except (Enough, BrokenPipeError):
        _leave_stdout()
        return 0
    except OSError as error:
        _leave_stdout()
        return _refused(f"the output cannot be written ({error.strerror}): make room there.")
    return status if isinstance(status, int) else 0


def _refused(sentence: str) -> int:
    say(f"pivet: {sentence}", error=True)
    return EXIT_UNUSABLE


def _leave_stdout() -> None:
    """Whatever waits to be printed cannot be: the interpreter must not try it at its end."""
    nowhere = os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, sys.stdout.fileno())
    os.close(nowhere)
