"""What only an echo measurement has: its flight, the air, and its neighbours."""

from collections.abc import Iterator, Mapping
from functools import partial
from itertools import repeat

import numpy as np
import numpy.typing as npt

from pivet.decode.echo import EchoExchanges
from pivet.decode.interface import ABSENT
from pivet.frozen import FrozenValue
from pivet.judge.echo.judged import JudgedShots
from pivet.judge.neighbours import Neighbours
from pivet.readings.sound import FIXED_SPEED
from pivet.signal.trace import BoolArray

FACTS = ("flight_us", "air_c", "speed_m_s", "median_m", "spread_m")
"""What JSON says of a measurement; see docs/json.md."""


class Measurement(FrozenValue):
    """What only an echo measurement has.

    Attributes:
        flight_us: length of the echo, µs; None without one.
        distance_m: None without an echo.
        air_c, speed: air temperature and speed of sound used, °C and m/s.
        air_from: where the temperature comes from.
        fixed_m: what a fixed 340 m/s would say, m.
        median_m, spread_m: over the last shots; None unless this one may be given.
        over: how many shots at most.
        facts: of these, as JSON; see docs/json.md.
    """

    flight_us: float | None
    distance_m: float | None
    air_c: float
    speed: float
    air_from: str
    fixed_m: float | None
    median_m: float | None
    spread_m: float | None
    over: int
    facts: Mapping[str, object]


_measurements: Neighbours[Measurement] = Neighbours()


def measurement_of(exchanges: EchoExchanges, judged: JudgedShots, index: int) -> Measurement:
    """What only measurement ``index`` has.

    Args:
        exchanges: decoded, columns of n exchanges.
        judged: what the judge says of them, as columns.
        index: of the exchange, from 0.
    """
    return _measurements.row(judged, index, partial(_rows, exchanges, judged))


def _rows(
    exchanges: EchoExchanges, judged: JudgedShots, first: int, last: int
) -> list[Measurement]:
    part = slice(first, last)
    flight_ns, shot_of, shots = exchanges.flight_ns[part], judged.shot_of[part], judged.shots
    there, given = flight_ns != ABSENT, shot_of >= 0
    median, spread = np.zeros((2, given.size))
    median[given], spread[given] = shots.median[shot_of[given]], shots.spread[shot_of[given]]
    flight_us = _or_none(there, flight_ns / 1000)
    rows = zip(
        flight_us,
        _or_none(there, judged.distance[part]),
        judged.air_c[part].tolist(),
        judged.speed[part].tolist(),
        repeat(judged.air.label),
        _or_none(there, flight_ns * FIXED_SPEED / 2e9),
        _or_none(given, median),
        _or_none(given, spread),
        repeat(shots.over),
        _facts(
            flight_us,
            np.round(judged.air_c[part], 4).tolist(),
            np.round(judged.speed[part], 3).tolist(),
            _or_none(given, np.round(median, 6)),
            _or_none(given, np.round(spread, 6)),
        ),
        strict=False,  # what repeats has no end
    )
    return [Measurement(*row) for row in rows]


def _or_none(there: BoolArray, values: npt.NDArray[np.floating]) -> list[float | None]:
    """Values; None where there is none."""
    found: list[float | None] = values.tolist()
    if not there.all():
        for at in np.flatnonzero(~there).tolist():
            found[at] = None
    return found


def _facts(*columns: list[float | None]) -> Iterator[dict[str, object]]:
    for row in zip(*columns, strict=True):
        yield dict(zip(FACTS, row, strict=True))
