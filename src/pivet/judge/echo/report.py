"""Everything about one echo measurement."""

from functools import partial

import msgspec

from pivet.decode.echo import EchoExchanges
from pivet.decode.interface import ABSENT
from pivet.judge.case import findings_of
from pivet.judge.echo.judged import JudgedShots, windows_at
from pivet.judge.echo.notices import HEADLINES, Notice
from pivet.judge.echo.pulses import ECHO, TRIGGER, pulses_of
from pivet.judge.echo.tell import TELLERS, Case
from pivet.judge.later import Later
from pivet.judge.pulses import Pulse
from pivet.judge.report import (
    AT_ONCE,
    Check,
    Report,
    Stretch,
    Value,
    WindowRow,
    as_float,
    headline_of,
    stretch,
    window_rows,
)
from pivet.judge.verdict import VERDICTS
from pivet.readings.sound import FIXED_SPEED, Vessel
from pivet.readings.units import Amount

SOUND = "Sound: the echo came and every pulse is inside"
REFUSALS = (
    Notice.NOTHING_IN_RANGE,
    Notice.TOO_NEAR,
    Notice.TOO_FAR,
    Notice.CAPTURE_ENDED,
    Notice.SEVERAL_ECHOES,
    Notice.ECHO_RAGGED,
    Notice.NOBODY_ASKED,
)


