"""``pivet report``: one file that tells a colleague what was captured, and what is wrong."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, cast

import click

from pivet.cli.choosing import chosen_sheet, sensor_options, wire_option
from pivet.cli.given import Given
from pivet.cli.inputs import files_argument, inputs_of
from pivet.cli.progress_line import progress_line
from pivet.cli.rehearse_command import described_reader, reader_options
from pivet.cli.studied import studied
from pivet.cli.terminal import quiet_option, say_note
from pivet.errors import InputError, OutputError
from pivet.files.incoming import called

if TYPE_CHECKING:
    from pivet.cli.commands import Windows
    from pivet.insight.material import Studied
    from pivet.insight.readers import Reader

HTML, PDF = (".html", ".htm"), ".pdf"


@click.command()
@files_argument
@sensor_options
@wire_option()
@reader_options
@click.option(
    "--output",
    "-o",
    required=True,
    type=click.Path(path_type=Given),
    help="Write here; .html or .pdf.",
)
@click.option("--title", help="Above all; the names of the files if not given.")
@click.option("--force", is_flag=True, help="Write over whatever is there.")
@quiet_option
@click.pass_context
def report(
    ctx: click.Context,
    /,
    files: tuple[Path, ...],
    sensor: str | None,
    sheet_file: Path | None,
    wires: tuple[str, ...],
    output: Path,
    title: str | None,
    force: bool,
    **constants: Any,
) -> None:
    """Writes one file that tells what was captured in FILE..., and what is wrong.

    Verdicts and their reasons, every pulse in its window, the worst exchanges drawn, readings,
    notes, hashes of the files. With the constants of a firmware (see: rehearse) also what that
    would have read. Nothing in it comes from elsewhere.
    """
    from pivet.files.targets import Kind, refuse_target
    from pivet.insight.registry import insight_of
    from pivet.insight.report.gather import source_of, wire_report
    from pivet.insight.report.write import report_html

    ending = output.suffix.lower()
    if ending not in (*HTML, PDF):
        raise OutputError(f"{output} ends in no form of a report", "write .html or .pdf")
    inputs = inputs_of(files, benches=True)
    refuse_target(output, Kind.REPORT, inputs.paths, force)
    sheet = chosen_sheet(sensor, sheet_file)
    made = constants["kind"] is not None or any(
        value is not None for name, value in constants.items() if name not in ("kind", "seed")
    )
    reader = described_reader(**constants) if made else None
    sources, told = [], []
    for path in inputs.paths:
        found = studied(path, sheet, wires)
        sources.append(source_of(path, called(path)))
        for one in found:
            with progress_line(f"Working out {one.name}") as progress:
                told.append(wire_report(one, _fitting(reader, one), progress))
    if reader is not None and not any(one.made for one in told):
        # Says which constant no wire has a use for.
        insight_of(found[-1].wire).kind(reader.kind).filled(reader)
    html = report_html(sources, told, title or _title(inputs.paths))
    _write(html, output, cast("Windows", ctx.obj))
    say_note(f"{output} was written.")


def _fitting(reader: "Reader | None", one: "Studied") -> "Reader | None":
    """The firmware, for a wire that it can read; None for others."""
    from pivet.insight.registry import insight_of

    if reader is None:
        return None
    try:
        return insight_of(one.wire).kind(reader.kind).filled(reader)
    except InputError:
        return None


def _title(paths: Sequence[Path]) -> str:
    names = [path.name for path in paths]
    return ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")


def _write(html: str, output: Path, windows: "Windows") -> None:
    from pivet.files import disk

    if output.suffix.lower() == PDF:
        windows.print_html(html, output)
        return
    with disk.writing(output) as stream:
        cast(Any, stream).write(html)
