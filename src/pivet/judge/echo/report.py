"""Everything about one echo measurement."""

from functools import partial

from pivet.decode.echo import EchoExchanges
from pivet.judge.case import findings_of
from pivet.judge.echo.detail import Measurement, measurement_of
from pivet.judge.echo.judged import JudgedShots, windows_at
from pivet.judge.echo.notices import HEADLINES, Notice
from pivet.judge.echo.pulses import ECHO, TRIGGER, pulses_of
from pivet.judge.echo.tell import TELLERS, Case
from pivet.judge.later import Call, Later
from pivet.judge.neighbours import MANY
from pivet.judge.pulses import Pulse
from pivet.judge.report import (
    NOTHING_MORE,
    Check,
    More,
    Report,
    Stretch,
    Value,
    WindowRow,
    as_float,
    headline_of,
    said,
    stretch,
    window_rows,
)
from pivet.judge.verdict import VERDICTS
from pivet.readings.sound import Vessel
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


def report(exchanges: EchoExchanges, judged: JudgedShots, index: int, wire: str) -> Report:
    """Everything about measurement ``index``.

    Args:
        exchanges: decoded, columns of n exchanges.
        judged: what the judge says of them, as columns.
        index: of the exchange, from 0.
        wire: its name, for people.
    """
    make_pulses = Later(pulses_of, exchanges, judged, index)
    detail = measurement_of(exchanges, judged, index)
    case = Case(exchanges, judged, index, make_pulses, detail)
    findings = findings_of(case, TELLERS)
    verdict = VERDICTS[judged.verdict[index]]
    values = _values(case, detail)
    given = bool(judged.given[index])
    return Report(
        number=index,
        wire=wire,
        sheet=judged.sheet,
        start_ns=int(exchanges.start_ns[index]),
        end_ns=int(exchanges.end_ns[index]),
        verdict=verdict,
        headline=headline_of(verdict, findings, HEADLINES, SOUND),
        data=b"",
        check=Check("none", None, make_says=Call(sound_words, (detail,))),
        readings=values if given else (),
        refused=() if given else values,
        gap="" if values else "No reading: no echo came.",
        findings=findings,
        detail=detail,
        make_pulses=make_pulses,
        make_windows=partial(_windows, judged, detail.speed, index),
        make_stretches=partial(_stretches, values),
        facts=detail.facts,
    )


def _windows(judged: JudgedShots, speed: float, index: int) -> list[WindowRow]:
    most = MANY if judged.air.values.size == 1 else 1  # the echo's hangs on the air
    windows = partial(windows_at, judged.sheet, speed)
    classes, verdicts = judged.classes, judged.window_verdict
    return window_rows(judged, classes, verdicts, windows, index, speed, most=most)


def sound_words(detail: Measurement) -> str:
    """Flight time, speed of sound and what follows, as a person would work it out.

    Args:
        detail: what only an exchange of its family has.
    """
    air = f"{detail.speed:.1f} m/s at {detail.air_c:.1f} °C ({detail.air_from})"
    if detail.flight_us is None or detail.distance_m is None:
        return f"Speed of sound {air}"
    return f"{detail.flight_us:.1f} µs × {air} / 2 = {detail.distance_m:.3f} m"


def _values(case: Case, detail: Measurement) -> tuple[Value, ...]:
    """The distance, and the level that follows from it."""
    if detail.distance_m is None:
        return ()
    distance, judged = detail.distance_m, case.judged
    given = bool(judged.given[case.index])
    value = Value(
        "distance",
        as_float(distance),
        "m",
        f"{distance:.3f}",
        "" if given else case.first_words(REFUSALS, HEADLINES, ""),
        flight_us=detail.flight_us,
        make_about=Call(_about, (detail,)) if given else NOTHING_MORE,
    )
    if judged.vessel is None or not given:
        return (value,)
    steady = distance if detail.median_m is None else detail.median_m
    return (value, *_levels(judged.vessel, steady))


def _about(detail: Measurement) -> More:
    """Flight, and how the last shots were."""
    about = f"flight {detail.flight_us:.1f} µs"
    if detail.median_m is None or detail.spread_m is None:
        return said(about)
    amounts = (Amount("distance", metres, 3) for metres in (detail.median_m, detail.spread_m))
    return said(f"{about}; median of {detail.over}: {{}}, spread {{}}", *amounts)


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
            derived=True,
            make_about=Call(said, (words, *amounts)),
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
