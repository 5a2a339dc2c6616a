"""``pivet open`` and ``pivet demo``."""

import os
from pathlib import Path

import click

from pivet.cli.given import Given
from pivet.cli.terminal import say

DEMO_FOLDER = Path("pivet-demo")
FILE = click.Path(path_type=Given)


@click.command("open")
@click.argument("files", nargs=-1, type=FILE)
@click.pass_context
def open_(ctx: click.Context, files: tuple[Path, ...]) -> None:
    """Opens the window with FILES."""
    ctx.exit(ctx.obj.open_window(files))


@click.command()
@click.option("--pictures", type=FILE, help="Write pictures to this folder, open no window.")
@click.option("--board", is_flag=True, help="Listen to Pivet's firmware on a simulated chip.")
@click.option("--for", "lasting", default="20s", help="So long, without a display (--board).")
@click.pass_context
def demo(ctx: click.Context, pictures: Path | None, board: bool, lasting: str) -> None:
    """Shows the demo cave night.

    Without a display it is told what it holds, and pictures and the capture are written to the
    folder pivet-demo.
    """
    if board:
        ctx.exit(_show_board(ctx, lasting))
    if pictures is None and has_display():
        ctx.exit(ctx.obj.show_demo(None))
    from pivet.bench.demo import demo_capture
    from pivet.bench.export import export_capture
    from pivet.captures.causes import table_lines
    from pivet.captures.text import summary_lines
    from pivet.files.disk import make_folder

    folder = pictures or DEMO_FOLDER
    capture = demo_capture()
    if pictures is None:
        for line in summary_lines(capture):
            say(line)
        for line in table_lines(capture):
            say(line)
        say("")
    make_folder(folder)
    export_capture(capture, folder / capture.name)
    status = ctx.obj.show_demo(folder)
    say(f"Capture and pictures of the demo are in {folder.resolve()}:")
    say(f"pivet decode {folder / capture.name} tells what is not sound, pivet open shows it.")
    ctx.exit(status)


def _show_board(ctx: click.Context, lasting: str) -> int:
    """Listens to a simulated board: in the window, or as text where no window can be seen."""
    from pivet.standin.board import SAYS, WIRES, Board

    say("Building the firmware and the simulated chip …")
    with Board() as chip:
        say(SAYS)
        if has_display():
            status: int = ctx.obj.open_window((), board=chip.path)
            return status
        words = ["--source", chip.path, "--for", lasting]
        for name, lines, _ in WIRES:
            words += ["--wire", f"{name}={','.join(lines)}"]
        from pivet.cli.listen_command import listen

        listen.main(words, standalone_mode=False, obj=ctx.obj)
    return 0


def has_display() -> bool:
    """Whether a window could be seen."""
    return any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"))
