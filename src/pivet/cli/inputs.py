"""Which files a command is about: several, folders, patterns, and standard input."""

import glob
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import click

from pivet.cli.given import Given
from pivet.cli.terminal import say
from pivet.errors import InputError, PivetError
from pivet.files.benchfile.beside import SUFFIX
from pivet.files.incoming import STANDARD_INPUT
from pivet.files.packed import PACKED_SUFFIXES
from pivet.frozen import FrozenValue

CAPTURES = (".vcd", ".csv", ".tsv")
IN_FOLDER = (*CAPTURES, *(ending + packed for ending in CAPTURES for packed in PACKED_SUFFIXES))
"""What counts as a capture in a folder; elsewhere the content tells."""


class InputFile(click.Path):
    """A file to read; ``-`` is standard input, whereas ``./-`` is a file of that name."""

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Path:
        """Its path."""
        return STANDARD_INPUT if value == "-" else Given(value)


class Inputs(FrozenValue):
    """The files of a command.

    Attributes:
        paths: of them, as they were named.
        many: there may be more than one, so that each result says its file.
    """

    paths: tuple[Path, ...]
    many: bool


def inputs_of(words: Sequence[Path], benches: bool = False) -> Inputs:
    """The files that some words mean; of a folder those in it, of a pattern those that fit.

    Args:
        words: as they were given.
        benches: bench files in a folder count, too.

    Raises:
        InputError: a pattern or a folder gives none.
    """
    found: list[Path] = []
    for word in words:
        if word.is_dir():
            found += _in_folder(word, benches)
        elif not word.exists() and glob.has_magic(str(word)):
            start = Path(word.anchor or ".")
            fitting = sorted(start.glob(str(word.relative_to(word.anchor))))
            if not fitting:
                raise InputError(f"no file fits {word}", "check the pattern")
            found += [path for path in fitting if path.is_file()]
        else:
            found.append(word)
    several = len(words) > 1 or list(words) != found
    return Inputs(tuple(dict.fromkeys(found)), several)


def _in_folder(folder: Path, benches: bool) -> list[Path]:
    endings = (*IN_FOLDER, SUFFIX) if benches else IN_FOLDER
    try:
        rows = sorted(folder.iterdir())
    except OSError as error:
        raise InputError(f"{folder} cannot be read ({error.strerror})", "choose another") from error
    found = [path for path in rows if path.name.lower().endswith(endings) and path.is_file()]
    if not found:
        raise InputError(
            f"there is no capture in the folder {folder}", f"captures end in {', '.join(CAPTURES)}"
        )
    return found


class Failures:
    """Files of several that cannot be used: each is said, and the others are gone through.

    Attributes:
        count: how many failed.
    """

    def __init__(self, many: bool) -> None:
        self._many = many
        self.count = 0

    @contextmanager
    def said(self) -> Iterator[None]:
        """What fails within is one sentence; with a single file it is the end, as ever."""
        try:
            yield
        except PivetError as error:
            if not self._many:
                raise
            self.count += 1
            say(f"pivet: {error}", error=True)


def files_argument(command: Callable[..., Any]) -> Callable[..., Any]:
    """``FILE…``: what ``inputs_of`` understands."""
    made: Callable[..., Any] = click.argument(
        "files", nargs=-1, required=True, type=InputFile(), metavar="FILE..."
    )(command)
    return made