class Measurement(msgspec.Struct, frozen=True):
    """What only an echo measurement has.

    Attributes:
        flight_us: length of the echo, µs; None without one.
        distance_m: None without an echo.
        air_c, speed: air temperature and speed of sound used, °C and m/s.
        air_from: where the temperature comes from.
        fixed_m: what a fixed 340 m/s would say, m.
        median_m, spread_m: over the last shots; None unless this one may be given.
        over: how many shots at most.
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


def report(exchanges: EchoExchanges, judged: JudgedShots, index: int, wire: str) -> Report:
    """Everything about measurement ``index``.

    Args:
        exchanges: decoded, columns of n exchanges.
        judged: what the judge says of them, as columns.
        index: of the exchange, from 0.
        wire: its name, for people.
    """
    make_pulses = Later(pulses_of, exchanges, judged, index)
    detail = _measurement(exchanges, judged, index)
    case = Case(exchanges, judged, index, make_pulses)
    findings = findings_of(case, TELLERS)
    verdict = VERDICTS[judged.verdict[index]]
    values = _values(case, detail)
    return Report(
        number=index,
        wire=wire,
        sheet=judged.sheet,
        start_ns=int(exchanges.start_ns[index]),
        end_ns=int(exchanges.end_ns[index]),
        verdict=verdict,
        headline=headline_of(verdict, findings, HEADLINES, SOUND),
        data=b"",
        check=Check("none", None, says=sound_words(detail)),
        readings=tuple(value for value in values if not value.reason),
        refused=tuple(value for value in values if value.reason),
        gap="" if values else "No reading: no echo came.",
        findings=findings,
        detail=detail,
        make_pulses=make_pulses,
        make_windows=Later(_windows, judged, detail.speed, index),
        make_stretches=partial(_stretches, values),
        facts=_facts(detail),
    )


def _windows(judged: JudgedShots, speed: float, index: int) -> list[WindowRow]:
    windows = windows_at(judged.sheet, speed)
    at_once = AT_ONCE if judged.air.values.size == 1 else 1  # the echo's hangs on the air
    return window_rows(windows, judged.classes, judged.window_verdict, index, at_once)


def _facts(detail: Measurement) -> dict[str, object]:
    return {
        "flight_us": _rounded(detail.flight_us, 3),
        "air_c": round(detail.air_c, 4),
        "speed_m_s": round(detail.speed, 3),
        "median_m": _rounded(detail.median_m, 6),
        "spread_m": _rounded(detail.spread_m, 6),
    }


def _rounded(value: float | None, places: int) -> float | None:
    return None if value is None else round(value, places)


def sound_words(detail: Measurement) -> str:
    """Flight time, speed of sound and what follows, as a person would work it out.

    Args:
        detail: what only an exchange of its family has.
    """
    air = f"{detail.speed:.1f} m/s at {detail.air_c:.1f} °C ({detail.air_from})"
    if detail.flight_us is None or detail.distance_m is None:
        return f"Speed of sound {air}"
    return f"{detail.flight_us:.1f} µs × {air} / 2 = {detail.distance_m:.3f} m"


def _measurement(exchanges: EchoExchanges, judged: JudgedShots, index: int) -> Measurement:
    flight = int(exchanges.flight_ns[index])
    there = flight != ABSENT
    shot = int(judged.shot_of[index])
    return Measurement(
        flight_us=flight / 1000 if there else None,
        distance_m=float(judged.distance[index]) if there else None,
        air_c=float(judged.air_c[index]),
        speed=float(judged.speed[index]),
        air_from=judged.air.label,
        fixed_m=flight * FIXED_SPEED / 2e9 if there else None,
        median_m=float(judged.shots.median[shot]) if shot >= 0 else None,
        spread_m=float(judged.shots.spread[shot]) if shot >= 0 else None,
        over=judged.shots.over,
    )


def _values(case: Case, detail: Measurement) -> tuple[Value, ...]:
    """The distance, and the level that follows from it."""
    if detail.distance_m is None:
        return ()
    distance, flight = detail.distance_m, detail.flight_us
    text = f"{distance:.3f}"
    judged = case.judged
    if not judged.given[case.index]:
        reason = case.first_words(REFUSALS, HEADLINES, "")
        value = Value("distance", as_float(distance), "m", text, reason, flight_us=flight)
        return (value,)
    about = f"flight {flight:.1f} µs"
    amounts: tuple[Amount, ...] = ()
    if detail.median_m is not None and detail.spread_m is not None:
        about += f"; median of {detail.over}: {{}}, spread {{}}"
        amounts = (
            Amount("distance", detail.median_m, 3),
            Amount("distance", detail.spread_m, 3),
        )
    value = Value(
        "distance", as_float(distance), "m", text, "", about, flight_us=flight, amounts=amounts
    )
    if judged.vessel is None:
        return (value,)
    steady = distance if detail.median_m is None else detail.median_m
    return (value, *_levels(judged.vessel, steady))


def _levels(vessel: Vessel, distance: float) -> tuple[Value, ...]:
    """Level, fill and volume, by the median: a jump is no change of level."""
    level = vessel.level_m(distance)
    share, litres = vessel.share(level) * 100, vessel.litres(level)
    rows: list[tuple[str, float, str, int, str, tuple[Amount, ...]]] = [
        ("level", level, "m", 3, "by the median, {} deep", (_length(vessel.depth_m),)),
        ("fill", share, "%", 1, "full at {}", (_length(vessel.full_m),)),
    ]
    if litres is not None:
        rows.append(("volume", litres, "l", 1, f"{vessel.area_m2:.3f} m² wide", ()))
    return tuple(
        Value(
            quantity,
            as_float(value),
            unit,
            f"{value:.{places}f}",
            "",
            words,
            derived=True,
            amounts=amounts,
        )
        for quantity, value, unit, places, words, amounts in rows
    )


def _length(metres: float) -> Amount:
    """A length that somebody gave, with as many decimals as it has."""
    return Amount("distance", metres, len(f"{metres:g}".partition(".")[2]))


def _stretches(values: tuple[Value, ...], pulses: tuple[Pulse, ...]) -> list[Stretch]:
    text = next((f"{value.text} {value.unit}" for value in values if not value.reason), "echo")
    found = stretch("trigger", "trig.", [pulse for pulse in pulses if pulse.column == TRIGGER])
    return found + stretch(text, "echo", [pulse for pulse in pulses if pulse.column == ECHO])
