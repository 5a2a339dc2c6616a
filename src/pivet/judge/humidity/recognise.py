"""Which sheet a wire's humidity exchanges fit, and whether they are any at all."""

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from pivet.decode.checks import sum8
from pivet.decode.humidity import HumidityExchanges, Mark, layout
from pivet.decode.interface import ABSENT, WIDEST_NS
from pivet.judge.chapter import CHAPTER
from pivet.judge.humidity.classes import PulseClasses, sort_pulses
from pivet.judge.humidity.clock import fit_clock
from pivet.readings.values import quantity
from pivet.sheets.load import sheets_of
from pivet.sheets.model import Sheet

LOOKED_AT = 2 * CHAPTER
"""So many exchanges settle which sheet fits: those that a live wire has in sight at first."""

LEAST_BITS = 8
LEAST_SHARE = 0.02
CUT_SHARE = 0.8
CUT_ASK_NS = 500 * layout.US
"""A line is a humidity wire when this share of its segments look like answers, and one of them is
a whole frame; if all are cut short, nearly all that have bits must look so, after asks of a
length that brings answers."""

BYTES_WEIGHT, ASK_WEIGHT, TIME_WEIGHT = 4.0, 1.0, 2.0
ASK_FACTOR = 1000.0
"""An ask this much longer or shorter than typical says nothing for a sheet any more: even one
of µs for ms tells 1 from 20."""

WORST_MISFIT = 0.15
"""Relative misfit at which timing says nothing for a sheet any more."""

CLEARLY = 0.25
"""A sheet fits clearly better when its score is this much higher."""

ALIKE = 0.4
MOST_IN_LOWS = 3.0
SHAPELY = 0.85
"""Bit lows within 40 % of their median, highs under three lows, in 85 % of the bits."""

FEW_MORE = 16
"""A frame ends; one that runs on for longer is something else, a serial line for instance."""

BIT_LOW_NS = (30 * layout.US, 80 * layout.US)
ASK_ONLY_NS = (layout.ASK_LEAST_NS, 500 * layout.MS)
REST_NS = 20 * layout.MS
"""A line of lone lows of this length, each followed by this much rest, may be asks without
an answer."""


@dataclass(frozen=True, slots=True)
class Fit:
    """How well one sheet fits.

    Attributes:
        sheet: the sheet.
        score: the higher the better.
    """

    sheet: Sheet
    score: float


@dataclass(frozen=True, slots=True)
class Ranking:
    """How well all sheets fit a wire.

    Attributes:
        fits: the best first.
        settled: a whole frame was seen.
    """

    fits: tuple[Fit, ...]
    settled: bool

    @property
    def best(self) -> Sheet:
        """The sheet that fits best."""
        return self.fits[0].sheet

    def better_than(self, sheet: Sheet) -> Sheet | None:
        """The sheet that fits clearly better than another; None when there is none."""
        own = next(fit.score for fit in self.fits if fit.sheet.id == sheet.id)
        return self.best if self.settled and self.fits[0].score > own + CLEARLY else None


def looks_answered(exchanges: HumidityExchanges) -> bool:
    """Whether a line carries answers of humidity sensors.

    Frames count whose answer and bits have the shape of a frame: bit lows all alike, the
    answer's low longer by its factor, no high out of all proportion.
    """
    rows = np.flatnonzero(exchanges.bit_count >= LEAST_BITS)
    if not rows.size:
        return False
    stride = rows.size // LOOKED_AT + 1
    rows = rows[::stride]
    sample = exchanges.pick(rows)
    lows, highs = sample.lows_ns, sample.highs_ns
    got = lows != ABSENT
    low = _medians(lows, sample.bit_count)
    answer_low = sample.widths_ns[layout.ANSWER_LOW]
    answer_high = sample.widths_ns[layout.ANSWER_HIGH]
    alike = np.abs(lows - low) < ALIKE * low
    in_proportion = highs < MOST_IN_LOWS * low
    ends = sample.pulse_count <= layout.PULSES + FEW_MORE
    shape = ends & (((alike & in_proportion) | ~got).mean(axis=0) >= SHAPELY)
    fits = shape & (low >= BIT_LOW_NS[0]) & (low <= BIT_LOW_NS[1])
    fits &= (answer_low >= layout.ANSWER_OVER_BIT * low) & (answer_low <= layout.ANSWER_LOW_NS[1])
    fits &= (answer_high >= layout.ANSWER_HIGH_NS[0]) & (answer_high <= layout.ANSWER_HIGH_NS[1])
    found = int(np.count_nonzero(fits))
    enough = stride * found >= max(LEAST_SHARE * len(exchanges), 1)
    whole = bool((fits & (sample.bit_count == layout.BITS)).any())
    asked = found > 0 and _middle(sample.ask_ns[fits]) >= CUT_ASK_NS
    return enough and (whole or (asked and found >= CUT_SHARE * rows.size))


