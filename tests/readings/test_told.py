"""Figures over grids: what follows from readings, statistics, agreement, responses, thinning."""

from collections.abc import Iterator

import numpy as np
from msgspec.structs import astuple

from pivet.errors import InputError
from pivet.readings.agreement import Agreement, agreement, paired
from pivet.readings.correction import by_offset, by_points
from pivet.readings.derived import RULES, Why, derive, heat_index, why_words
from pivet.readings.limits import Limit, LimitWatch
from pivet.readings.response import model, responses
from pivet.readings.statistics import summarise, usual_interval_ns
from pivet.readings.thermometer import explain, temperatures
from pivet.readings.thinning import Thinner, thinned, ticks
from pivet.readings.units import QUANTITIES, UNITS, UnitChoice, chosen_symbols, symbol_of
from pivet.readings.values import quantity
from pivet.sheets.load import sheets_of
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
        yield f"  two: {row(derive(rule, air[8:10], humidity[8:10]).values)}"
        yield from (f"  {why.name}: {why_words(rule, why)}" for why in Why)


def heat() -> Iterator[str]:
    """Where dry and damp air are told apart."""
    for humidity in (3.0, 12.9, 13.0, 85.0, 85.1, 99.0):
        air = np.array([26.0, 26.6, 26.7, 28.0, 30.5, 30.6, 34.9, 35.1, 41.0, 44.4, 44.5])
        yield f"{humidity} %: {row(heat_index(air, np.full(air.size, humidity)))}"


def units() -> Iterator[str]:
    """Every unit, and how it can be written."""
    for name, dimension in QUANTITIES.items():
        for unit in UNITS[dimension]:
            shown = UnitChoice().with_unit(unit.symbol).of(name)
            yield f"{name}: {short(12.5 * shown.factor + shown.offset)} {unit} {unit.decimals}"
    yield str(chosen_symbols())
    yield str([symbol_of(text) for text in ("F", "c", "k", "MM", "rh", "", "x")])
    yield f"{by_offset(-1.5)} {by_points((10.0, 11.0), (90.0, 93.0))}"
    for points in (((0.0, 5.0), (9.0, 5.0)), ((0.0, 0.0), (9.0, 4.5)), ((9.0, 1.0), (9.0, 4.5))):
        try:
            yield f"{by_points(*points)}"
        except InputError as error:
            yield f"{error}"


def over_time() -> Iterator[str]:
    """Statistics, pairs, agreement, responses, limits, what is drawn."""
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
    yield from _watched(times, values)
    thinner = Thinner(times, values)
    for first, last, columns in ((0, 6000, 7), (100, 400, 30), (100, 400, 200), (0, 6000, 2)):
        span = int(times[first]), int(times[last - 1])
        for part in (thinned(times, values, *span, columns), thinner.part(*span, columns)):
            known = np.nansum(part.values)
            yield f"thinned {part.times_ns.size} {int(part.times_ns.sum())} {short(known)}"
        seen = ticks(times, *span, columns)
        yield f"ticks {seen.size} {seen[:8].tolist()} {int(seen.sum())}"


def _watched(times: np.ndarray, values: np.ndarray) -> Iterator[str]:
    """Limits over them: all at once, one by one; such as make no sense."""
    watch = LimitWatch(Limit(low=11.2, high=12.8, hysteresis=0.1, delay_s=20.0))
    yield from (f"{crossing}" for crossing in watch.feed(times[:800], values[:800]))
    for hysteresis, delay in ((0.0, 0.0), (0.05, 0.0), (0.2, 60.0)):
        watch = LimitWatch(Limit(11.2, 12.6, hysteresis, delay))
        for at in range(1500, 2100):
            for one in watch.feed(times[at : at + 1], values[at : at + 1]):
                yield f"one by one {hysteresis} {delay}: {one}"
    for lines in ((None, None), (5.0, 5.0), (1.0, 2.0, 1.0), (2.0, 7.0, 6.0), (1.0, None, -1.0)):
        try:
            yield f"{Limit(*lines)}"
        except InputError as error:
            yield f"{error}"


def partners() -> Iterator[str]:
    """Readings about those of a reference, of which one failed and two are far apart."""
    there, at = np.array([0, 10, 20, 30, 90, 100, 110]) * S, np.arange(-3, 118, 1) * S
    reference = np.array([1.0, 2.0, np.nan, 4.0, 5.0, 6.0, 9.0])
    for first, reach in ((0, None), (0, 7 * S), (0, 60 * S), (6, None), (5, 2 * S)):
        found = paired(at, at / S, there[first:], reference[first:], reach)
        yield f"from {first} within {reach}: {row(found.values)} | {row(found.reference)}"


def courses() -> Iterator[str]:
    """Differences that begin to drift, and tell so; too few, too short, without a spread."""
    random = np.random.default_rng(5)
    noise = random.normal(0, 0.3, 400)
    sizes = ((2, 60), (3, 60), (12, 60), (13, 600), (16, 120), (16, 119), (17, 600), (400, 10))
    for count, every in sizes:
        times = (np.arange(count, dtype=np.int64) * every + 10**9) * S
        for slope in (0.0, 0.02, 0.1, 0.4):
            there = np.full(count, 20.0)
            values = there + slope * (times - times[0]) / (3600 * S) + noise[:count]
            told = agreement(paired(times, values, times, there), 0.5, 0.3)
            yield f"{count} every {every} s, {slope}: {told and _agreed(told)}"
    for wild in (0.0, 0.9, 1.5, 4.0):
        values = 20 + noise[:40]
        values[7] += wild
        there, times = np.full(40, 20.0), np.arange(40) * 60 * S
        for own in (0.05, 0.3):
            told = agreement(paired(times, values, times, there), own, 0.3 if own > 0.1 else None)
            yield f"one off by {wild}, {own}: {told and _agreed(told)}"


