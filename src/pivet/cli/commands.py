"""The commands of ``pivet``; each is imported when it is called, so that all start at once."""

import importlib
import sys
from collections.abc import Callable
from pathlib import Path

import click
from click.shell_completion import CompletionItem

from pivet import __version__
from pivet.cli.terminal import EXIT_UNUSABLE, Enough, say
from pivet.errors import OutputError, PivetError

OpenWindow = Callable[..., int]
"""With files; the name ``board`` gives the port of a board to listen to."""

ShowDemo = Callable[[Path | None], int]

PrintHtml = Callable[[str, Path], None]


def cannot_print(_html: str, path: Path) -> None:
    """Where nothing can make a PDF.

    Raises:
        OutputError: always.
    """
    raise OutputError(f"{path} cannot be made here", "write .html")


COMMANDS = {
    "decode": ("decode_command", "Decodes and judges the exchanges of captures."),
    "readings": ("readings_command", "Prints readings, with the reasons of gaps."),
    "stats": ("readings_command", "Says how reliable wires are, and what they read."),
    "margins": ("margins_command", "Says how pulses lie in their windows over many exchanges."),
    "compare": ("compare_command", "Says what differs between before and after."),
    "rehearse": ("rehearse_command", "Says what a firmware would have made of captures."),
    "crosscheck": ("crosscheck_command", "Lays printed values beside the wire."),
    "report": ("report_command", "Writes a report of captures, HTML or PDF."),
    "explain": ("explain_command", "Checks and explains bytes copied from elsewhere."),
    "sheet": ("sheet_command", "Lists, shows, checks and copies timing sheets."),
    "convert": ("convert_command", "Converts captures to VCD or CSV."),
    "roles": ("roles_command", "Lists and changes the names of 1-Wire devices."),
    "standin": ("standin_command", "Writes a made-up capture, or serves a live cave."),
    "probe": ("probe_command", "Lists the places where a probe may be, or asks one."),
    "listen": ("listen_command", "Listens to wires, and asks their sensors."),
    "feed": ("feed_command", "Sends readings of a bench elsewhere."),
    "bench": ("bench_command", "Looks at bench files (.pivet)."),
    "completion": ("completion_command", "Completes commands in your shell."),
    "open": ("window_commands", "Opens the window with files."),
    "demo": ("window_commands", "Shows the demo cave night."),
}
"""By name: the module that has it, and what it does in a few words."""


class Commands(click.Group):
    """All commands; ends on Pivet's own errors with one sentence and status 2."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Their names."""
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """One of them."""
        if cmd_name not in COMMANDS:
            return None
        module = importlib.import_module(f"pivet.cli.{COMMANDS[cmd_name][0]}")
        command: click.Command = getattr(module, cmd_name if cmd_name != "open" else "open_")
        return command

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """Their list in the help, without importing any."""
        with formatter.section("Commands"):
            formatter.write_dl([(name, says) for name, (_, says) in COMMANDS.items()])

    def shell_complete(self, ctx: click.Context, incomplete: str) -> list[CompletionItem]:
        """Those that begin so, and the options of all."""
        found = [
            CompletionItem(name, help=says)
            for name, (_, says) in COMMANDS.items()
            if name.startswith(incomplete)
        ]
        return found + click.Command.shell_complete(self, ctx, incomplete)

    def invoke(self, ctx: click.Context) -> object:
        """Runs the chosen command."""
        try:
            return super().invoke(ctx)
        except PivetError as error:
            say(f"pivet: {error}", error=True)
            ctx.exit(EXIT_UNUSABLE)
        except BrokenPipeError as error:
            # Else it would count as a failure.
            raise Enough from error


def build(
    open_window: OpenWindow, show_demo: ShowDemo, print_html: PrintHtml = cannot_print
) -> click.Group:
    """The command line.

    Args:
        open_window: opens the window with some files; gives the exit status.
        show_demo: shows the demo in the window, or writes its pictures to a folder.
        print_html: writes HTML as PDF.
    """

    @click.group(
        cls=Commands,
        invoke_without_command=True,
        subcommand_metavar="[COMMAND] [ARGS]...",
        context_settings={"help_option_names": ["-h", "--help"]},
    )
    @click.version_option(__version__, prog_name="pivet")
    @click.pass_context
    def pivet(ctx: click.Context) -> None:
        """Decodes and judges pulse-timed single-wire sensor signals.

        Without a command the window opens.
        """
        ctx.obj = Windows(open_window, show_demo, print_html)
        if ctx.invoked_subcommand is None:
            ctx.exit(open_window(()))

    return pivet


class Windows:
    """How the commands that open a window do it.

    Attributes:
        open_window, show_demo, print_html: as ``build`` was given them.
    """

    def __init__(self, open_window: OpenWindow, show_demo: ShowDemo, print_html: PrintHtml) -> None:
        self.open_window, self.show_demo = open_window, show_demo
        self.print_html = print_html


def use_utf8() -> None:
    """Makes output UTF-8 whatever the locale says."""
    for stream in (sys.stdout, sys.stderr):
        reconfigure = getattr(stream, "reconfigure", None)
        if reconfigure is not None:
            reconfigure(encoding="utf-8", errors="replace")
