"""``pivet standin``: writes a made-up capture."""

import contextlib
import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import click
import numpy as np

from pivet.cli.terminal import say
from pivet.errors import InputError
from pivet.files.captures import write_capture
from pivet.files.targets import Kind, refuse_target
from pivet.sheets.families import ECHO_PULSE, HUMIDITY_FRAME, ONE_WIRE
from pivet.sheets.load import all_sheets, find_sheet
from pivet.sheets.model import Sheet
from pivet.signal.trace import Line, Trace
from pivet.standin import onewire
from pivet.standin.echo import EchoFault, EchoScene, echo_lines
from pivet.standin.faults import Fault, parse_fault, spread
from pivet.standin.humidity import Conditions
from pivet.standin.onewire.session import OneWireFault, Session, session_line
from pivet.standin.scene import Scene, scenes_trace, spread_faults

MOST_COUNT = 200_000
MOST_DEVICES = 64
ANSWER_US = 10_000
"""Longer than any answer."""

REST_NS = 50_000_000


@dataclass(frozen=True, slots=True)
class Wish:
    """What was asked for on the command line."""

    sheet: Sheet
    count: int
    interval: float | None
    faults: tuple[str, ...]
    humidity: float
    temperature: float
    distance: float
    devices: int
    resolution: int
    fast: bool
    clock: float
    jitter: float
    rise: float
    step: int
    seed: int


def _humidity(wish: Wish) -> Trace:
    sheet = wish.sheet
    least_s = (sheet.windows["ask"].typ_us + ANSWER_US) / 1e6
    if wish.interval is not None and not wish.interval >= least_s:
        raise InputError(
            f"an interval of {wish.interval:g} s leaves no time for ask and answer",
            f"give at least {least_s:g} s",
        )
    rows, whole = spread_faults([parse_fault(text, Fault) for text in wish.faults], wish.count)
    scene = Scene(
        name="cave.data",
        sheet=sheet,
        humidity=np.full(wish.count, wish.humidity),
        temperature=np.full(wish.count, wish.temperature),
        interval_s=wish.interval if wish.interval is not None else sheet.interval_s * 1.05,
        conditions=Conditions(1 + wish.clock / 100, wish.jitter, wish.rise, wish.step),
        faults=rows,
        whole=whole,
    )
    return scenes_trace((scene,), wish.seed)


def _onewire(wish: Wish) -> Trace:
    chosen = [parse_fault(text, OneWireFault) for text in wish.faults]
    session = Session(
        devices=wish.devices,
        rounds=wish.count,
        temperature=wish.temperature,
        resolution=wish.resolution,
        interval_s=2.0 if wish.interval is None else wish.interval,
        fast=wish.fast,
        conditions=onewire.Conditions(wish.jitter, wish.rise, wish.step),
        faults=spread(chosen, wish.count),
    )
    return _trace((session_line(session, "cave.dq", wish.seed),), wish.step)


def _echo(wish: Wish) -> Trace:
    chosen = [parse_fault(text, EchoFault) for text in wish.faults]
    rule = wish.sheet.echo
    if rule is None or not rule.nearest_m <= wish.distance <= rule.farthest_m:
        raise InputError(
            f"the {wish.sheet.name} cannot measure {wish.distance:g} m",
            "take a value from 0.02 to 4 (four pins) or 3 (three pins)",
        )
    scene = EchoScene(
        name="cave.vat",
        sheet=wish.sheet,
        distance=np.full(wish.count, wish.distance),
        air_c=np.full(wish.count, wish.temperature),
        interval_s=0.1 if wish.interval is None else wish.interval,
        jitter_us=wish.jitter,
        step_ns=wish.step,
        faults=spread(chosen, wish.count),
    )
    return _trace(echo_lines(scene, wish.seed), wish.step)


def _trace(lines: tuple[Line, ...], step_ns: int) -> Trace:
    last = max(int(line.edges_ns[-1]) for line in lines if line.edges_ns.size)
    return Trace(lines, 0, -(-(last + REST_NS) // step_ns) * step_ns, step_ns)


MAKERS: dict[str, Callable[[Wish], Trace]] = {
    HUMIDITY_FRAME: _humidity,
    ONE_WIRE: _onewire,
    ECHO_PULSE: _echo,
}
"""By family."""

EPILOG = " ".join(
    f"Faults of {name}: {', '.join(kinds)}."
    for name, kinds in (("humidity", Fault), ("1-Wire", OneWireFault), ("echo", EchoFault))
)


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
        if args and args[0].startswith("-") and args[0] != "--help":
            args = ["capture", *args]
        return super().parse_args(ctx, args)


@click.group(cls=OrCapture)
def standin() -> None:
    """Writes a made-up capture, or serves a cave of live sensors.

    `pivet standin OUT …` is short for `pivet standin capture OUT …`.
    """


@standin.command(epilog=EPILOG)
@click.argument("out", type=click.Path(path_type=Path))
@click.option("--sensor", type=click.Choice(list(all_sheets())), required=True)
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
def capture(out: Path, sensor: str, overdrive: bool, force: bool, **options: object) -> None:
    """Writes a made-up capture of a sensor to OUT (.vcd or .csv)."""
    refuse_target(out, Kind.CAPTURE, force=force)
    wish = Wish(sheet=find_sheet(sensor), fast=overdrive, **options)  # type: ignore[arg-type]
    trace = MAKERS[wish.sheet.family](wish)
    write_capture(trace, out)
    say(f"{out}: {wish.count} times a {wish.sheet.name}, {trace.edge_count} edges")


@standin.command()
@click.option(
    "--link",
    type=click.Path(path_type=Path),
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
