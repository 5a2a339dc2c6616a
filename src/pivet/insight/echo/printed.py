"""What echoes gave, and what mistakes in a firmware make of them."""

from collections.abc import Iterator

from pivet.decode.echo import EchoExchanges
from pivet.decode.interface import ABSENT
from pivet.insight.printed.facts import Fact, Mistake, Truth
from pivet.judge.echo import JudgedShots

DECIMALS = 3
SPEEDS = (331.3, 340.0, 340.3, 343.0, 343.2, 344.0, 344.8, 345.0, 346.0)
"""Speeds of sound that firmware assumes, m/s: 58 µs a cm is 344.8, 0.034 cm a µs is 340."""


def facts_of(exchanges: EchoExchanges, judged: JudgedShots) -> list[Fact]:
    """What each measurement gave.

    Args:
        exchanges: decoded, columns of n measurements.
        judged: what the judge says of them.
    """
    found = []
    columns = (judged.given, judged.distance, exchanges.flight_ns, judged.speed, exchanges.end_ns)
    rows = zip(*(column.tolist() for column in columns), strict=True)
    for index, (given, distance, flight_ns, speed, end_ns) in enumerate(rows):
        truths = {}
        if given and flight_ns != ABSENT:
            mistakes = tuple(_mistakes(distance, flight_ns / 1000, speed))
            truths["distance"] = Truth(distance, DECIMALS, mistakes)
        found.append(Fact(index, end_ns / 1e9, "", truths))
    return found


def _mistakes(distance_m: float, flight_us: float, speed: float) -> Iterator[Mistake]:
    for fixed in SPEEDS:
        yield Mistake(
            "fixed-speed",
            flight_us * fixed / 2e6,
            f"{flight_us:.0f} µs x {fixed:g} m/s / 2, but sound goes {speed:.1f} m/s",
        )
    for used in (speed, *SPEEDS):
        yield Mistake(
            "one-way-distance",
            flight_us * used / 1e6,
            f"{flight_us:.0f} µs x {used:.1f} m/s, there and back: {distance_m:.3f} m is half",
        )
