"""``pivet rehearse``: what a firmware would have made of captures."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from pivet.cli.choosing import chosen_sheet, sensor_options, wire_option
from pivet.cli.inputs import files_argument, inputs_of
from pivet.cli.studied import say_object, sides_of, studied, titled, which_exchanges
from pivet.cli.terminal import quiet_option, say, say_json, say_lines

if TYPE_CHECKING:
    from pivet.insight.readers import Reader
    from pivet.insight.side import Side

Command = Callable[..., Any]

KINDS = click.Choice(["width", "sample", "poll", "host", "timer"])
CONSTANTS = (
    click.option(
        "--reader",
        "kind",
        type=KINDS,
        help="Humidity: measures each high (width), looks once after the rise (sample), counts "
        "turns of a loop (poll). 1-Wire: host. Echo: timer, poll. If not given, the first.",
    ),
    click.option(
        "--threshold",
        "--at",
        "threshold",
        help="A longer high is a 1; or how long after the rise (1-Wire: the fall) it looks.",
    ),
    click.option("--resolution", help="Step of its timer."),
    click.option("--timeout", help="Gives up what lasts longer."),
    click.option("--period", help="One turn of its loop."),
    click.option("--jitter", help="How much a turn varies."),
    click.option("--work", help="Puts each bit away for so long before it looks again."),
    click.option("--limit", type=click.IntRange(1), help="Gives up after so many turns."),
    click.option("--number", type=click.IntRange(1), help="A high of more turns is a 1."),
    click.option("--slot", help="From slot to slot (1-Wire)."),
    click.option("--recovery", help="The line is to be up so long before the next slot."),
    click.option("--presence", help="Looks for presence so long after the release."),
    click.option("--reset", help="Length of its reset."),
    click.option("--rise", help="The line rises so much later: a longer cable."),
    click.option("--pause", help="From trigger to trigger (echo)."),
    click.option("--speed", type=float, help="Speed of sound that it assumes, m/s."),
    click.option("--stall", help="The processor is away: 40us@5/s, how long and how often."),
    click.option("--seed", type=int, default=1, help="Of all that is drawn."),
)


def reader_options(command: Command) -> Command:
    """The constants of a firmware."""
    for option in reversed(CONSTANTS):
        command = option(command)
    return command


@click.command()
@files_argument
@sensor_options
@wire_option()
@which_exchanges
@reader_options
@click.option("--suggest", is_flag=True, help="Constants that work for all files together.")
@click.option("--header", is_flag=True, help="With --suggest: as a C header.")
@click.option("--json", "as_json", is_flag=True, help="One JSON object a wire.")
@quiet_option
def rehearse(
    files: tuple[Path, ...],
    sensor: str | None,
    sheet_file: Path | None,
    wires: tuple[str, ...],
    begin: str | None,
    end: str | None,
    device: str | None,
    numbers: str | None,
    suggest: bool,
    header: bool,
    as_json: bool,
    **constants: Any,
) -> None:
    """Says what a given firmware would have made of the exchanges in FILE....

    Read right, refused by the check, taken although wrong, given up; why; and which constants would
    read all. Durations are written 30us, 0.5ms, or as a number of µs.
    """
    from pivet.insight.registry import insight_of
    from pivet.insight.rehearsal import rehearse as rehearsed
    from pivet.insight.tell import rehearsal_lines

    reader = described_reader(**constants)
    sheet, inputs = chosen_sheet(sensor, sheet_file), inputs_of(files, benches=True)
    found = [
        pair
        for path in inputs.paths
        for pair in sides_of(studied(path, sheet, wires), begin, end, device, numbers)
    ]
    if suggest or header:
        _say_suggestion([side for _, side in found], reader, header, as_json)
        return
    for place, (one, side) in enumerate(found):
        result = rehearsed(side, reader, with_map=as_json)
        if as_json:
            say_object(result.as_json(), one, inputs.many)
            continue
        if place:
            say("")
        what = insight_of(one.wire).kind(result.reader.kind).does
        say_lines(rehearsal_lines(titled(one, inputs.many), result, what))


def described_reader(
    kind: str | None, seed: int, stall: str | None, **constants: object
) -> "Reader":
    """The firmware that was described.

    Raises:
        InputError: a constant cannot be understood.
    """
    from pivet.insight.readers import Reader, microseconds, stall_of

    given: dict[str, object] = {}
    for name, value in constants.items():
        if value is None:
            continue
        if isinstance(value, str):
            given[f"{name}_us"] = microseconds(value)
        else:
            given["speed_m_s" if name == "speed" else name] = value
    away = None if stall is None else stall_of(stall)
    return Reader(kind or "", seed=seed, stall=away).with_(**given)


def _say_suggestion(sides: "list[Side]", reader: "Reader", header: bool, as_json: bool) -> None:
    import json

    from pivet.insight.registry import insight_of
    from pivet.insight.rehearsal import suggest
    from pivet.insight.tell import header_lines, suggestion_lines

    found = suggest(sides, reader)
    kind = insight_of(sides[0].wire).kind(reader.kind)
    if header:
        say_lines(header_lines(found, kind.name, sides[0].wire.family.title))
    elif as_json:
        head: dict[str, object] = {"reader": {"kind": kind.name}, "exchanges": found.exchanges}
        say_json(json.dumps({**head, "suggested": dict(found.as_json())}, ensure_ascii=False))
    else:
        say(f"For a reader that {kind.does}:")
        say_lines(suggestion_lines(found))
