"""``pivet compare``: what differs between before and after."""

from pathlib import Path
from typing import TYPE_CHECKING

import click

from pivet.cli.choosing import chosen_sheet, sensor_options, wire_option
from pivet.cli.inputs import InputFile
from pivet.cli.studied import say_object, sides_of, studied
from pivet.cli.terminal import quiet_option, say, say_lines
from pivet.errors import InputError

if TYPE_CHECKING:
    from pivet.insight.material import Studied
    from pivet.insight.side import Side

    Found = list[tuple[Studied, Side]]

STRETCH = "Only this stretch of it: 22:00..02:00, or 0s..90s after the beginning."


@click.command()
@click.argument("before", type=InputFile())
@click.argument("after", type=InputFile())
@sensor_options
@wire_option()
@click.option("--before", "first", metavar="FROM..TO", help=STRETCH)
@click.option("--after", "second", metavar="FROM..TO", help=STRETCH)
@click.option("--json", "as_json", is_flag=True, help="One JSON object a wire.")
@quiet_option
def compare(
    before: Path,
    after: Path,
    sensor: str | None,
    sheet_file: Path | None,
    wires: tuple[str, ...],
    first: str | None,
    second: str | None,
    as_json: bool,
) -> None:
    """Says what differs between BEFORE and AFTER, captures or bench files.

    They may be the same bench file, with a stretch of it for either. Per kind of pulse: by how much
    it moved, with its interval; then the share of sound exchanges, and the reasons of the others.
    """
    from pivet.insight.compare import compare as compared
    from pivet.insight.forms import comparison_json
    from pivet.insight.tell import comparison_lines

    sheet = chosen_sheet(sensor, sheet_file)
    sides = [
        list(sides_of(studied(path, sheet, wires), *_stretch(text)))
        for path, text in ((before, first), (after, second))
    ]
    ahead = False
    for (one, left), (other, right) in _pairs(*sides):
        found = compared(left, right)
        if as_json:
            say_object(comparison_json(found), other, False)
            continue
        if ahead:
            say("")
        ahead = True
        names = one.name if one.name == other.name else f"{one.name} and {other.name}"
        say(f"{names} · {other.wire.sheet.name}")
        say_lines(comparison_lines(found))


def _stretch(text: str | None) -> tuple[str | None, str | None]:
    if text is None:
        return None, None
    begin, dots, end = text.partition("..")
    if not dots:
        raise InputError(f"{text!r} is no stretch of time", "write FROM..TO, as 0s..90s")
    return begin.strip() or None, end.strip() or None


def _pairs(
    before: "Found", after: "Found"
) -> "list[tuple[tuple[Studied, Side], tuple[Studied, Side]]]":
    """The wires that belong together: by name, or as the only ones that there are.

    Raises:
        InputError: none do.
    """
    if len(before) == len(after) == 1:
        return [(before[0], after[0])]
    names = {one.name: (one, side) for one, side in before}
    found = [(names[one.name], (one, side)) for one, side in after if one.name in names]
    if not found:
        left, right = (", ".join(one.name for one, _ in rows) for rows in (before, after))
        raise InputError(
            f"no wire is in both files ({left}; {right})", "name one of each with --wire"
        )
    return found
