"""``pivet readings`` and ``pivet stats``: what wires gave over time."""

import json
import sys
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import IO, Any, cast

import click
import numpy as np

from pivet.bench.export import write_table
from pivet.bench.history.open import Readings, open_readings
from pivet.bench.history.reliability import Reliability, reliability
from pivet.bench.history.times import zone_ns
from pivet.bench.history.told import reliability_lines, summary_lines
from pivet.cli.moments import span_ns
from pivet.cli.progress_line import progress_line
from pivet.cli.roles_command import own_roles
from pivet.errors import InputError
from pivet.files import disk
from pivet.files.readings_table import Form
from pivet.judge.verdict import Verdict
from pivet.readings.series import Series
from pivet.readings.statistics import summarise
from pivet.readings.units import AS_KEPT, UNITS, UnitChoice, dimension_of

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
def readings(
    file: Path,
    wires: tuple[str, ...],
    begin: str | None,
    end: str | None,
    symbols: tuple[str, ...],
    derived: bool,
    form: str,
    output: Path | None,
) -> None:
    """Prints the readings of FILE, a bench file or a capture, with the reasons of gaps."""
    units = units_of(symbols)
    with _opened(file, wires) as found:
        first, last = span_ns(begin, end, found)
        rows = [row.between(first, last) for row in found.series(derived)]
        with _target(output) as stream:
            write_table(rows, found.clock, Form(form), stream, units=units)


@click.command()
@which_readings
@click.option("--json", "as_json", is_flag=True, help="One JSON object a wire.")
def stats(
    file: Path,
    wires: tuple[str, ...],
    begin: str | None,
    end: str | None,
    symbols: tuple[str, ...],
    derived: bool,
    as_json: bool,
) -> None:
    """Says how reliable the wires of FILE are, and what their readings are like."""
    units = units_of(symbols)
    with _opened(file, wires) as found:
        first, last = span_ns(begin, end, found)
        series = [row.between(first, last) for row in found.series(derived)]
        for name, histories in found.wires().items():
            parts = [row.between(first, last) for row in histories]
            zone = zone_ns(int(parts[0].times_ns[0])) if found.clock and len(parts[0]) else 0
            told = reliability(parts, zone)
            own = [row for row in series if row.sensor.wire == name]
            if as_json:
                click.echo(json.dumps(_object(told, own, units), ensure_ascii=False))
                continue
            for line in (*reliability_lines(told, found.clock), *summary_lines(own, units), ""):
                click.echo(line)


def units_of(symbols: tuple[str, ...]) -> UnitChoice:
    """The chosen units.

    Raises:
        InputError: there is no such unit.
    """
    chosen = AS_KEPT
    for symbol in symbols:
        if dimension_of(symbol) is None:
            raise InputError(f"there is no unit {symbol!r}", f"choose one of {', '.join(SYMBOLS)}")
        chosen = chosen.with_unit(symbol)
    return chosen


@contextmanager
def _opened(file: Path, wires: tuple[str, ...]) -> Iterator[Readings]:
    with ExitStack() as stack:
        with progress_line(f"Reading {file.name}") as progress:
            found = stack.enter_context(open_readings(file, own_roles(), progress))
        known = {row.name for row in found.histories}
        for name in wires:
            if name not in known:
                raise InputError(
                    f"{file} has no wire {name!r}", f"choose one of {', '.join(sorted(known))}"
                )
        yield found.of_wires(wires)


@contextmanager
def _target(path: Path | None) -> Iterator[IO[str]]:
    if path is None:
        yield sys.stdout
        return
    with disk.writing(path) as stream:
        yield cast(IO[str], stream)


def _object(told: Reliability, series: list[Series], units: UnitChoice) -> dict[str, Any]:
    """A wire's figures as JSON; see docs/readings.md."""
    return {
        "wire": told.name,
        "sensor": told.sheet,
        "exchanges": told.count,
        "verdicts": {row.word: int(told.counts[row]) for row in Verdict},
        "reasons": dict(told.reasons),
        "retries": told.retries,
        "longest_gap_s": _number(told.gap_s, 3),
        "every_s": _number(told.every_s, 3),
        "least_margin": _number(told.margin, 3),
        "least_margin_exchange": told.margin_number if told.margin_number >= 0 else None,
        "advice": told.advice,
        "readings": [_series_object(row, units) for row in series],
    }


def _series_object(row: Series, units: UnitChoice) -> dict[str, Any]:
    figures = summarise(units.shown(row.quantity, row.values))
    places = units.decimals(row.quantity, row.decimals) + 1
    names = ("least", "low", "median", "mean", "high", "most", "spread")
    return {
        "quantity": row.quantity,
        "who": row.sensor.who,
        "unit": units.of(row.quantity).symbol,
        "due": figures.count,
        "given": figures.given,
        "correction": row.correction,
        **{name: _number(getattr(figures, name), places) for name in names},
    }


def _number(value: float, places: int) -> float | None:
    return None if not np.isfinite(value) else round(float(value), places)
