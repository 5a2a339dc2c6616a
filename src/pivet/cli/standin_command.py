"""``pivet standin``: writes a made-up capture, or serves a cave of live sensors."""

import contextlib
import sys
from pathlib import Path

import click

from pivet.cli.choosing import SheetName, take_own_sheets
from pivet.cli.given import Given
from pivet.cli.terminal import quiet_option, say_note

MOST_COUNT = 200_000
MOST_DEVICES = 64


class OrCapture(click.Group):
    """A group whose first word may also be the file to write."""

    def resolve_command(
        self, ctx: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        """Finds the command; anything that is none is a file for ``capture``."""
        if args and args[0] not in self.commands:
            args = ["capture", *args]
        return super().resolve_command(ctx, args)

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        """Options of ``capture`` may stand before its file."""
        if args and args[0].startswith("-") and args[0] not in ("-h", "--help"):
            args = ["capture", *args]
        return super().parse_args(ctx, args)


@click.group(cls=OrCapture)
def standin() -> None:
    """Writes a made-up capture, or serves a cave of live sensors.

    `pivet standin OUT …` is short for `pivet standin capture OUT …`.
    """


class WithFaults(click.Command):
    """A command whose help ends with the faults that can be asked for."""

    def format_epilog(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """They are looked up only when somebody asks."""
        from pivet.cli.standin_scenes import EPILOG

        with formatter.indentation():
            formatter.write_paragraph()
            formatter.write_text(EPILOG)


@standin.command(cls=WithFaults)
@click.argument("out", type=click.Path(path_type=Given))
@click.option("--sensor", type=SheetName(), required=True, help="See: sheet list.")
@click.option("--humidity", type=float, default=65.0, show_default=True, help="In %RH.")
@click.option(
    "--temperature",
    type=float,
    default=12.0,
    show_default=True,
    help="In °C; for echo sensors that of the air.",
)
@click.option("--distance", type=float, default=1.0, show_default=True, help="Echo: in m.")
@click.option(
    "--devices", type=click.IntRange(1, MOST_DEVICES), default=3, show_default=True, help="1-Wire."
)
@click.option(
    "--resolution", type=click.IntRange(9, 12), default=12, show_default=True, help="1-Wire: bits."
)
@click.option("--overdrive", is_flag=True, help="1-Wire: at overdrive speed.")
@click.option(
    "--count",
    type=click.IntRange(1, MOST_COUNT),
    default=5,
    show_default=True,
    help="Asks, rounds of convert and read, or shots.",
)
@click.option("--interval", type=float, help="From one to the next, in s.")
@click.option("--fault", "faults", multiple=True, help="NAME for all, NAME@N for one of them.")
@click.option(
    "--clock",
    type=click.FloatRange(-50, 100),
    default=0.0,
    help="Humidity: clock error of the sensor, in %.",
)
@click.option(
    "--jitter", type=click.FloatRange(0, 20), default=0.15, show_default=True, help="In µs."
)
@click.option(
    "--rise", type=click.FloatRange(0, 20), default=0.0, help="Delay of rising edges, in µs."
)
@click.option(
    "--step",
    type=click.IntRange(1, 10**6),
    default=100,
    show_default=True,
    help="Step of the capture, in ns.",
)
@click.option("--seed", type=int, default=1, show_default=True)
@click.option("--force", is_flag=True, help="Write over whatever is there.")
@quiet_option
def capture(out: Path, sensor: str, overdrive: bool, force: bool, **options: object) -> None:
    """Writes a made-up capture of a sensor to OUT (.vcd or .csv)."""
    from pivet.cli.standin_scenes import MAKERS, Wish
    from pivet.files.captures import write_capture
    from pivet.files.targets import Kind, refuse_target
    from pivet.judge.wording import count
    from pivet.sheets.load import find_sheet

    take_own_sheets()
    refuse_target(out, Kind.CAPTURE, force=force)
    wish = Wish(sheet=find_sheet(sensor), fast=overdrive, **options)  # type: ignore[arg-type]
    trace = MAKERS[wish.sheet.family](wish)
    write_capture(trace, out)
    times = "once" if wish.count == 1 else f"{wish.count} times"
    say_note(f"{out}: {wish.sheet.name}, {times}, {count(trace.edge_count, 'edge')}")


@standin.command()
@click.option(
    "--link",
    type=click.Path(path_type=Given),
    help="A name that always leads to the probe, also after a crash.",
)
@click.option("--seed", type=int, default=20, show_default=True)
@click.option(
    "--flood",
    type=click.IntRange(1, 1_000_000),
    help="Further lines with so many edges a second in all, for measuring.",
)
@click.option("--until-eof", is_flag=True, help="End when standard input ends.")
def serve(link: Path | None, seed: int, flood: int | None, until_eof: bool) -> None:
    """Serves a simulated probe, with the cave's sensors, at a pseudo-terminal.

    Prints where it is. Orders are read from standard input, one a line, `breathe shelf_A` for
    instance; docs/standin.md lists them. Ctrl-C ends it.
    """
    from pivet.standin.live.cave import make_cave
    from pivet.standin.live.flood import flood_circuits
    from pivet.standin.probe.serve import Server, say_line

    more = flood_circuits(flood, seed) if flood is not None else []
    server = Server(make_cave(seed), more, link, sys.stdin, say_line, until_eof)
    with contextlib.suppress(KeyboardInterrupt):
        server.run()


@standin.command()
@click.option("--port", type=click.IntRange(0, 65535), default=0, help="A free one if not given.")
@click.option("--key", default="", help="What a request must bring.")
@click.option("--least", type=float, default=15.0, show_default=True, help="s between requests.")
@click.option(
    "--most-rows", type=click.IntRange(1), default=1, show_default=True, help="A request."
)
@click.option("--until-eof", is_flag=True, help="End when standard input ends.")
def cloud(port: int, key: str, least: float, most_rows: int, until_eof: bool) -> None:
    """Serves a made-up service that takes updates by HTTP, at its own pace.

    Prints where it is, then each update that it takes as JSON. Orders are read from standard
    input: fail CODE TIMES, away SECONDS, slow SECONDS, drop TIMES. Ctrl-C ends it.
    """
    import json
    import threading

    from pivet.errors import InputError
    from pivet.standin.cloud import Cloud, CloudRules, Update
    from pivet.standin.probe.serve import say_line

    def taken(update: Update) -> None:
        say_line(json.dumps(update.body, ensure_ascii=False))

    served = Cloud(CloudRules(key, least, most_rows), port, taken)
    say_line(served.url)
    with contextlib.suppress(KeyboardInterrupt):
        for line in sys.stdin:
            try:
                say_line(served.order(line))
            except InputError as error:
                say_line(str(error))
        if not until_eof:
            threading.Event().wait()
    served.close()
