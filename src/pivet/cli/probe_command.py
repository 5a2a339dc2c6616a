"""``pivet probe``: serial ports, and what a probe says of itself."""

import click

from pivet.cli.terminal import say


@click.command()
@click.argument("port", required=False)
@click.option("--baud", type=click.IntRange(min=1200), help="Bits a second; else the usual ones.")
def probe(port: str | None, baud: int | None) -> None:
    """Lists the serial ports, or says what the probe at PORT is and can do.

    PORT is a device like /dev/ttyUSB0, or socket://host:port.
    """
    from pivet.cli.source_lines import about_lines
    from pivet.sources.port import ports
    from pivet.sources.probe import ProbeSource

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
