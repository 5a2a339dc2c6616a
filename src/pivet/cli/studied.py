"""Which exchanges of which files a command about many of them means."""

import re
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from pivet.cli.progress_line import progress_line
from pivet.errors import InputError
from pivet.files.incoming import called

if TYPE_CHECKING:
    from pivet.insight.material import Studied
    from pivet.insight.side import Side
    from pivet.sheets.model import Sheet

Command = Callable[..., Any]

NUMBERS = re.compile(r"(\d+)(?:\.\.(\d+))?")


def which_exchanges(command: Command) -> Command:
    """``--from``, ``--to``, ``--device`` and ``--exchanges``."""
    options = (
        click.option("--from", "begin", help="From here on: 90s after the beginning, or 02:30."),
        click.option("--to", "end", help="Up to here, written likewise."),
        click.option("--device", help="Only of this 1-Wire device, by its code."),
        click.option("--exchanges", "numbers", help="Only these, by number: 100..200."),
    )
    for option in reversed(options):
        command = option(command)
    return command


def studied(path: Path, sheet: "Sheet | None", wires: tuple[str, ...]) -> "list[Studied]":
    """The wires of a file.

    Raises:
        InputError: it cannot be used, or no exchange is in it.
    """
    from pivet.insight.material import study

    with progress_line(f"Reading {path.name}") as progress:
        found = study(path, sheet, wires, progress, called(path))
    if not found:
        raise InputError(
            f"no exchange was found in {called(path)}", "see what is in it with: pivet decode"
        )
    return found


def sides_of(
    files: "Iterator[Studied] | list[Studied]",
    begin: str | None = None,
    end: str | None = None,
    device: str | None = None,
    numbers: str | None = None,
) -> "Iterator[tuple[Studied, Side]]":
    """The exchanges that are meant, wire by wire; wires that have none are left out.

    Raises:
        InputError: what was said of them cannot be understood, or no exchange is left.
    """
    from pivet.insight.side import Side

    left = False
    for one in files:
        chosen = _chosen(one, begin, end, device, numbers)
        if chosen.any():
            left = True
            yield one, Side(one.wire, None if chosen.all() else chosen)
    if not left:
        raise InputError("no exchange is left of what was asked for", "ask for more of them")


def _chosen(
    one: "Studied", begin: str | None, end: str | None, device: str | None, numbers: str | None
) -> Any:
    from pivet.cli.moments import span_of
    from pivet.insight.side import by_number, of_device

    began = one.began_ns
    first, last = span_of(begin, end, began or 0, began is not None)
    starts = one.wire.exchanges.start_ns + (began or 0)
    chosen = (starts >= first) & (starts <= last)
    if numbers is not None:
        chosen &= by_number(one.wire, *_numbers(numbers))
    if device is not None:
        chosen &= of_device(one.wire, device)
    return chosen


def _numbers(text: str) -> tuple[int, int]:
    found = NUMBERS.fullmatch(text.strip())
    if found is None:
        raise InputError(f"{text!r} names no exchanges", "write 100..200, or one number")
    return int(found[1]), int(found[2] or found[1])


def titled(one: "Studied", many: bool) -> str:
    """A wire for people: with its file where there are several.

    Args:
        one: of a file.
        many: there are several files.
    """
    name = f"{one.name} · {one.wire.sheet.name}"
    return f"{one.file}: {name}" if many else name


def say_object(found: dict[str, object], one: "Studied", many: bool) -> None:
    """Prints what was found of a wire as JSON, with the name of the wire, and of its file.

    Args:
        found: as JSON has it.
        one: the wire.
        many: there are several files.
    """
    import json

    from pivet.cli.terminal import say_json

    head: dict[str, object] = {"file": one.file} if many else {}
    head |= {"wire": one.wire.title or one.wire.name, "sensor": one.wire.sheet.id}
    say_json(json.dumps({**head, **found}, ensure_ascii=False))
