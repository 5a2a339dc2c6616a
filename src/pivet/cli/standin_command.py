"""``pivet standin``: writes a made-up capture."""

from pathlib import Path

import click
import numpy as np

from pivet.errors import InputError
from pivet.files.captures import write_capture
from pivet.sheets.load import all_sheets, find_sheet
from pivet.standin.faults import Fault, parse_fault
from pivet.standin.humidity import Conditions
from pivet.standin.scene import Scene, scenes_trace, spread_faults

MOST_COUNT = 200_000
ANSWER_US = 10_000
"""Longer than any answer."""


@click.command(epilog=f"Faults: {', '.join(Fault)}.")
@click.argument("out", type=click.Path(path_type=Path))
@click.option("--sensor", type=click.Choice(list(all_sheets())), required=True)
@click.option("--humidity", type=float, default=65.0, show_default=True, help="In %RH.")
@click.option("--temperature", type=float, default=12.0, show_default=True, help="In °C.")
@click.option("--count", type=click.IntRange(1, MOST_COUNT), default=5, show_default=True)
@click.option("--interval", type=float, help="From ask to ask, in s; the sheet's, if not given.")
@click.option("--fault", "faults", multiple=True, help="NAME for all exchanges, NAME@N for one.")
@click.option(
    "--clock", type=click.FloatRange(-50, 100), default=0.0, help="Clock error of the sensor, in %."
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
def standin(
    out: Path,
    sensor: str,
    humidity: float,
    temperature: float,
    count: int,
    interval: float | None,
    faults: tuple[str, ...],
    clock: float,
    jitter: float,
    rise: float,
    step: int,
    seed: int,
) -> None:
    """Writes a made-up capture of a humidity sensor to OUT (.vcd or .csv)."""
    sheet = find_sheet(sensor)
    least_s = (sheet.windows["ask"].typ_us + ANSWER_US) / 1e6
    if interval is not None and not interval >= least_s:
        raise InputError(
            f"an interval of {interval:g} s leaves no time for ask and answer",
            f"give at least {least_s:g} s",
        )
    rows, whole = spread_faults([parse_fault(text) for text in faults], count)
    scene = Scene(
        name="cave.data",
        sheet=sheet,
        humidity=np.full(count, humidity),
        temperature=np.full(count, temperature),
        interval_s=interval if interval is not None else sheet.interval_s * 1.05,
        conditions=Conditions(1 + clock / 100, jitter, rise, step),
        faults=rows,
        whole=whole,
    )
    trace = scenes_trace((scene,), seed)
    write_capture(trace, out)
    click.echo(f"{out}: {count} asks of a {sheet.name}, {trace.edge_count} edges")
