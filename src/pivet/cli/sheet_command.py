"""``pivet sheet``: the timing sheets, those of Pivet and the person's own."""

from pathlib import Path

import click

from pivet.cli.choosing import SheetName, take_own_sheets
from pivet.cli.given import Given
from pivet.cli.sheet_table import sheet_lines, sheet_rows
from pivet.cli.terminal import EXIT_UNUSABLE, quiet_option, say, say_note
from pivet.errors import OutputError
from pivet.files import disk
from pivet.files.targets import refuse_target
from pivet.person.own_folder import own_folder
from pivet.person.own_sheets import SUFFIX, copy_text, read_sheet, sheet_file
from pivet.sheets.check import sheet_problems
from pivet.sheets.load import all_sheets, find_sheet, own_sheets

FILE = click.Path(path_type=Given)


@click.group()
def sheet() -> None:
    """Lists, shows, checks and copies timing sheets."""


@sheet.command("list")
def sheet_list() -> None:
    """Lists the sensor types; those of your own with their file."""
    take_own_sheets()
    own = own_sheets()
    for line in sheet_rows(sheet for key, sheet in all_sheets().items() if key not in own):
        say(line)
    if own:
        say("")
        say(f"your own, from {own_folder()}:")
        for line in sheet_rows(found.sheet for found in own.values()):
            say(line)


@sheet.command("show")
@click.argument("sensor", type=SheetName())
def sheet_show(sensor: str) -> None:
    """Shows the timing sheet of SENSOR."""
    for line in sheet_lines(find_sheet(sensor)):
        say(line)


@sheet.command("check")
@click.argument("file", type=FILE)
@quiet_option
@click.pass_context
def sheet_check(ctx: click.Context, file: Path) -> None:
    """Checks a timing sheet of your own: says what is wrong, where, and what to do.

    The status is 2 when it cannot be used.
    """
    problems = sheet_problems(sheet_file(file))
    for problem in problems:
        say(f"{file}: {problem.says}")
    if problems:
        ctx.exit(EXIT_UNUSABLE)
    found = read_sheet(file).sheet
    say(f"{file}: {found.id} can be used.")
    if file.absolute().parent != own_folder():
        say_note(f"Give it with --sheet {file}, or copy it to {own_folder()}:")
        say_note("all commands and the window read what stands there.")


@sheet.command("copy")
@click.argument("sensor", type=SheetName())
@click.argument("file", type=FILE)
@click.option("--force", is_flag=True, help="Write over whatever is there.")
@quiet_option
def sheet_copy(sensor: str, file: Path, force: bool) -> None:
    """Writes the sheet SENSOR to FILE, to begin one of your own with."""
    if file.suffix != SUFFIX:
        raise OutputError(f"{file} has an ending that is none of a sheet", f"end it in {SUFFIX}")
    refuse_target(file, None, force=force)
    text = copy_text(sensor, file.stem)
    disk.write_text(file, text)
    say_note(f"{file}: change it, then: pivet sheet check {file}")
