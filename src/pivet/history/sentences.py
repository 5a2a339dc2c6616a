"""Figures of readings in words, for the terminal and the clipboard."""

import math
from collections.abc import Iterator, Sequence
from datetime import datetime

from pivet.history.reliability import LEAST_SEEN, Reliability
from pivet.judge.verdict import Verdict
from pivet.judge.wording import count, seconds
from pivet.readings.series import Series
from pivet.readings.statistics import summarise
from pivet.readings.units import UnitChoice

MOST_REASONS = 4


def lasting(passed_s: float) -> str:
    """A stretch of time as a person would say it.

    Args:
        passed_s: how long, s.
    """
    if math.isnan(passed_s):
        return "–"
    if passed_s < 119.5:
        return f"{passed_s:.3g} s"
    if passed_s < 7200:
        return f"{passed_s / 60:.0f} min"
    if passed_s < 172_800:
        return f"{passed_s / 3600:.1f} h"
    return f"{passed_s / 86_400:.0f} days"


def moment(at_ns: int, clock: bool) -> str:
    """A moment of readings, short.

    Args:
        at_ns: since 1970 where ``clock``, else since the capture began.
        clock: whether the calendar is known.
    """
    if not clock:
        return seconds(at_ns)
    return f"{datetime.fromtimestamp(at_ns / 1e9):%Y-%m-%d %H:%M}"


DAYS = "Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"
MONTHS = "Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"
"""As the other words are: what the system calls them is of another language."""


def day_text(at: datetime) -> str:
    """A day of the year, ``8 Mar``.

    Args:
        at: a moment of it.
    """
    return f"{at.day} {MONTHS[at.month - 1]}"


def whole_moment(at_ns: int) -> str:
    """A moment of the local time to the second, ``Sun 8 Mar 2026, 04:59:58``.

    Args:
        at_ns: since 1970, ns.
    """
    at = datetime.fromtimestamp(at_ns / 1e9)
    return f"{DAYS[at.weekday()]} {day_text(at)} {at:%Y, %H:%M:%S}"


def percent(share: float) -> str:
    """A share: never 100 % or 0 % when it is not quite.

    Args:
        share: 0 to 1.
    """
    text = f"{100 * share:.1f}"
    if text == "100.0" and share < 1:
        text = "99.9"
    if text == "0.0" and share > 0:
        text = "0.1"
    return f"{text.removesuffix('.0')} %"


def sentence(words: str) -> str:
    """Words with a capital at their beginning.

    Args:
        words: the words.
    """
    return words[:1].upper() + words[1:]


def reliability_lines(told: Reliability, clock: bool) -> Iterator[str]:
    """How reliable a wire was.

    Args:
        told: of one wire.
        clock: whether the calendar is known.
    """
    shares = " · ".join(
        f"{verdict.title} {percent(told.share(verdict))}"
        for verdict in Verdict
        if told.counts[verdict]
    )
    yield f"{told.name}, {told.sheet}: {count(told.count, 'exchange')}; {shares or 'none'}"
    if told.reasons:
        rows = ", ".join(f"{words} {seen}×" for words, seen in told.reasons[:MOST_REASONS])
        yield f"  noticed: {rows}"
    worst = worst_hour(told, clock)
    if worst:
        yield f"  {worst}"
    gap = f"longest gap {lasting(told.gap_s)} from {moment(told.gap_ns, clock)}"
    kept = "" if math.isnan(told.every_s) else f"asked every {lasting(told.every_s)}, "
    yield f"  {kept}{gap}, {count(told.retries, 'retry', 'retries')}"
    if told.margin_number >= 0:
        where = f"exchange {told.margin_number}"
        yield f"  least margin {margin_text(told.margin)}, {where}"
    if told.advice:
        yield f"  {told.advice}"


def margin_text(share: float) -> str:
    """A least margin in words.

    Args:
        share: 0 to 1; negative where a pulse was outside.
    """
    return (
        "none: a pulse was outside" if share < 0 else f"{percent(share)} of the way from its limit"
    )


def worst_hour(told: Reliability, clock: bool) -> str:
    """The hour in which most was unsound, if that stands out; else empty.

    Args:
        told: of one wire.
        clock: whether the calendar is known.
    """
    bad = told.hours.counts[:, Verdict.UNSOUND]
    if bad.size < 2:
        return ""
    at = int(bad.argmax())
    if int(bad[at]) < LEAST_SEEN or 2 * int(bad[at]) < int(bad.sum()):
        return ""
    begin = moment(int(told.hours.begin_ns[at]), clock)
    heard, reason = count(int(told.hours.counts[at].sum()), "exchange"), told.hours.reasons[at]
    return f"{bad[at]} of {heard} unsound in the hour from {begin}, most often {reason}"


def summary_lines(series: Sequence[Series], units: UnitChoice) -> Iterator[str]:
    """What the readings of some series are like, a line each.

    Args:
        series: each with its values, float64 (n,).
        units: the units in which it is said.
    """
    for one in series:
        figures = summarise(one.values)
        who = f"{one.sensor.who}, " if one.sensor.who else ""
        unit = units.of(one.quantity).symbol
        head = f"  {who}{one.quantity}"
        if not figures.given:
            yield f"{head}: no reading of {figures.count}"
            continue

        def text(value: float, series: Series = one) -> str:
            return units.text(series.quantity, value, series.decimals)

        fixed = f", corrected {one.correction}" if one.correction else ""
        yield (
            f"{head}: {text(figures.least)} to {text(figures.most)} {unit}, "
            f"mean {text(figures.mean)}{_spread(one, figures.spread, units)}, "
            f"{figures.given} of {figures.count}{fixed}"
        )


def _spread(series: Series, spread: float, units: UnitChoice) -> str:
    """A spread in words; a single value has none."""
    if math.isnan(spread):
        return ""
    places = units.decimals(series.quantity, series.decimals) + 1
    return f", spread {units.shown_difference(series.quantity, spread):.{places}f}"
