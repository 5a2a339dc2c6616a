"""``pivet readings`` and ``pivet stats``: what wires gave over time."""

import sys
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import IO, Any, cast

import click

from pivet.bench.export import write_table
from pivet.cli.moments import span_ns
from pivet.cli.progress_line import progress_line
from pivet.cli.roles_command import own_roles
from pivet.cli.terminal import EscapedStream, say_text
from pivet.errors import InputError
from pivet.files import disk
from pivet.files.readings_table import Form
from pivet.files.targets import Kind, refuse_target
from pivet.history.figures import FiguresForm, figures_text, wire_figures
from pivet.history.open import Readings, open_readings
from pivet.readings.units import AS_KEPT, UNITS, UnitChoice, symbol_of

FILE = click.Path(path_type=Path)
Command = Callable[..., Any]
SYMBOLS = [unit.symbol for units in UNITS.values() if len(units) > 1 for unit in units]


def which_readings(command: Command) -> Command:
    """The argument and the options that say which readings of which file are meant."""
    options = (
        click.argument("file", type=FILE),
        click.option("--wire", "wires", multiple=True, help="Only this wire; again for more."),
        click.option(
            "--from",
            "begin",
            help="From here on: 2026-11-23T02:30, 02:30, or 10m after the beginning.",
        ),
        click.option("--to", "end", help="Up to here, written likewise."),
        click.option(
            "--unit", "symbols", multiple=True, help=f"Show in this unit: {', '.join(SYMBOLS)}."
        ),
        click.option("--derived", is_flag=True, help="With dew point, heat index and the like."),
    )
    for option in reversed(options):
        command = option(command)
    return command


@click.command()
@which_readings
@click.option(
    "--format",
    "form",
    type=click.Choice([str(form) for form in Form]),
    default=str(Form.WIDE),
    show_default=True,
    help="A column a quantity, a line a quantity, or JSON Lines.",
)
@click.option("--output", "-o", type=FILE, help="Write here, not to the terminal.")
@click.option("--force", is_flag=True, help="Write over whatever is there.")
def readings(
    file: Path,
    wires: tuple[str, ...],
    begin: str | None,
    end: str | None,
    symbols: tuple[str, ...],
    derived: bool,
    form: str,
    output: Path | None,
    force: bool,
) -> None:
    """Prints the readings of FILE, a bench file or a capture, with the reasons of gaps."""
    if output is not None:
        refuse_target(output, Kind.READINGS, (file,), force)
    units = units_of(symbols)
    with _opened(file, wires) as found:
        first, last = span_ns(begin, end, found)
        rows = [one.between(first, last) for one in found.series(derived)]
        with _target(output) as stream:
            write_table(rows, found.clock, Form(form), stream, units=units)


@click.command()
@which_readings
@click.option("--json", "form", flag_value="jsonl", help="One JSON object a wire.")
@click.option("--csv", "form", flag_value="csv", help="A table with a row a quantity.")
def stats(
    file: Path,
    wires: tuple[str, ...],
    begin: str | None,
    end: str | None,
    symbols: tuple[str, ...],
    derived: bool,
    form: str | None,
) -> None:
    """Says how reliable the wires of FILE are, and what their readings are like."""
    units = units_of(symbols)
    with _opened(file, wires) as found:
        first, last = span_ns(begin, end, found)
        series = [one.between(first, last) for one in found.series(derived)]
        figures = [
            wire_figures([history.between(first, last) for history in rows], series, found.clock)
            for rows in found.wires().values()
        ]
    say_text(figures_text(figures, units, FiguresForm(form or "txt")))


def units_of(symbols: tuple[str, ...]) -> UnitChoice:
    """The chosen units.

    Raises:
        InputError: there is no such unit.
    """
    chosen = AS_KEPT
    for written in symbols:
        symbol = symbol_of(written)
        if symbol is None:
            raise InputError(f"there is no unit {written!r}", f"choose one of {', '.join(SYMBOLS)}")
        chosen = chosen.with_unit(symbol)
    return chosen


@contextmanager
def _opened(file: Path, wires: tuple[str, ...]) -> Iterator[Readings]:
    with ExitStack() as stack:
        with progress_line(f"Reading {file.name}") as progress:
            found = stack.enter_context(open_readings(file, own_roles(), progress))
        known = {history.name for history in found.histories}
        for name in wires:
            if name not in known:
                raise InputError(
                    f"{file} has no wire {name!r}", f"choose one of {', '.join(sorted(known))}"
                )
        yield found.of_wires(wires)


@contextmanager
def _target(path: Path | None) -> Iterator[IO[str]]:
    if path is None:
        yield cast(IO[str], EscapedStream()) if sys.stdout.isatty() else sys.stdout
        return
    with disk.writing(path) as stream:
        yield cast(IO[str], stream)