def _agreed(told: Agreement) -> str:
    figures = (told.offset, told.offset_error, told.spread, told.drift_per_hour, told.drift_error)
    more = (told.allowed, told.inside_share)
    outliers = np.flatnonzero(told.outlier).tolist()
    return f"{' '.join(map(short, (*figures, *more)))} {outliers} {told.inside} {told.drifts}"


def steps() -> Iterator[str]:
    """Responses with noise, of few readings, that begin at once, that go on."""
    random = np.random.default_rng(3)
    for every, before, span in ((2.0, 20.0, 160.0), (10.0, 60.0, 200.0)):
        at = np.arange(-before, span, every)
        for tau, dead, noise, step in (
            (20.0, 0.0, 0.2, 0.1),
            (35.0, 6.0, 1.0, 1.0),
            (3.0, 0.0, 0.05, 0.1),
            (90.0, 0.0, 3.0, 0.1),
        ):
            clean = model(at, dead, tau, 61.0, 88.0)
            for values in (clean, 150 - clean, clean * (1 + 0.1 * np.sin(at / 9))):
                course = np.round((values + random.normal(0, noise, at.size)) / step) * step
                for one in responses(at, course, step):
                    measures = (one.tau, one.start, one.settled)
                    said = " ".join(f"{m.value:.0f}±{m.error:.1g}" for m in measures)
                    where = f"{one.phase} {one.begin_s:g} {one.end_s:g}"
                    yield f"every {every} s, {tau} {dead} {noise}: {where} {one.why_not or said}"

    for before, after in ((0, 30), (1, 30), (2, 30), (3, 0), (3, 1), (3, 4), (3, 5), (3, 6)):
        at = np.arange(1.0 - before, 1.0 + after)
        (one, *_) = responses(at, np.where(at > 0, 9.0 - 4 * np.exp(-at / 2), 5.0), 0.1)
        where = f"{one.begin_s:g} to {one.end_s:g}"
        yield f"{before} before, {after} after, {where}: {one.why_not or one.readings}"


def holes() -> Iterator[str]:
    """Where what is drawn of a series breaks off."""
    times = np.array([0, 1, 2, 3, 14, 15, 16, 17, 18, 90, 91, 92, 93, 94, 95, 96], np.int64) * S
    values = np.arange(times.size, dtype=float)
    values[6] = np.nan
    for columns in (40, 5, 3, 1):
        for first, last in ((0, 96), (2, 15), (4, 13), (30, 60), (97, 99)):
            part = thinned(times, values, first * S, last * S, columns)
            yield f"{columns}, {first}..{last}: {row(part.times_ns / S)} | {row(part.values)}"
    for count in (1, 2, 3, 4, 9):
        yield f"{count}: {short(usual_interval_ns(times[:count]) / S)} s"


def frames() -> Iterator[str]:
    """What each sheet makes of any bytes."""
    packed = np.random.default_rng(9).integers(0, 256, (5, 3000), dtype=np.uint8)
    packed[:, ::2] &= np.uint8(0x83)
    for sheet in sheets_of("humidity-frame"):
        for rule in sheet.values:
            made = quantity(rule, packed)
            there = [int(np.count_nonzero(row)) for row in (made.possible, made.in_range)]
            turned = int(np.count_nonzero(made.other_sign))
            known = made.values[made.possible]
            rows = known[:6].tolist()
            yield f"{sheet.id} {rule.quantity}: {there} {turned} {short(known.sum())} {rows}"


def pads() -> Iterator[str]:
    """Scratchpads of either kind."""
    texts = (
        *("50054b467fff0c101c", "d8ff0002ffffff10b2", "aa004b46ffff0c1087", "07d07f805fff0c1000"),
        *("2b004b46ffff000100", "2b004b46ffff0c0000", "2b004b46ffff010200"),
    )
    columns = np.array([list(bytes.fromhex(text)) for text in texts], dtype=np.uint8).T
    for half in (False, True):
        found = temperatures(columns, np.full(len(texts), half))
        yield f"{row(found.values)} {found.resolution.tolist()} {found.possible.tolist()}"
    for text in texts:
        yield from (f"{explain(bytes.fromhex(text), family)}" for family in (0x28, 0x10, None))
    for count in range(1, 9):
        yield from (f"{explain(bytes.fromhex(texts[0])[:count], code)}" for code in (0x28, 0x10))


def lines() -> Iterator[str]:
    """The page."""
    for part in (derived, heat, units, over_time, partners, courses, steps, holes, frames, pads):
        yield f"# {part.__name__}"
        yield from part()


class Told(PivetTest):
    """Against the page that was last looked through."""

    def test_figure_by_figure(self) -> None:
        PAGE.same(self, lines())
