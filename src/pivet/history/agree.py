"""A sensor against a reference: another wire, typed values, or the log of an instrument."""

from collections.abc import Callable, Iterator

import numpy as np

from pivet.errors import InputError
from pivet.frozen import FrozenObject
from pivet.history.sentences import percent
from pivet.judge.verdict import Verdict
from pivet.person.annotations import Reference
from pivet.readings.accuracy import stated_accuracy
from pivet.readings.agreement import Agreement, agreement, paired
from pivet.readings.correction import Correction, by_offset
from pivet.readings.series import Sensor, Series
from pivet.readings.units import UnitChoice
from pivet.sheets.load import find_sheet


class Comparison(FrozenObject):
    """A sensor and its reference.

    Attributes:
        series: the series of the sensor.
        name: the name of the reference.
        found: the figures; None when no two readings belong together.
        own, other: stated accuracies, plus or minus, in the kept unit; None when not stated.
    """

    series: Series
    name: str
    found: Agreement | None
    own: float | None
    other: float | None


def accuracy_of(series: Series) -> float | None:
    """What the maker promises where the sensor measures mostly; None when nothing is promised.

    Args:
        series: readings of one sensor.
    """
    given = series.values[series.given]
    if not given.size or series.derived:
        return None
    try:
        sheet = find_sheet(series.sheet)
    except InputError:
        return None
    middle = float(np.median(given if series.raw is None else series.raw[series.given]))
    return stated_accuracy(sheet, series.quantity, middle, series.rom)


def against_series(series: Series, reference: Series) -> Comparison:
    """A sensor against another one of the same dimension.

    Args:
        series: the series that is examined.
        reference: the reference that is believed.
    """
    pairs = paired(series.times_ns, series.values, reference.times_ns, reference.values)
    own, other = accuracy_of(series), accuracy_of(reference)
    name = f"{reference.label}, {reference.quantity}"
    return _compared(series, name, agreement(pairs, _step(series), _both(own, other)), own, other)


def against_reference(series: Series, reference: Reference) -> Comparison:
    """A sensor against typed values or the log of an instrument.

    A value that was typed counts for a while about its moment, no further.

    Args:
        series: the series that is examined.
        reference: values of an instrument, with their times, ns.
    """
    reach = REACH_NS if reference.times_ns.size < 3 else None
    times, values = reference.times_ns, reference.values
    if times.size < 3:
        times = np.concatenate([times - REACH_NS, times + REACH_NS])
        order = np.argsort(times, kind="stable")
        times, values = times[order], np.concatenate([values, values])[order]
        reach = 2 * REACH_NS
    pairs = paired(series.times_ns, series.values, times, values, reach)
    own = accuracy_of(series)
    allowed = _both(own, reference.accuracy)
    found = agreement(pairs, _step(series), allowed)
    return _compared(series, reference.name, found, own, reference.accuracy)


def compared(
    series_of: Callable[[Sensor], Series | None], sensor: Sensor, other: Sensor | Reference
) -> Comparison | None:
    """A sensor against another or a reference; None where one of them has no readings.

    Args:
        series_of: gives the readings of a sensor.
        sensor: the sensor that is compared.
        other: with which it is compared.
    """
    series = series_of(sensor)
    if series is None:
        return None
    if isinstance(other, Reference):
        return against_reference(series, other)
    reference = series_of(other)
    return None if reference is None else against_series(series, reference)


REACH_NS = 60_000_000_000
"""A typed value counts for a minute to either side."""


def _compared(
    series: Series,
    name: str,
    found: Agreement | None,
    own: float | None,
    other: float | None,
) -> Comparison:
    return Comparison(series, name, found, own, other)


def _both(own: float | None, other: float | None) -> float | None:
    return None if own is None or other is None else own + other


def _step(series: Series) -> float:
    return float(10.0**-series.decimals)


def suggested(comparison: Comparison, before: Correction | None) -> Correction | None:
    """The offset that takes the mean difference away, on top of a correction that acts now.

    Args:
        comparison: with its mean difference.
        before: the correction that acts now.
    """
    if comparison.found is None:
        return None
    offset = -comparison.found.offset
    if before is None:
        return by_offset(round(offset, 4))
    return Correction(before.gain, before.offset + offset, before.points)


def verdict_of(comparison: Comparison) -> Verdict:
    """How the difference stands against what both sheets allow.

    Args:
        comparison: the comparison of a sensor and what it is held against.
    """
    found = comparison.found
    if found is None or found.inside is None:
        return Verdict.UNKNOWN
    return Verdict.SOUND if found.inside else Verdict.UNSOUND


def headline(comparison: Comparison, units: UnitChoice) -> str:
    """One sentence: does the difference lie inside both stated accuracies?

    Args:
        comparison: of two of one dimension.
        units: the units in which it is said.
    """
    found, quantity = comparison.found, comparison.series.quantity
    unit = units.of(quantity).symbol
    if found is None:
        return "No two readings stand close enough in time to be compared."
    if found.allowed is None:
        which = "this sensor" if comparison.own is None else "the reference"
        return f"Nobody can tell whether that is allowed: no accuracy is stated for {which}."

    def size(value: float | None) -> str:
        return f"{units.shown_difference(quantity, value or 0.0):.3g}"

    stated = (
        f"±{size(comparison.own)} and ±{size(comparison.other)}, "
        f"together ±{size(found.allowed)} {unit}"
    )
    share = percent(found.inside_share or 0.0)
    if found.inside:
        return f"The difference lies inside what both sheets allow ({stated}): {share} of it."
    few = f"only {share} lies inside" if found.inside_share else "nothing lies inside"
    return f"They differ by more than both sheets allow ({stated}): {few}."


def figure_rows(comparison: Comparison, units: UnitChoice) -> Iterator[tuple[str, str]]:
    """The figures: what, and how much.

    Args:
        comparison: of two of one dimension.
        units: the units in which they are said.
    """
    found, quantity = comparison.found, comparison.series.quantity
    if found is None:
        return
    unit = units.of(quantity).symbol
    places = units.decimals(quantity, comparison.series.decimals) + 1

    def text(value: float, sign: str = "") -> str:
        return f"{units.shown_difference(quantity, value):{sign}z.{places}f}"

    yield "offset", f"{text(found.offset, '+')} ± {text(found.offset_error)} {unit}"
    yield "spread", f"{text(found.spread)} {unit}"
    if found.drift_per_hour is None or found.drift_error is None:
        yield "drift", "too little to tell"
    else:
        drift = f"{text(found.drift_per_hour, '+')} ± {text(found.drift_error)} {unit}/h"
        yield "drift", drift if found.drifts else f"none to be seen ({drift})"
    outliers = int(found.outlier.sum())
    yield "outliers", f"{outliers} of {len(found.pairs):,}"
