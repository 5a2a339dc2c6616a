"""The commands of ``pivet``; computing is the bench's, printing is here."""

import os
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

import click

from pivet import __version__
from pivet.bench.by_hand import explain_bytes, explained_lines
from pivet.bench.demo import demo_capture
from pivet.bench.export import export_capture, reports
from pivet.captures.capture import open_capture
from pivet.captures.causes import is_long, long_lines, table_lines
from pivet.captures.text import capture_lines, offer_lines, summary_lines
from pivet.cli.bench_command import bench
from pivet.cli.listen_command import listen
from pivet.cli.probe_command import probe
from pivet.cli.progress_line import progress_line
from pivet.cli.readings_command import readings, stats
from pivet.cli.roles_command import own_roles, roles
from pivet.cli.sheet_table import sheet_lines, sheet_rows
from pivet.cli.standin_command import standin
from pivet.cli.terminal import EXIT_UNUSABLE, Enough, say, say_json
from pivet.errors import PivetError
from pivet.files.captures import read_capture, write_capture
from pivet.files.disk import make_folder
from pivet.files.jsonl import json_lines
from pivet.files.targets import Kind, refuse_target
from pivet.judge.verdict import Verdict
from pivet.progress import part
from pivet.readings.sound import USUAL_AIR_C, fixed_air
from pivet.sheets.load import all_sheets, find_sheet
from pivet.sheets.reach import reach_of

OpenWindow = Callable[[Sequence[Path]], int]
ShowDemo = Callable[[Path | None], int]

DEMO_FOLDER = Path("pivet-demo")
EXIT_UNSOUND = 1

FILE = click.Path(path_type=Path)


class OneSentence(click.Group):
    """A command group that ends on Pivet's own errors with one sentence and status 2."""

    def invoke(self, ctx: click.Context) -> object:
        """Runs the chosen command."""
        try:
            return super().invoke(ctx)
        except PivetError as error:
            say(f"pivet: {error}", error=True)
            ctx.exit(EXIT_UNUSABLE)
        except BrokenPipeError as error:
            # Else it would count as a failure.
            raise Enough from error


def build(open_window: OpenWindow, show_demo: ShowDemo) -> click.Group:
    """The command line.

    Args:
        open_window: opens the window with some files; gives the exit status.
        show_demo: shows the demo in the window, or writes its pictures to a folder.
    """

    @click.group(
        cls=OneSentence,
        invoke_without_command=True,
        context_settings={"help_option_names": ["-h", "--help"]},
    )
    @click.version_option(__version__, prog_name="pivet")
    @click.pass_context
    def pivet(ctx: click.Context) -> None:
        """Decodes and judges pulse-timed single-wire sensor signals.

        Without a command the window opens.
        """
        if ctx.invoked_subcommand is None:
            ctx.exit(open_window(()))

    @pivet.command("open")
    @click.argument("files", nargs=-1, type=FILE)
    @click.pass_context
    def open_(ctx: click.Context, files: tuple[Path, ...]) -> None:
        """Opens the window with FILES."""
        ctx.exit(open_window(files))

    @pivet.command()
    @click.option("--pictures", type=FILE, help="Write pictures to this folder, open no window.")
    @click.pass_context
    def demo(ctx: click.Context, pictures: Path | None) -> None:
        """Shows the demo cave night.

        Without a display it is told what it holds, and pictures and the capture are
        written to the folder pivet-demo.
        """
        if pictures is None and has_display():
            ctx.exit(show_demo(None))
        folder = pictures or DEMO_FOLDER
        capture = demo_capture()
        if pictures is None:
            for line in summary_lines(capture):
                say(line)
            for line in table_lines(capture):
                say(line)
            say("")
        make_folder(folder)
        export_capture(capture, folder / capture.name)
        status = show_demo(folder)
        say(f"Capture and pictures of the demo are in {folder.resolve()}:")
        say(f"pivet decode {folder / capture.name} tells what is not sound, pivet open shows it.")
        ctx.exit(status)

    rows = (decode, readings, stats, explain, sheet, convert, roles, standin, probe, listen, bench)
    for command in rows:
        pivet.add_command(command)
    return pivet


