"""``pivet convert``: captures in another format."""

from pathlib import Path

import click

from pivet.cli.given import Given
from pivet.cli.inputs import CAPTURES, Failures, InputFile, Inputs, inputs_of
from pivet.cli.progress_line import progress_line
from pivet.cli.terminal import EXIT_UNUSABLE, quiet_option, say_note
from pivet.files.incoming import called
from pivet.files.packed import PACKED_SUFFIXES

ENDINGS = click.Choice(["vcd", "csv"])


@click.command()
@click.argument("sources", nargs=-1, required=True, type=InputFile(), metavar="SOURCE...")
@click.argument("target", type=click.Path(path_type=Given))
@click.option("--to", "ending", type=ENDINGS, help="The format, where TARGET is a folder.")
@click.option("--force", is_flag=True, help="Write over whatever is there.")
@quiet_option
@click.pass_context
def convert(
    ctx: click.Context,
    sources: tuple[Path, ...],
    target: Path,
    ending: str | None,
    force: bool,
) -> None:
    """Converts the capture SOURCE to TARGET (.vcd or .csv).

    With several SOURCEs, or a folder of them, TARGET is a folder; --to says the format.
    """
    from pivet.errors import InputError, OutputError
    from pivet.files.disk import make_folder

    inputs = inputs_of(sources)
    if not inputs.many and ending is None and not target.is_dir():
        _convert(inputs.paths[0], target, inputs, force)
        return
    if ending is None:
        raise InputError("the format is not said", "give --to vcd or --to csv")
    if target.exists() and not target.is_dir():
        raise OutputError(f"{target} is a file, and there are several sources", "name a folder")
    make_folder(target)
    failures, taken = Failures(many=True), set[Path]()
    for path in inputs.paths:
        with failures.said():
            aim = target / f"{_stem(path)}.{ending}"
            if aim in taken:
                raise OutputError(f"{aim} is of another source already", "convert this one alone")
            taken.add(aim)
            _convert(path, aim, inputs, force)
    ctx.exit(EXIT_UNUSABLE if failures.count else 0)


def _stem(path: Path) -> str:
    """The name of a capture without what says how it is written and packed."""
    if path.suffix.lower() in PACKED_SUFFIXES:
        path = path.with_suffix("")
    return path.stem if path.suffix.lower() in CAPTURES else path.name


def _convert(source: Path, target: Path, inputs: Inputs, force: bool) -> None:
    from pivet.files.captures import read_capture, write_capture
    from pivet.files.targets import Kind, refuse_target
    from pivet.judge.wording import count
    from pivet.progress import part

    refuse_target(target, Kind.CAPTURE, inputs.paths, force)
    with progress_line(f"Converting {source.name}") as progress:
        trace = read_capture(source, part(progress, 0.0, 0.5), called(source))
        write_capture(trace, target, part(progress, 0.5, 1.0))
    lines, edges = count(len(trace.lines), "line"), count(trace.edge_count, "edge")
    say_note(f"{target}: {lines}, {edges}")
