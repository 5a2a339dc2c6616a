"""``pivet margins``: how pulses lie in their windows over many exchanges."""

from pathlib import Path

import click

from pivet.cli.choosing import chosen_sheet, sensor_options, wire_option
from pivet.cli.inputs import Failures, files_argument, inputs_of
from pivet.cli.studied import say_object, sides_of, studied, titled, which_exchanges
from pivet.cli.terminal import EXIT_UNUSABLE, quiet_option, say, say_lines


@click.command()
@files_argument
@sensor_options
@wire_option()
@which_exchanges
@click.option("--json", "as_json", is_flag=True, help="One JSON object a wire.")
@quiet_option
@click.pass_context
def margins(
    ctx: click.Context,
    files: tuple[Path, ...],
    sensor: str | None,
    sheet_file: Path | None,
    wires: tuple[str, ...],
    begin: str | None,
    end: str | None,
    device: str | None,
    numbers: str | None,
    as_json: bool,
) -> None:
    """Says how the pulses of FILE..., captures or bench files, lie in their windows.

    For each kind of pulse: how many, how they are spread, the least margin, and what they follow.
    """
    from pivet.insight.follows import what_follows
    from pivet.insight.forms import margins_json
    from pivet.insight.margins import margins_of
    from pivet.insight.registry import insight_of
    from pivet.insight.tell import margin_lines

    sheet = chosen_sheet(sensor, sheet_file)
    inputs = inputs_of(files, benches=True)
    failures, ahead = Failures(inputs.many), False
    for path in inputs.paths:
        with failures.said():
            found = studied(path, sheet, wires)
            for one, side in sides_of(found, begin, end, device, numbers):
                rows = margins_of(side.wire, side.chosen)
                follows = what_follows(side.wire, side.chosen)
                if as_json:
                    say_object(margins_json(rows, follows), one, inputs.many)
                    continue
                if ahead:
                    say("")
                ahead, position = True, insight_of(one.wire).position
                say_lines(margin_lines(titled(one, inputs.many), rows, follows, position))
    ctx.exit(EXIT_UNUSABLE if failures.count else 0)