def _medians(lows: npt.NDArray[np.int32], count: npt.NDArray[np.int8]) -> npt.NDArray[np.int32]:
    """Median of each exchange's bit lows, int32 (n,), ns."""
    ordered = np.sort(np.where(lows == ABSENT, WIDEST_NS, lows), axis=0)
    middle = np.maximum(count.astype(np.int64) // 2, 0)[None, :]
    medians: npt.NDArray[np.int32] = np.take_along_axis(ordered, middle, axis=0)[0]
    return medians


def looks_asked(exchanges: HumidityExchanges) -> bool:
    """Whether a line carries asks of the length for humidity sensors, and nothing else."""
    if not len(exchanges) or exchanges.stray_edges.size:
        return False
    asks = exchanges.ask_ns
    alone = bool((exchanges.pulse_count <= 1).all())
    fits = (asks >= ASK_ONLY_NS[0]) & (asks <= ASK_ONLY_NS[1])
    rested = np.diff(exchanges.start_ns) - asks[:-1] >= REST_NS
    return alone and bool(fits.all()) and bool(rested.all())


def rank_sheets(exchanges: HumidityExchanges) -> Ranking:
    """All humidity sheets, the best fitting first.

    The first exchanges settle it where a whole frame is among them: what comes later says no more.
    """
    early = exchanges.rows(0, LOOKED_AT)
    if (early.bit_count == layout.BITS).any():
        exchanges = early
    sample = _sample(exchanges)
    classes = sort_pulses(sample)
    fits = [Fit(sheet, _score(sample, classes, sheet)) for sheet in sheets_of("humidity")]
    whole = bool((sample.bit_count == layout.BITS).any())
    return Ranking(tuple(sorted(fits, key=lambda fit: -fit.score)), whole)


def _sample(exchanges: HumidityExchanges) -> HumidityExchanges:
    """Some whole frames, those whose sum holds if there are any; else whatever there is."""
    whole = exchanges.bit_count == layout.BITS
    packed = exchanges.packed
    holds = whole & (sum8(packed[:4]) == packed[4]) & packed.any(axis=0)
    for mask in (holds, whole, exchanges.bit_count > 0):
        if mask.any():
            return exchanges.pick(np.flatnonzero(mask)[:LOOKED_AT])
    return exchanges.rows(0, LOOKED_AT)


def _score(sample: HumidityExchanges, classes: PulseClasses, sheet: Sheet) -> float:
    if not len(sample):
        return 0.0
    score = ASK_WEIGHT * _ask_share(sample, sheet)
    if (sample.bit_count == layout.BITS).all():
        score += BYTES_WEIGHT * _value_share(sample, sheet)
    if (sample.bit_count >= LEAST_BITS).any():
        score += TIME_WEIGHT * _time_share(classes, sheet)
    return score


def _ask_share(sample: HumidityExchanges, sheet: Sheet) -> float:
    """1 when all asks are typical, less the more often they are longer or shorter."""
    seen = (sample.marks & (Mark.ASK_UNSEEN | Mark.ASK_CLIPPED)) == 0
    if not seen.any():
        return 0.0
    asks_us = sample.ask_ns[seen] / 1000
    off = np.abs(np.log(asks_us / sheet.windows["ask"].typ_us))
    return float(1 - np.minimum(off / np.log(ASK_FACTOR), 1).mean())


def _value_share(sample: HumidityExchanges, sheet: Sheet) -> float:
    rows = [quantity(rule, sample.packed) for rule in sheet.values]
    possible = np.logical_and.reduce([row.possible for row in rows])
    in_range = np.logical_and.reduce([row.possible & row.in_range for row in rows])
    return float((possible.mean() + in_range.mean()) / 2)


def _time_share(classes: PulseClasses, sheet: Sheet) -> float:
    """1 when all pulses are typical, less the more clock, rise or shape are off."""
    fit = fit_clock(classes, sheet)
    off = np.abs(fit.clock - 1) / 2 + fit.misfit_us / sheet.windows["one_high"].typ_us
    return float(1 - min(_middle(off) / WORST_MISFIT, 1.0))


def _middle(values: npt.NDArray[Any]) -> float:
    """The median; NumPy's own would load masked arrays, a twentieth of the program's start."""
    rising = np.sort(values)
    return float(rising[(rising.size - 1) // 2] + rising[rising.size // 2]) / 2
