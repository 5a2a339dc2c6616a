"""What firmware makes of echoes: measured by a timer or by turns of a loop, then halved."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from pivet.decode.echo import EchoExchanges
from pivet.decode.interface import ABSENT
from pivet.insight.grid import DRAWN, SIDE, Grid, drawn_rows
from pivet.insight.outcomes import UNDECIDED, Outcome, Outcomes
from pivet.insight.pulses import BoolArray, Int64Array
from pivet.insight.readers import Reader
from pivet.insight.stalls import draw, own_time, seen_late
from pivet.insight.suggestion import Constant, Found, Suggestion
from pivet.judge.echo import JudgedShots
from pivet.progress import Progress, each, silent

FloatArray = npt.NDArray[np.float64]

USUAL_SPEED_M_S = 343.0
"""Of sound in dry air of 20 °C: what firmware without a thermometer assumes."""

USUAL_PERIOD_US = 1.0

USUAL_ACCURACY_M = 0.003
"""Distances that differ by less count as the same; what most sheets promise."""

SHARE = 0.005
"""Of far distances this share more: nobody reads them finer."""

ROOM = 1.1

Shots = tuple[EchoExchanges, JudgedShots]


def read(shots: Shots, at: Int64Array, reader: Reader) -> Outcomes:
    """What a firmware makes of some measurements.

    Right is a distance as the wire gives it, within what the sensor's sheet promises; wrong is
    another one, or any where the wire gives none.

    Args:
        shots: decoded and judged, n of them.
        at: indices of some of them, rising, int64 (m,).
        reader: the firmware.
    """
    exchanges, judged = shots
    measured = measured_ns(exchanges, at, reader)
    speed = USUAL_SPEED_M_S if reader.speed_m_s is None else reader.speed_m_s
    far = measured * 1e-9 * speed / 2
    true = judged.distance[at]
    same = judged.given[at] & (np.abs(far - true) <= allowed_m(judged, true))
    outcome = np.where(same, Outcome.RIGHT, Outcome.WRONG)
    lost = (exchanges.flight_ns[at] == ABSENT) | ~np.isfinite(measured) | (measured <= 0)
    if reader.timeout_us is not None:
        lost |= measured > reader.timeout_us * 1000
    lost |= _too_soon(exchanges, at, reader)
    outcome[lost] = Outcome.TIMEOUT
    decided = np.full(at.size, UNDECIDED, dtype=np.int32)
    return Outcomes(outcome.astype(np.uint8), decided, np.zeros((0, at.size), dtype=np.uint8))


def allowed_m(judged: JudgedShots, true: FloatArray) -> FloatArray:
    """By how much a distance may differ and still count as the same, m.

    Args:
        judged: with the sensor's sheet.
        true: distances, m.
    """
    rule = judged.sheet.echo
    promised = None if rule is None else rule.accuracy_m
    return np.maximum(USUAL_ACCURACY_M if promised is None else promised, SHARE * true)


def measured_ns(exchanges: EchoExchanges, at: Int64Array, reader: Reader) -> FloatArray:
    """How long each echo is for a firmware, float64 (m,), ns.

    Args:
        exchanges: decoded, columns of n measurements.
        at: which of them.
        reader: the firmware.
    """
    rng = np.random.default_rng(reader.seed)
    edges = np.stack([np.zeros(at.size), exchanges.flight_ns[at].astype(np.float64)])
    if reader.stall is not None:
        starts = draw(reader.stall, edges[0], edges[1], rng)
        move = seen_late if reader.kind == "timer" else own_time
        edges = move(edges, starts, reader.stall.length_ns)
    step = reader.resolution_us if reader.kind == "timer" else reader.period_us or USUAL_PERIOD_US
    if step:
        phase = rng.random(at.size)
        edges = np.floor(edges / (step * 1000) + phase) * step * 1000
    found: FloatArray = edges[1] - edges[0]
    return found


def _too_soon(exchanges: EchoExchanges, at: Int64Array, reader: Reader) -> BoolArray:
    """Measurements that are not over when the firmware triggers again."""
    if reader.pause_us is None:
        return np.zeros(at.size, dtype=bool)
    found: BoolArray = exchanges.end_ns[at] - exchanges.start_ns[at] > reader.pause_us * 1000
    return found


def suggest(chosen: Sequence[tuple[Shots, Int64Array]], reader: Reader) -> Suggestion:
    """Timeout, pause and speed of sound for some measurements, of several files.

    Args:
        chosen: measurements and which of them.
        reader: its kind.
    """
    number = sum(at.size for _, at in chosen)
    flights, others, speeds, ends = [], [], [], []
    for (exchanges, judged), at in chosen:
        given = judged.given[at]
        heard = exchanges.flight_ns[at] != ABSENT
        flights.append(exchanges.flight_ns[at[given]] / 1000)
        others.append(exchanges.flight_ns[at[heard & ~given]] / 1000)
        speeds.append(judged.speed[at[given]])
        ends.append((exchanges.end_ns - exchanges.start_ns)[at] / 1000)
    flight = np.concatenate(flights)
    if not flight.size:
        return Suggestion(number, (), why_not="no measurement gave a distance")
    longer = np.concatenate(others)
    longest = float(flight.max())
    longer = longer[longer > longest]
    found = Found(longest, float(longer.min(initial=np.inf)))
    timeout = found.middle_us if longer.size else longest * ROOM
    says = f", pulses without a distance from {found.high_us:.0f} µs on" if longer.size else ""
    speed = float(np.median(np.concatenate(speeds)))
    last = float(np.concatenate(ends).max())
    constants = (
        Constant(
            "timeout_us", "give up after", timeout, f"distances give up to {longest:.0f} µs{says}"
        ),
        Constant(
            "speed_m_s", "speed of sound", speed, "by the air temperature of these measurements"
        ),
        Constant(
            "pause_us",
            "from trigger to trigger",
            max(last * ROOM, chosen[0][0][1].sheet.interval_s * 1e6),
            f"the longest measurement takes {last:.0f} µs; the sheet has an interval of its own",
        ),
    )
    return Suggestion(number, constants, longest, found.high_us if longer.size else None)


def map_of(
    shots: Shots,
    at: Int64Array,
    reader: Reader,
    drawn: int = DRAWN,
    progress: Progress = silent,
) -> Grid | None:
    """The speed of sound that the firmware counts on, against its timeout.

    Args:
        shots: decoded and judged.
        at: indices of some of them, rising.
        reader: the firmware.
        drawn: how many measurements are drawn.
        progress: called now and then.
    """
    exchanges, judged = shots
    if not at.size:
        return None
    rows = drawn_rows(at, drawn, np.random.default_rng(reader.seed))
    free = reader.with_(timeout_us=None)
    measured = measured_ns(exchanges, rows, free)
    heard = (exchanges.flight_ns[rows] != ABSENT) & ~_too_soon(exchanges, rows, reader)
    true, given = judged.distance[rows], judged.given[rows] & heard
    x = np.linspace(310.0, 370.0, SIDE)
    top = float(measured[given].max(initial=1_000_000.0))
    y = np.linspace(0.05, 1.5, SIDE) * top / 1000
    right = np.zeros((SIDE, SIDE))
    for column, speed in enumerate(each(x.tolist(), progress)):
        good = given & (np.abs(measured * 1e-9 * speed / 2 - true) <= allowed_m(judged, true))
        right[:, column] = np.searchsorted(np.sort(measured[good]) / 1000, y, side="right")
    return Grid(
        "speed_m_s",
        "timeout_us",
        "speed of sound, m/s",
        "give up after, µs",
        x,
        y,
        right / rows.size,
        rows.size,
        "all measurements, also those without an echo",
    )
