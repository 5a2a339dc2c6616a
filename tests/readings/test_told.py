"""Figures over grids: what follows from readings, statistics, agreement, responses, thinning."""

from collections.abc import Iterator

import numpy as np
from msgspec.structs import astuple

from pivet.readings.agreement import agreement, paired
from pivet.readings.correction import by_offset, by_points
from pivet.readings.derived import RULES, Why, derive, why_words
from pivet.readings.limits import Limit, LimitWatch
from pivet.readings.response import model, responses
from pivet.readings.statistics import summarise, usual_interval_ns
from pivet.readings.thermometer import explain, temperatures
from pivet.readings.thinning import Thinner, thinned, ticks
from pivet.readings.units import QUANTITIES, UNITS, UnitChoice, symbol_of
from tests.base import PivetTest
from tests.pages import Page

PAGE = Page(__file__)
S = 10**9


def short(value: float | None) -> str:
    """Six digits."""
    return "-" if value is None else f"{value:.6g}"


def row(values: np.ndarray) -> str:
    """The same for several."""
    return " ".join(short(value) for value in values.tolist())


def derived() -> Iterator[str]:
    """Every rule on a grid, singly as by columns; the reasons."""
    grid = [
        (t, h) for t in (-41.0, -18.0, 11.8, 26.6, 27.0, 35.0, 50.0) for h in (0.5, 12, 78, 100)
    ]
    air, humidity = (np.array(column, dtype=float) for column in zip(*grid, strict=True))
    for name, rule in RULES.items():
        made = derive(rule, air, humidity)
        yield f"{name}: {row(made.values)}"
        yield "  " + "".join(str(int(why)) for why in made.why)
        alone = [derive(rule, air[at : at + 1], humidity[at : at + 1]) for at in range(air.size)]
        same = np.array([one.values[0] for one in alone])
        why = [one.why.tolist() for one in alone] == made.why[:, None].tolist()
        yield f"  singly: {np.allclose(same, made.values, equal_nan=True)} {why}"
        yield from (f"  {why.name}: {why_words(rule, why)}" for why in Why)


def units() -> Iterator[str]:
    """Every unit, and how it can be written."""
    for quantity, dimension in QUANTITIES.items():
        for unit in UNITS[dimension]:
            shown = UnitChoice().with_unit(unit.symbol).of(quantity)
            yield f"{quantity}: {short(12.5 * shown.factor + shown.offset)} {unit} {unit.decimals}"
    yield str([symbol_of(text) for text in ("F", "c", "k", "MM", "rh", "", "x")])
    yield f"{by_offset(-1.5)} {by_points((10.0, 11.0), (90.0, 93.0))}"


def over_time() -> Iterator[str]:
    """Statistics, pairs, agreement, responses, limits."""
    random = np.random.default_rng(11)
    times = np.cumsum(random.integers(1, 9, 6000)) * S
    values = np.round(12 + np.sin(times / (2000 * S)) + random.normal(0, 0.05, times.size), 2)
    values[::37] = np.nan
    for size in (1, 2, 3, 10, 6000):
        found = " ".join(map(short, astuple(summarise(values[:size]))))
        yield f"{size}: every {usual_interval_ns(times[:size]) / S:g} s, {found}"
    reference = 12.3 + 0.1 * times[::50] / (3600 * S) + np.sin(times[::50] / (2000 * S))
    for reach in (None, 4 * S, 400 * S):
        pairs = paired(times, values, times[::50], reference, reach)
        told = agreement(pairs, 0.01, 0.5)
        assert told is not None
        parts = (told.offset, told.offset_error, told.spread, told.drift_per_hour)
        more = (told.drift_error, told.inside_share, told.outlier.sum(), pairs.values.sum())
        yield f"agreement {reach}: {' '.join(map(short, (*parts, *more)))} {told.drifts}"
    at = np.arange(-30.0, 120.0, 1.5)
    for tau, dead in ((4.0, 0.0), (20.0, 5.0), (0.2, 0.0), (900.0, 0.0)):
        course = np.round(model(at, dead, tau, 60.0, 90.0), 1)
        for one in responses(at, course, 0.1):
            measures = (one.tau, one.dead, one.start, one.settled)
            said = " ".join(f"{m.value:z.2f}±{m.error:.1g}" for m in measures if not one.why_not)
            yield f"response {tau} {dead}: {one.phase} {said}{one.why_not}"
    watch = LimitWatch(Limit(low=11.2, high=12.8, hysteresis=0.1, delay_s=20.0))
    yield from (f"{crossing}" for crossing in watch.feed(times[:800], values[:800]))
    for hysteresis, delay in ((0.0, 0.0), (0.05, 0.0), (0.2, 60.0)):
        watch = LimitWatch(Limit(11.2, 12.6, hysteresis, delay))
        for at in range(1500, 2100):
            for one in watch.feed(times[at : at + 1], values[at : at + 1]):
                yield f"one by one {hysteresis} {delay}: {one}"
    thinner = Thinner(times, values)
    for first, last, columns in ((0, 6000, 7), (100, 400, 30), (100, 400, 200), (0, 6000, 2)):
        span = int(times[first]), int(times[last - 1])
        for part in (thinned(times, values, *span, columns), thinner.part(*span, columns)):
            known = np.nansum(part.values)
            yield f"thinned {part.times_ns.size} {short(part.times_ns.mean() / S)} {short(known)}"
        seen = ticks(times, *span, columns)
        yield f"ticks {seen.size} {seen[:8].tolist()} {int(seen.sum())}"


def pads() -> Iterator[str]:
    """Scratchpads of either kind."""
    texts = ("50054b467fff0c101c", "d8ff0002ffffff10b2", "aa004b46ffff0c1087", "07d07f805fff0c1000")
    columns = np.array([list(bytes.fromhex(text)) for text in texts], dtype=np.uint8).T
    for half in (False, True):
        found = temperatures(columns, np.full(len(texts), half))
        yield f"{row(found.values)} {found.resolution.tolist()} {found.possible.tolist()}"
    for text in texts:
        yield from (f"{explain(bytes.fromhex(text), family)}" for family in (0x28, 0x10, None))


def lines() -> Iterator[str]:
    """The page."""
    for part in (derived, units, over_time, pads):
        yield f"# {part.__name__}"
        yield from part()


class Told(PivetTest):
    """Against the page that was last looked through."""

    def test_figure_by_figure(self) -> None:
        PAGE.same(self, lines())
