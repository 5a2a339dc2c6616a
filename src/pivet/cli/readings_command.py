"""``pivet readings`` and ``pivet stats``: what wires gave over time."""

import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import IO, TYPE_CHECKING, Any, cast

import click

from pivet.cli.choosing import chosen_sheet, complete_units, sensor_options, wire_option
from pivet.cli.given import Given
from pivet.cli.inputs import Failures, files_argument, inputs_of
from pivet.cli.progress_line import progress_line
from pivet.cli.terminal import (
    EXIT_UNUSABLE,
    EscapedStream,
    quiet_option,
    say_note,
    say_text,
)
from pivet.errors import InputError, OutputError
from pivet.files.incoming import called

if TYPE_CHECKING:
    from pivet.history.open import Readings
    from pivet.readings.series import Series
    from pivet.readings.units import UnitChoice
    from pivet.sheets.model import Sheet

FILE = click.Path(path_type=Given)
Command = Callable[..., Any]
FORMS = click.Choice(["csv", "long", "jsonl", "xlsx"])
OPTIONS = (
    files_argument,
    sensor_options,
    wire_option(),
    click.option(
        "--from",
        "begin",
        help="From here on: 2026-11-23T02:30, 02:30, or 10m after the beginning.",
    ),
    click.option("--to", "end", help="Up to here, written likewise."),
    click.option(
        "--unit",
        "symbols",
        multiple=True,
        shell_complete=complete_units,
        help="Show in this unit: °C, °F, K, m, cm, mm, in.",
    ),
    click.option("--derived", is_flag=True, help="With dew point, heat index and the like."),
    quiet_option,
)


def which_readings(command: Command) -> Command:
    """The argument and the options that say which readings of which files are meant."""
    for option in reversed(OPTIONS):
        command = option(command)
    return command


@click.command()
@which_readings
@click.option(
    "--format",
    "form",
    type=FORMS,
    help="A column a quantity (csv), a line a quantity (long), JSON Lines, or a workbook for "
    "spreadsheets; if not given, as --output ends.",
)
@click.option("--output", "-o", type=FILE, help="Write here, not to the terminal.")
@click.option("--force", is_flag=True, help="Write over whatever is there.")
@click.pass_context
def readings(
    ctx: click.Context,
    files: tuple[Path, ...],
    sensor: str | None,
    sheet_file: Path | None,
    wires: tuple[str, ...],
    begin: str | None,
    end: str | None,
    symbols: tuple[str, ...],
    derived: bool,
    form: str | None,
    output: Path | None,
    force: bool,
) -> None:
    """Prints the readings of FILE..., bench files or captures, with the reasons of gaps.

    FILE may be a folder, a pattern, or - for standard input.
    """
    from pivet.bench.export import write_readings, write_table, write_tables
    from pivet.cli.moments import span_ns
    from pivet.files.readings_table import Form
    from pivet.files.targets import Kind, refuse_target

    inputs, chosen = inputs_of(files, benches=True), _form(form, output)
    if output is not None:
        refuse_target(output, Kind.READINGS, inputs.paths, force)
    units, sheet = units_of(symbols), chosen_sheet(sensor, sheet_file)
    failures = Failures(inputs.many)
    of_files: dict[str, Sequence[Series]] = {}
    clock: bool | None = None
    for path in inputs.paths:
        with failures.said(), _opened(path, sheet, wires) as found:
            if clock is not None and clock is not found.clock:
                raise InputError(
                    f"{called(path)} has other times than the files before it: a bench file knows "
                    "the calendar, a capture does not",
                    "give bench files and captures one after the other",
                )
            first, last = span_ns(begin, end, found)
            rows = [one.between(first, last) for one in found.series(derived)]
            of_files[called(path)], clock = rows, found.clock
    if of_files and chosen is Form.WORKBOOK and output is not None:
        if len(of_files) > 1:
            raise OutputError("a workbook holds the readings of one file", "name one, or use csv")
        (series,) = of_files.values()
        write_readings(series, bool(clock), chosen, output, units=units)
    elif of_files:
        with _target(output) as stream:
            if inputs.many:
                write_tables(of_files, bool(clock), chosen, stream, units)
            else:
                (series,) = of_files.values()
                write_table(series, bool(clock), chosen, stream, units=units)
    if output is not None and of_files:
        say_note(f"{output} was written.")
    ctx.exit(EXIT_UNUSABLE if failures.count else 0)


def _form(form: str | None, output: Path | None) -> Any:
    """How readings are written: as was said, or as the file ends that is written."""
    from pivet.files.readings_table import Form

    ending = "" if output is None else output.suffix.lower().removeprefix(".")
    chosen = Form(form or (ending if ending in ("jsonl", "xlsx") else "csv"))
    if chosen is Form.WORKBOOK and output is None:
        raise OutputError("a workbook cannot go to the terminal", "name a file with --output")
    return chosen


@click.command()
@which_readings
@click.option("--json", "form", flag_value="jsonl", help="One JSON object a wire.")
@click.option("--csv", "form", flag_value="csv", help="A table with a row a quantity.")
@click.pass_context
def stats(
    ctx: click.Context,
    files: tuple[Path, ...],
    sensor: str | None,
    sheet_file: Path | None,
    wires: tuple[str, ...],
    begin: str | None,
    end: str | None,
    symbols: tuple[str, ...],
    derived: bool,
    form: str | None,
) -> None:
    """Says how reliable the wires of FILE... are, and what their readings are like.

    FILE may be a folder, a pattern, or - for standard input.
    """
    from pivet.cli.moments import span_ns
    from pivet.history.figures import FiguresForm, figures_text, wire_figures

    inputs, units = inputs_of(files, benches=True), units_of(symbols)
    sheet, failures, figures = chosen_sheet(sensor, sheet_file), Failures(inputs.many), []
    for path in inputs.paths:
        with failures.said(), _opened(path, sheet, wires) as found:
            first, last = span_ns(begin, end, found)
            series = [one.between(first, last) for one in found.series(derived)]
            file = called(path) if inputs.many else ""
            figures += [
                wire_figures(
                    [history.between(first, last) for history in rows], series, found.clock, file
                )
                for rows in found.wires().values()
            ]
    say_text(figures_text(figures, units, FiguresForm(form or "txt")))
    ctx.exit(EXIT_UNUSABLE if failures.count else 0)


def units_of(symbols: tuple[str, ...]) -> "UnitChoice":
    """The chosen units.

    Raises:
        InputError: there is no such unit.
    """
    from pivet.readings.units import AS_KEPT, chosen_symbols, symbol_of

    chosen = AS_KEPT
    for written in symbols:
        symbol = symbol_of(written)
        if symbol is None:
            known = ", ".join(chosen_symbols())
            raise InputError(f"there is no unit {written!r}", f"choose one of {known}")
        chosen = chosen.with_unit(symbol)
    return chosen


@contextmanager
def _opened(path: Path, sheet: "Sheet | None", wires: tuple[str, ...]) -> "Iterator[Readings]":
    from pivet.cli.roles_command import own_roles
    from pivet.history.open import open_readings

    with ExitStack() as stack:
        with progress_line(f"Reading {path.name}") as progress:
            found = stack.enter_context(
                open_readings(path, own_roles(), progress, sheet, called(path))
            )
        yield found.of_wires(found.meant(wires, called(path)))


@contextmanager
def _target(path: Path | None) -> Iterator[IO[str]]:
    if path is None:
        yield cast(IO[str], EscapedStream()) if sys.stdout.isatty() else sys.stdout
        return
    from pivet.files import disk

    with disk.writing(path) as stream:
        yield cast(IO[str], stream)
