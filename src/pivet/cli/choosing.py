"""How a command is told which sensor is meant: by a sheet's name, or a sheet's file."""

import contextlib
import os
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click
from click.shell_completion import CompletionItem, split_arg_string

from pivet.cli.given import Given
from pivet.cli.terminal import say
from pivet.errors import InputError

if TYPE_CHECKING:
    from pivet.sheets.model import Sheet

    Text = click.ParamType[str]
else:  # Only newer ones can be told of what they are.
    Text = click.ParamType

Command = Callable[..., Any]


class SheetName(Text):
    """The id of a sheet, of Pivet or the person's own."""

    name = "sheet"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> str:
        """The id as it is."""
        from pivet.sheets.load import find_sheet

        take_own_sheets()
        return find_sheet(str(value)).id

    def shell_complete(
        self, ctx: click.Context, param: click.Parameter, incomplete: str
    ) -> list[CompletionItem]:
        """The sheets that begin so."""
        from pivet.sheets.load import all_sheets

        take_own_sheets(quiet=True)
        return [
            CompletionItem(key, help=sheet.name)
            for key, sheet in all_sheets().items()
            if key.startswith(incomplete)
        ]


def complete_wires(
    _ctx: click.Context, _param: click.Parameter, incomplete: str
) -> list[CompletionItem]:
    """The wires and lines of the files that stand in the command already."""
    from pivet.captures.names import names_in

    # The words before an option that still lacks its value are not parsed.
    words = map(Path, split_arg_string(os.environ.get("COMP_WORDS", "")))
    names = dict.fromkeys(name for path in words if path.is_file() for name in names_in(path))
    return [CompletionItem(name) for name in names if name.startswith(incomplete)]


def complete_feeds(
    _ctx: click.Context, _param: click.Parameter, incomplete: str
) -> list[CompletionItem]:
    """The feeds of the bench that stands in the command already."""
    from pivet.errors import PivetError
    from pivet.files.benchfile.beside import SUFFIX
    from pivet.files.benchfile.feeds import feed_rows
    from pivet.files.benchfile.reading import BenchReader

    names: list[str] = []
    for path in map(Path, split_arg_string(os.environ.get("COMP_WORDS", ""))):
        if path.is_file() and path.suffix == SUFFIX:
            with contextlib.suppress(PivetError), contextlib.ExitStack() as stack:
                bench = BenchReader(path)
                stack.callback(bench.close_reader)
                names += [row.name for row in feed_rows(bench)]
    return [CompletionItem(name) for name in names if name.startswith(incomplete)]


def complete_units(
    _ctx: click.Context, _param: click.Parameter, incomplete: str
) -> list[CompletionItem]:
    """The units that begin so."""
    from pivet.readings.units import chosen_symbols

    return [CompletionItem(name) for name in chosen_symbols() if name.startswith(incomplete)]


def wire_option(more: str = "") -> Callable[[Command], Command]:
    """``--wire``, by the one rule for names.

    Args:
        more: what else a command understands.
    """
    return click.option(
        "--wire",
        "wires",
        multiple=True,
        shell_complete=complete_wires,
        help="Only this wire, named as it is shown or by a unique last part; again for more. "
        f"trigger,echo names the two lines of an echo sensor{more}.",
    )


_taken: list[Path] = []


def take_own_sheets(quiet: bool = False) -> None:
    """Reads the person's folder of sheets, once; says which cannot be used."""
    from pivet.person.own_folder import own_folder

    folder = own_folder()
    if folder in _taken:
        return
    _taken[:] = [folder]
    from pivet.person.own_sheets import use_folder

    for error in use_folder(folder):
        if not quiet:
            say(f"pivet: left out: {error}", error=True)


def sensor_options(command: Command) -> Command:
    """``--sensor`` and ``--sheet``."""
    options = (
        click.option("--sensor", type=SheetName(), help="Judge as this sensor; see: sheet list."),
        click.option(
            "--sheet",
            "sheet_file",
            type=click.Path(path_type=Given),
            metavar="FILE",
            help="Judge by a timing sheet of your own; see: sheet copy.",
        ),
    )
    for option in reversed(options):
        command = option(command)
    return command


def chosen_sheet(sensor: str | None, sheet_file: Path | None) -> "Sheet | None":
    """The sheet that was chosen; None to recognise it.

    Args:
        sensor: as ``--sensor``.
        sheet_file: as ``--sheet``.

    Raises:
        InputError: both were given, or the file is no sheet that can be used.
    """
    from pivet.person.own_sheets import bring_sheet
    from pivet.sheets.load import find_sheet

    take_own_sheets()
    if sheet_file is None:
        return None if sensor is None else find_sheet(sensor)
    if sensor is not None:
        raise InputError("--sensor and --sheet say the same", "give one of them")
    return bring_sheet(sheet_file)
