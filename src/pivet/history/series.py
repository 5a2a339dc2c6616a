"""Series out of histories: under the names of roles, corrected, with what follows from them."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cache, partial

import numpy as np
import numpy.typing as npt

from pivet.families.family import AnyFamily
from pivet.frozen import replace
from pivet.history.wire import TrackHistory, WireHistory
from pivet.judge.notices import first_words
from pivet.person.roles import Roles
from pivet.readings.correction import Correction
from pivet.readings.derived import RULES, Rule, Why, derive, why_words
from pivet.readings.series import Sensor, Series
from pivet.readings.sound import Vessel

NO_READING = "no reading"

Corrections = Mapping[Sensor, Correction]
FloatArray = npt.NDArray[np.float64]
Follows = tuple[Sensor, Callable[[], Series]]
"""A sensor of what follows from others, and how that is made."""


def all_series(
    histories: Sequence[WireHistory],
    roles: Roles,
    corrections: Corrections,
    derived: bool = True,
) -> list[Series]:
    """Every series of some wires, wire by wire; of a wire that comes again one that goes on.

    Args:
        histories: the histories, in order of time where they are of the same wire.
        roles: the person's names of devices.
        corrections: by sensor; they act before anything is derived.
        derived: with what follows from the readings.
    """
    found: dict[Sensor, list[Series]] = {}
    for history in histories:
        for made in wire_series(history, roles):
            found.setdefault(made.sensor, []).append(made)
    joined = [_joined(rows) for rows in found.values()]
    shown = [corrected(one, corrections.get(one.sensor)) for one in joined]
    return [*shown, *derived_series(shown, histories)] if derived else shown


def wire_series(history: WireHistory, roles: Roles) -> list[Series]:
    """The raw series of one wire.

    Args:
        history: all exchanges of the wire, with their tracks.
        roles: names of devices.
    """
    silent = np.flatnonzero(history.notices & np.int64(history.family.silencing))
    return [_series(history, track, silent, roles) for track in history.tracks]


def _series(
    history: WireHistory, track: TrackHistory, silent: npt.NDArray[np.int64], roles: Roles
) -> Series:
    at, values = track.at, track.values
    if silent.size and track.rom:
        more = silent[~np.isin(silent, at)]
        order = np.argsort(np.concatenate([at, more]), kind="stable")
        values = np.concatenate([values, np.full(more.size, np.nan)])[order]
        at = np.concatenate([at, more])[order]
    why, reasons = _reasons(history.family, history.notices[at], np.isnan(values))
    role = roles.holding(track.rom)
    who = track.rom if role is None else role.name
    return Series(
        sensor=Sensor(history.name, who, track.quantity),
        label=f"{history.name}, {who}" if who else history.name,
        sheet=history.sheet,
        times_ns=history.times_ns[at],
        values=values,
        why=why,
        reasons=reasons,
        number=history.number[at],
        part=np.full(at.size, history.part, dtype=np.int32),
        verdict=history.verdict[at],
        decimals=track.decimals,
        rom=track.rom,
    )


def _reasons(
    family: AnyFamily, notices: npt.NDArray[np.int64], failed: npt.NDArray[np.bool_]
) -> tuple[npt.NDArray[np.int16], tuple[str, ...]]:
    """Why readings failed: a number for each, and the words."""
    why = np.zeros(notices.size, dtype=np.int16)
    if not failed.any():
        return why, ("",)
    bits, inverse = np.unique(notices[failed], return_inverse=True)
    words = [reason_words(family, int(bit)) for bit in bits]
    reasons = ("", *dict.fromkeys(words))
    numbers = np.array([reasons.index(word) for word in words], dtype=np.int16)
    why[failed] = numbers[inverse]
    return why, reasons


@cache
def reason_words(family: AnyFamily, bits: int) -> str:
    """What the notices of an exchange without a reading say, in a few words.

    Args:
        family: the family of the wire.
        bits: notices by bit.
    """
    return first_words(bits, family.notices, family.words) or NO_READING


def _joined(rows: Sequence[Series]) -> Series:
    """Series of one sensor, one after the other or among each other, as one."""
    if len(rows) == 1:
        return rows[0]
    reasons = tuple(dict.fromkeys(word for one in rows for word in one.reasons))
    times = np.concatenate([one.times_ns for one in rows])
    order = np.argsort(times, kind="stable")
    whys = [
        np.array([reasons.index(word) for word in one.reasons], dtype=np.int16)[one.why]
        for one in rows
    ]
    return replace(
        rows[-1],
        times_ns=times[order],
        values=np.concatenate([one.values for one in rows])[order],
        why=np.concatenate(whys)[order],
        reasons=reasons,
        number=np.concatenate([one.number for one in rows])[order],
        part=np.concatenate([one.part for one in rows])[order],
        verdict=np.concatenate([one.verdict for one in rows])[order],
    )


def corrected(series: Series, correction: Correction | None) -> Series:
    """A series under a correction; its raw values stay with it.

    Args:
        series: raw, or corrected before.
        correction: None for the raw values.
    """
    if correction is None:
        return series
    return replace(
        series,
        values=correction.applied(series.values),
        raw=series.values,
        correction=correction.text(series.quantity),
    )


def derived_series(
    shown: Sequence[Series], histories: Sequence[WireHistory], wanted: Sensor | None = None
) -> list[Series]:
    """What follows from series; all of it, or only what is wanted.

    Args:
        shown: under their corrections.
        histories: the histories that they were made from.
        wanted: gives only this one, if it follows from the series.
    """
    follows = _following(shown, histories)
    return [make() for sensor, make in follows if wanted is None or sensor == wanted]


def derivable(shown: Sequence[Series], histories: Sequence[WireHistory]) -> list[Sensor]:
    """The sensors of what would follow from series, without making it.

    Args:
        shown: series that are there.
        histories: the histories of the wires from which they are.
    """
    return [sensor for sensor, _ in _following(shown, histories)]


def _following(shown: Sequence[Series], histories: Sequence[WireHistory]) -> Iterator[Follows]:
    by_sensor = {one.sensor: one for one in shown}
    vessels = {history.name: history.vessel for history in histories}
    for own in shown:
        damp = by_sensor.get(replace(own.sensor, quantity="humidity"))
        if own.quantity == "temperature" and damp is not None and len(damp) == len(own):
            for rule in RULES.values():
                sensor = replace(own.sensor, quantity=rule.quantity)
                yield sensor, partial(climate, rule, own, damp)
        vessel = vessels.get(own.sensor.wire)
        if vessel is not None and own.quantity in ("distance", "level"):
            yield from _of_vessel(own, vessel)


def climate(rule: Rule, temperature: Series, humidity: Series) -> Series:
    """A quantity that follows from temperature and humidity of the same exchanges.

    Args:
        rule: what follows, and how.
        temperature: the temperature of the same sensor, °C.
        humidity: the humidity of the same sensor, %RH.
    """
    made = derive(rule, temperature.values, humidity.values)
    why = temperature.why.copy()
    # The first reasons stay those of the readings that failed.
    base = len(temperature.reasons)
    own = (made.why != Why.GIVEN) & (made.why != Why.NOT_READ)
    why[own] = base + made.why[own]
    return replace(
        temperature,
        sensor=replace(temperature.sensor, quantity=rule.quantity),
        values=made.values,
        why=why,
        reasons=(*temperature.reasons, *(why_words(rule, reason) for reason in Why)),
        decimals=rule.decimals,
        raw=None,
        correction=_followed(temperature, humidity),
        derived=True,
    )


def _followed(*rows: Series) -> str:
    """The corrections that a derived quantity rests on."""
    return ", ".join(f"{one.quantity} {one.correction}" for one in rows if one.correction)


def _of_vessel(row: Series, vessel: Vessel) -> Iterator[Follows]:
    """Level, share and volume of what a vessel holds."""

    def level() -> FloatArray:
        if row.quantity == "level":
            return row.values
        return np.maximum(vessel.depth_m - row.values, 0.0)

    def follows(quantity: str, values: Callable[[], FloatArray], decimals: int) -> Follows:
        sensor = replace(row.sensor, quantity=quantity)
        return sensor, lambda: _made(row, sensor, values(), decimals)

    if row.quantity == "distance":
        yield follows("level", level, row.decimals)
    yield follows("fill", lambda: 100 * level() / vessel.full_m, 1)
    if vessel.area_m2:
        area_m2 = vessel.area_m2
        yield follows("volume", lambda: level() * area_m2 * 1000, 0)


def _made(row: Series, sensor: Sensor, values: FloatArray, decimals: int) -> Series:
    return replace(
        row,
        sensor=sensor,
        values=values,
        decimals=decimals,
        raw=None,
        correction=_followed(row),
        derived=True,
    )
