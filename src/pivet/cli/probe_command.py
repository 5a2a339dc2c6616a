"""``pivet probe``: serial ports, and what a probe says of itself."""

import click

from pivet.cli.terminal import say
from pivet.sources.port import ports
from pivet.sources.probe import ProbeSource
from pivet.sources.source import About, LineInfo


@click.command()
@click.argument("port", required=False)
@click.option("--baud", type=click.IntRange(min=1200), help="Bits a second; else the usual ones.")
def probe(port: str | None, baud: int | None) -> None:
    """Lists the serial ports, or says what the probe at PORT is and can do.

    PORT is a device like /dev/ttyUSB0, or socket://host:port.
    """
    if port is None:
        found = ports()
        for place in found:
            note = "" if place.usable else "   (no right to use it)"
            say(f"{place.path:<20} {place.about}{note}".rstrip())
        if not found:
            say("No serial port is there. `pivet standin serve` simulates a probe.")
        return
    with ProbeSource(port, baud) as source:
        for line in about_lines(source.open()):
            say(line)


def about_lines(about: About) -> list[str]:
    """What a source is, for people."""
    rows = [about.name, *(f"  {word:<12} {what}" for word, what in about.facts), "  lines"]
    return rows + [f"    {line.name:<24} {_can(line)}" for line in about.lines]


def _can(row: LineInfo) -> str:
    can = [
        word
        for word, able in (
            ("pulls low", row.can_pull_low),
            ("drives high", row.can_drive_high),
        )
        if able
    ] or ["only listens"]
    level = "" if row.level is None else f", {row.level.name.lower()} now"
    return f"{' and '.join(can)}{level}" + (f" ({row.note})" if row.note else "")
