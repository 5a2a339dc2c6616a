"""``pivet bench``: what a bench file holds, and rescuing what can be read of a damaged one."""

from datetime import datetime
from pathlib import Path

import click

from pivet.cli.given import Given
from pivet.cli.progress_line import progress_line
from pivet.cli.terminal import say, say_lines

FILE = click.Path(path_type=Given)


@click.group()
def bench() -> None:
    """Looks at bench files (.pivet)."""


@bench.command()
@click.argument("file", type=FILE)
def info(file: Path) -> None:
    """Says what FILE holds."""
    from pivet.feeds.feeds import state_of
    from pivet.feeds.tell import state_lines
    from pivet.files.benchfile.feeds import feed_rows
    from pivet.files.benchfile.store import BenchFile
    from pivet.judge.wording import count

    opened = BenchFile.open(file)
    try:
        if opened.read_only:
            say(f"  note: {opened.why}.")
        for capture in opened.captures():
            began = datetime.fromtimestamp(capture.began_ns / 1e9).astimezone()
            say(f"{capture.name}, from {began:%Y-%m-%d %H:%M:%S}, source {capture.source}")
            for wire in opened.wires(capture.id):
                number = count(opened.count(wire.id), "exchange")
                say(f"  {wire.name:<20} {wire.sheet or wire.family:<12} {number}")
        for row in feed_rows(opened):
            say_lines(f"feed {line}" for line in state_lines(state_of(opened, row)))
        size = file.stat().st_size
        say(f"{count(opened.edge_count(), 'edge')}, {size / 1e6:.1f} MB")
    finally:
        opened.close()


@bench.command()
@click.argument("damaged", type=FILE)
@click.argument("target", type=FILE)
def rescue(damaged: Path, target: Path) -> None:
    """Copies what can be read of DAMAGED into a new file TARGET."""
    from pivet.files.benchfile.rescue import rescue as rescue_file
    from pivet.judge.wording import count

    with progress_line(f"Reading {damaged.name}") as progress:
        found = rescue_file(damaged, target, progress)
    kept = ", ".join(
        count(found.rows.get(table, 0), table) for table in ("exchange", "reading", "block")
    )
    say(f"{target}: {kept}")
    if found.broken:
        say(f"Not all could be read of: {', '.join(found.broken)}.")
