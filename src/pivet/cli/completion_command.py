"""``pivet completion``: commands, options, files, wires, sheets and units completed in a shell."""

import os
from pathlib import Path

import click
from click.shell_completion import get_completion_class

from pivet.cli.terminal import say, say_note
from pivet.errors import InputError

SHELLS = click.Choice(["bash", "zsh", "fish"])
VARIABLE = "_PIVET_COMPLETE"


def _places() -> dict[str, tuple[Path, str]]:
    """Where each shell looks for completions, and what else it needs."""
    home = Path.home()
    data = Path(os.environ.get("XDG_DATA_HOME") or home / ".local/share")
    config = Path(os.environ.get("XDG_CONFIG_HOME") or home / ".config")
    own = data / "zsh/site-functions"
    zsh = f"If ~/.zshrc has it not yet, add: fpath=({own} $fpath); autoload -U compinit; compinit"
    return {
        "bash": (data / "bash-completion/completions/pivet", ""),
        "zsh": (own / "_pivet", zsh),
        "fish": (config / "fish/completions/pivet.fish", ""),
    }


@click.command()
@click.argument("shell", type=SHELLS)
@click.option("--print", "to_terminal", is_flag=True, help="Print it, install nothing.")
@click.pass_context
def completion(ctx: click.Context, shell: str, to_terminal: bool) -> None:
    """Installs completion for SHELL: commands, options, files, wires, sheets, units."""
    from pivet.files import disk

    made = get_completion_class(shell)
    if made is None:
        raise InputError(f"{shell} cannot be completed", "update the package click")
    script = made(ctx.find_root().command, {}, "pivet", VARIABLE).source()
    if to_terminal:
        click.echo(script)
        return
    path, more = _places()[shell]
    disk.make_folder(path.parent)
    disk.write_text(path, script)
    say(f"{path} was written; a new {shell} completes pivet.")
    if more:
        say_note(more)