@click.command()
@click.argument("file", type=FILE)
@click.option("--sensor", type=click.Choice(list(all_sheets())), help="Judge as this sensor.")
@click.option(
    "--wire",
    help="Decode this line only; a unique last part of its name is enough. For an echo sensor "
    "trigger,echo.",
)
@click.option(
    "--air-temperature",
    type=float,
    help=f"For the speed of sound, in °C; {USUAL_AIR_C:g} if not given.",
)
@click.option("--timeout", type=float, help="Of the echo sensor when nothing is in range, in ms.")
@click.option("--farthest", type=float, help="Farthest distance of the echo sensor, in m.")
@click.option(
    "--invert",
    is_flag=True,
    help="Turn over lines that were recorded inverted: those recognised so, or the one named.",
)
@click.option("--json", "as_json", is_flag=True, help="One JSON object a line and an exchange.")
@click.option("--all", "every", is_flag=True, help="Tell every exchange, also of a long capture.")
@click.option("--strict", is_flag=True, help="Exit with 1 when any exchange is unsound.")
@click.pass_context
def decode(
    ctx: click.Context,
    file: Path,
    sensor: str | None,
    wire: str | None,
    air_temperature: float | None,
    timeout: float | None,
    farthest: float | None,
    invert: bool,
    as_json: bool,
    every: bool,
    strict: bool,
) -> None:
    """Decodes and judges the exchanges in FILE (VCD or CSV).

    A long capture is told by wire and cause first, then what is not sound.
    """
    air = None if air_temperature is None else fixed_air(air_temperature)
    with progress_line(f"Opening {file.name}") as progress:
        capture = open_capture(
            file, sensor, wire, progress, air, reach_of(timeout, farthest), invert
        )
    if as_json:
        for line in json_lines(reports(capture, own_roles().names)):
            say_json(line.rstrip("\n"))
        if not capture.wires:
            say(f"pivet: no exchange was found in {capture.name}.", error=True)
            for line in offer_lines(capture):
                say(f"pivet: {line}", error=True)
    else:
        as_table = is_long(capture) and not every
        for line in (long_lines if as_table else capture_lines)(capture, own_roles().names):
            say(line)
        if as_table:
            say("")
            say("--all tells every exchange.")
    unsound = any(judged.count(Verdict.UNSOUND) for judged in capture.wires)
    ctx.exit(EXIT_UNSOUND if strict and unsound else 0)


@click.command()
@click.argument("words", nargs=-1, required=True, metavar="HEX…")
@click.pass_context
def explain(ctx: click.Context, words: tuple[str, ...]) -> None:
    """Checks and explains bytes copied from elsewhere.

    HEX… are 5 bytes of a humidity frame, 8 of a ROM code, 9 of a scratchpad, a code like
    28-0000051b2c7d, or the two lines of the kernel's 1-Wire file. A single - reads them from
    standard input. The status is 1 when they are unsound as every type.
    """
    text = sys.stdin.read() if words == ("-",) else " ".join(words)
    found = explain_bytes(text)
    for line in explained_lines(found):
        say(line)
    sound = any(meaning.verdict is not Verdict.UNSOUND for meaning in found)
    ctx.exit(0 if sound else EXIT_UNSOUND)


@click.group()
def sheet() -> None:
    """Lists and shows the timing sheets."""


@sheet.command("list")
def sheet_list() -> None:
    """Lists the sensor types."""
    for line in sheet_rows(all_sheets().values()):
        say(line)


@sheet.command("show")
@click.argument("sensor")
def sheet_show(sensor: str) -> None:
    """Shows the timing sheet of SENSOR."""
    for line in sheet_lines(find_sheet(sensor)):
        say(line)


@click.command()
@click.argument("source", type=FILE)
@click.argument("target", type=FILE)
@click.option("--force", is_flag=True, help="Write over whatever is there.")
def convert(source: Path, target: Path, force: bool) -> None:
    """Converts the capture SOURCE to TARGET (.vcd or .csv)."""
    refuse_target(target, Kind.CAPTURE, (source,), force)
    with progress_line(f"Converting {source.name}") as progress:
        trace = read_capture(source, part(progress, 0.0, 0.5))
        write_capture(trace, target, part(progress, 0.5, 1.0))
    say(f"{target}: {len(trace.lines)} lines, {trace.edge_count} edges")


def has_display() -> bool:
    """Whether a window could be seen."""
    return any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"))


def use_utf8() -> None:
    """Makes output UTF-8 whatever the locale says."""
    for stream in (sys.stdout, sys.stderr):
        reconfigure = getattr(stream, "reconfigure", None)
        if reconfigure is not None:
            reconfigure(encoding="utf-8", errors="replace")
