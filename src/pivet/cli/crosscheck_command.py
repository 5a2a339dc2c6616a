"""``pivet crosscheck``: what a firmware printed beside what was on the wire."""

from pathlib import Path
from typing import TYPE_CHECKING

import click

from pivet.cli.choosing import chosen_sheet, sensor_options, wire_option
from pivet.cli.inputs import InputFile
from pivet.cli.studied import say_object, studied, titled
from pivet.cli.terminal import quiet_option, say_lines
from pivet.errors import InputError

if TYPE_CHECKING:
    from pivet.insight.material import Studied


@click.command()
@click.argument("capture", type=InputFile())
@click.argument("printed", type=InputFile())
@sensor_options
@wire_option()
@click.option(
    "--bind",
    "bound",
    multiple=True,
    metavar="QUANTITY=N",
    help="The Nth number of a line is this quantity: temperature=2. If not given, it is found out.",
)
@click.option("--json", "as_json", is_flag=True, help="As one JSON object.")
@quiet_option
def crosscheck(
    capture: Path,
    printed: Path,
    sensor: str | None,
    sheet_file: Path | None,
    wires: tuple[str, ...],
    bound: tuple[str, ...],
    as_json: bool,
) -> None:
    """Lays the text that a firmware PRINTED beside the readings of a CAPTURE.

    The wording does not matter: the numbers in it are found. Each is the same as on the wire, or
    stale, or a known mistake, which is named with the arithmetic that goes wrong.
    """
    from pivet.files.incoming import called, read_bytes
    from pivet.insight.printed.check import crosscheck as checked
    from pivet.insight.printed.lines import console_text
    from pivet.insight.printed.tell import crosscheck_lines
    from pivet.insight.registry import insight_of

    one = _only(studied(capture, chosen_sheet(sensor, sheet_file), wires))
    text = console_text(read_bytes(printed, again="print something first"), called(printed))
    found = checked(insight_of(one.wire).facts(one.wire), text, _said(bound))
    if as_json:
        say_object(found.as_json(), one, False)
    else:
        say_lines(crosscheck_lines(titled(one, False), found))


def _only(wires: "list[Studied]") -> "Studied":
    if len(wires) > 1:
        names = ", ".join(one.name for one in wires)
        raise InputError(
            f"there are several wires ({names})", "name the one that was printed: --wire"
        )
    return wires[0]


def _said(bound: tuple[str, ...]) -> dict[str, int]:
    from pivet.readings.units import QUANTITIES

    found = {}
    for text in bound:
        quantity, _, number = text.partition("=")
        if quantity not in QUANTITIES or not number.isdigit() or not int(number):
            known = ", ".join(QUANTITIES)
            raise InputError(
                f"{text!r} binds nothing", f"write QUANTITY=N, a quantity of {known} and its number"
            )
        found[quantity] = int(number)
    return found
