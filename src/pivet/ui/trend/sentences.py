"""The Trend view in words: values at a moment, responses to a mark."""

from collections.abc import Iterator
from html import escape

from pivet.history.sentences import whole_moment
from pivet.judge.wording import seconds
from pivet.person.annotations import Mark
from pivet.readings.response import Measure, Phase, Response
from pivet.readings.series import Series
from pivet.readings.statistics import reach_ns
from pivet.readings.units import UnitChoice
from pivet.ui.readings.lines import label_of


def moment_text(at_ns: int, clock: bool) -> str:
    """A moment on the time axis."""
    return whole_moment(at_ns) if clock else seconds(at_ns)


def value_at(series: Series, at_ns: int, units: UnitChoice) -> str:
    """What a series says at a moment, or why it says nothing."""
    row = series.nearest(at_ns)
    if row is None:
        return "–"
    if abs(int(series.times_ns[row]) - at_ns) > reach_ns(series.times_ns):
        return "not asked"
    if series.why[row]:
        return series.why_text(row)
    value = units.text(series.quantity, float(series.values[row]), series.decimals)
    return f"{value} {units.of(series.quantity).symbol}"


def measure_text(measure: Measure, unit: str) -> str:
    """A figure with its uncertainty, with as many decimals as that one has."""
    places = 0
    while places < 4 and measure.error and measure.error * 10**places < 0.95:
        places += 1
    return f"{measure.value:.{places}f} ± {measure.error:.{places}f} {unit}"


PHASES = {Phase.ANSWER: "answer", Phase.RETURN: "return"}


def response_rows(series: Series, found: list[Response], units: UnitChoice) -> Iterator[str]:
    """How one series follows a mark, as lines of rich text."""
    yield f"<b>{escape(label_of(series.sensor))}</b>, {series.quantity}"
    unit = units.of(series.quantity)
    for response in found:
        name = PHASES[response.phase]
        if response.why_not:
            yield f"{name}: {response.why_not}"
            continue
        settled = Measure(
            units.shown(series.quantity, response.settled.value),
            response.settled.error * unit.factor,
        )
        after = f", begins {response.begin_s:.3g} s after the mark" if response.begin_s else ""
        yield f"{name}: time constant <b>{measure_text(response.tau, 's')}</b>{after}"
        yield (
            f"dead time {measure_text(response.dead, 's')}, settles at "
            f"{measure_text(settled, unit.symbol)}"
        )


def mark_when(mark: Mark, clock: bool) -> str:
    """When a mark was."""
    return moment_text(mark.at_ns, clock)
