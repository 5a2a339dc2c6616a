"""``pivet decode``: the exchanges of captures, decoded and judged."""

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import click

from pivet.cli.choosing import chosen_sheet, sensor_options, wire_option
from pivet.cli.inputs import Failures, files_argument, inputs_of
from pivet.cli.progress_line import progress_line
from pivet.cli.terminal import (
    EXIT_UNSOUND,
    EXIT_UNUSABLE,
    is_quiet,
    quiet_option,
    say,
    say_json,
    say_lines,
)
from pivet.files.incoming import STANDARD_INPUT, called
from pivet.frozen import replace

if TYPE_CHECKING:
    from pivet.captures.capture import Capture


@click.command()
@files_argument
@sensor_options
@wire_option()
@click.option(
    "--air-temperature", type=float, help="For the speed of sound, in °C; 20 if not given."
)
@click.option("--timeout", type=float, help="Of the echo sensor when nothing is in range, in ms.")
@click.option("--farthest", type=float, help="Farthest distance of the echo sensor, in m.")
@click.option(
    "--invert",
    is_flag=True,
    help="Turn over lines that were recorded inverted: those recognised so, or those named.",
)
@click.option("--json", "as_json", is_flag=True, help="One JSON object a line and an exchange.")
@click.option("--all", "every", is_flag=True, help="Tell every exchange, also of a long capture.")
@click.option("--strict", is_flag=True, help="Exit with 1 when any exchange is unsound.")
@quiet_option
@click.pass_context
def decode(
    ctx: click.Context,
    files: tuple[Path, ...],
    sensor: str | None,
    sheet_file: Path | None,
    wires: tuple[str, ...],
    air_temperature: float | None,
    timeout: float | None,
    farthest: float | None,
    invert: bool,
    as_json: bool,
    every: bool,
    strict: bool,
) -> None:
    """Decodes and judges the exchanges in FILE... (VCD or CSV, also compressed).

    FILE may be a folder, a pattern, or - for standard input. A long capture is told by wire and
    cause first, then what is not sound.
    """
    from pivet.captures.capture import open_capture
    from pivet.judge.verdict import Verdict
    from pivet.readings.sound import fixed_air
    from pivet.sheets.reach import reach_of

    sheet = chosen_sheet(sensor, sheet_file)
    air = None if air_temperature is None else fixed_air(air_temperature)
    reach = reach_of(timeout, farthest)
    inputs = inputs_of(files)
    failures, unsound = Failures(inputs.many), False
    for number, path in enumerate(inputs.paths):
        with failures.said():
            with progress_line(f"Opening {path.name}") as progress:
                capture = open_capture(
                    path,
                    None if sheet is None else sheet.id,
                    wires or None,
                    progress,
                    air,
                    reach,
                    invert,
                    called(path),
                )
            if inputs.many or path == STANDARD_INPUT:
                capture = replace(capture, title=called(path))
            if as_json:
                _say_json(capture, called(path) if inputs.many else "")
            else:
                if number and not is_quiet():
                    say("")
                say_lines(_lines(capture, every))
            unsound |= any(wire.count(Verdict.UNSOUND) for wire in capture.wires)
    if failures.count:
        ctx.exit(EXIT_UNUSABLE)
    ctx.exit(EXIT_UNSOUND if strict and unsound else 0)


def _say_json(capture: "Capture", file: str) -> None:
    from pivet.bench.export import reports
    from pivet.captures.text import offer_lines
    from pivet.cli.roles_command import own_roles
    from pivet.files.jsonl import json_lines

    for line in json_lines(reports(capture, own_roles().names), file):
        say_json(line.rstrip("\n"))
    if not capture.wires:
        say(f"pivet: no exchange was found in {capture.name}.", error=True)
        for line in offer_lines(capture):
            say(f"pivet: {line}", error=True)


def _lines(capture: "Capture", every: bool) -> Iterator[str]:
    from pivet.captures.causes import is_long, long_lines, not_sound_lines
    from pivet.captures.text import capture_lines
    from pivet.cli.roles_command import own_roles

    names = own_roles().names
    if is_quiet():
        lines = list(not_sound_lines(capture, names))
        if capture.title and lines:
            yield f"{capture.title}:"
        yield from lines
    elif every or not is_long(capture):
        yield from capture_lines(capture, names)
    else:
        yield from long_lines(capture, names)
        yield ""
        yield "--all tells every exchange."
