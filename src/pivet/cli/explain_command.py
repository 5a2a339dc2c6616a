"""``pivet explain``: bytes that were copied from somewhere else."""

import sys

import click

from pivet.cli.terminal import EXIT_UNSOUND, say


@click.command()
@click.argument("words", nargs=-1, required=True, metavar="HEX…")
@click.pass_context
def explain(ctx: click.Context, words: tuple[str, ...]) -> None:
    """Checks and explains bytes copied from elsewhere.

    HEX… are 5 bytes of a humidity frame, 8 of a ROM code, 9 of a scratchpad, a code like
    28-0000051b2c7d, or the two lines of the kernel's 1-Wire file. A single - reads them from
    standard input. The status is 1 when they are unsound as every type.
    """
    from pivet.bench.by_hand import explain_bytes, explained_lines
    from pivet.cli.choosing import take_own_sheets
    from pivet.judge.verdict import Verdict

    take_own_sheets()
    text = sys.stdin.read() if words == ("-",) else " ".join(words)
    found = explain_bytes(text)
    for line in explained_lines(found):
        say(line)
    sound = any(meaning.verdict is not Verdict.UNSOUND for meaning in found)
    ctx.exit(0 if sound else EXIT_UNSOUND)
