"""An echo as the stack draws it: among its neighbours, as time and as distance."""

from collections.abc import Iterator

from pivet.decode.echo import EchoExchanges
from pivet.decode.interface import ABSENT
from pivet.insight.drawn.chips import chips
from pivet.insight.drawn.echo import (
    AXIS,
    CHIPS_HEIGHT,
    ROW,
    ShotsLayout,
    distance_words,
    median_us,
    shot_words,
)
from pivet.insight.drawn.picture import Box, Kind, Picture, Shape, Stroke, Words, kind_of
from pivet.insight.drawn.place import Rect
from pivet.judge.echo.judged import JudgedShots, echo_window
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.readings.units import AS_KEPT

WIDTH, ROWS, CHIP = 760.0, 7, 190.0
HEIGHT = CHIPS_HEIGHT + 2 * AXIS + ROWS * ROW


def shots_picture(
    exchanges: EchoExchanges, judged: JudgedShots, index: int, report: Report
) -> Picture:
    """The chosen shot in the middle; what is not sound stands out.

    Args:
        exchanges: of the wire.
        judged: what is said of them.
        index: of the shot on the wire.
        report: its report.
    """
    area = Rect(0.0, 0.0, WIDTH, HEIGHT)
    place = ShotsLayout(area, exchanges.flight_ns, index, report.sheet)
    shapes: list[Shape] = [*chips(report.pulses, 0.0, 16.0, CHIP)]
    shapes += _axes(place, judged, index)
    for number in place.numbers:
        shapes += _shot(place, exchanges, judged, number, number == index)
    middle = median_us(judged, index)
    if middle is not None:
        x = place.scale.x_of(middle)
        shapes.append(Stroke([(x, place.grid.top), (x, place.grid.bottom)], Kind.AFTER, 1.4))
    return Picture(WIDTH, HEIGHT, tuple(shapes), report.headline)


def _axes(place: ShotsLayout, judged: JudgedShots, index: int) -> Iterator[Shape]:
    """The sensor's range, distances above, time below."""
    speed, grid = float(judged.speed[index]), place.grid
    window = echo_window(judged.sheet, speed)
    yield Box(*place.between(window.min_us, window.max_us or window.typ_us), Kind.ONE, 0.3)
    for value, text in place.scale.distance_ticks(speed, AS_KEPT):
        x = place.scale.x_of(value)
        yield Stroke([(x, grid.top - 3), (x, grid.bottom)], Kind.CELL)
        yield Words(x, place.above(x).bottom - 4, text, Kind.AFTER, "middle", 10)
    for value, text in place.scale.time_ticks():
        x = place.scale.x_of(value)
        yield Stroke([(x, grid.bottom), (x, grid.bottom + 4)], Kind.QUIET)
        yield Words(x, place.below(x).bottom - 3, text, Kind.QUIET, "middle", 10)
    air = f"at {AS_KEPT.words('temperature', float(judged.air_c[index]), 1)}"
    yield Words(grid.left, grid.top - 7, air, Kind.AFTER, size=10)


def _shot(
    place: ShotsLayout, exchanges: EchoExchanges, judged: JudgedShots, number: int, own: bool
) -> Iterator[Shape]:
    box, verdict = place.row(number), Verdict(int(judged.verdict[number]))
    kind, base = kind_of(verdict), place.row(number).middle + 4
    if own:
        yield Box(*box, Kind.COMMON)
    yield Words(
        place.name(number).left, base, shot_words(exchanges, number), kind, size=10, bold=own
    )
    flight = int(exchanges.flight_ns[number])
    if flight == ABSENT:
        yield Words(place.scale.left + 6, base, "no echo", kind, size=10)
        return
    yield Stroke(place.line(number, flight / 1000), kind, 1.4)
    ink = Kind.INK if judged.given[number] else kind
    text = distance_words(judged, number, AS_KEPT)
    yield Words(place.value(number).right, base, text, ink, "end", 11, own)
