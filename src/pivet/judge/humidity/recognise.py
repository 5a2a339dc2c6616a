"""Which sheet a wire's humidity exchanges fit, and whether they are any at all."""

from typing import Any

import numpy as np
import numpy.typing as npt

from pivet.decode.checks import sum8
from pivet.decode.humidity import DecodeMark, HumidityExchanges, layout
from pivet.decode.interface import ABSENT, WIDEST_NS
from pivet.frozen import FrozenValue
from pivet.judge.chapter import CHAPTER
from pivet.judge.humidity.classes import KEYS, PulseClasses, sort_pulses
from pivet.judge.humidity.clock import fit_clock
from pivet.judge.wording import span, us
from pivet.readings.values import quantity
from pivet.sheets.families import HUMIDITY_FRAME
from pivet.sheets.load import recognisable, sheets_of
from pivet.sheets.model import Sheet

LOOKED_AT = 2 * CHAPTER
"""This many exchanges settle which sheet fits: those that a live wire has in sight at first."""

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
ASK_ONLY_NS = (layout.ASK_LEAST_NS, 40 * layout.MS)
REST_NS = 100 * layout.MS
ASKS_SPREAD, ASKS_SPREAD_NS = 0.05, 20 * layout.US
"""A line of lone lows of this length, alike to this share, each followed by this much rest, may be
asks without an answer."""

SHORT_RESET_NS = (300 * layout.US, 480 * layout.US)
"""Lone lows of this length are 1-Wire resets that are too short."""

SUMS_SHARE, ROUGHLY = 0.1, 0.45
TIMES_SHARE = 0.15
"""Frames are a sensor's when this share of the sums holds (one in 256 does by chance) and clock and
lengths are roughly a sensor's; or when a sheet's lengths fit to this degree."""

MOST_TOLD = 3

ASK_LEAST_NS, RELEASE_MOST_NS = 700 * layout.US, 60 * layout.US
ANSWER_NS, ANSWER_MIDDLE_NS = (65 * layout.US, 120 * layout.US), 82 * layout.US
ANSWER_SLACK_NS = 20 * layout.US
LEAST_BEGUN, MOST_BEGUN = 2, 0.7
"""Asks of such a length, alike, each answered by such a low and high: frames of a sensor, however
spoiled; so many, and this share of all that stands on the line."""


class Fit(FrozenValue):
    """How well one sheet fits.

    Attributes:
        sheet: the sheet.
        score: the higher the better.
    """

    sheet: Sheet
    score: float


class Ranking(FrozenValue):
    """How well all sheets fit a wire.

    Attributes:
        fits: the best first.
        settled: a whole frame was seen.
    """

    fits: tuple[Fit, ...]
    settled: bool

    @property
    def best(self) -> Sheet:
        """The sheet that fits best, of those that can be told by their signals."""
        return self._best.sheet

    @property
    def _best(self) -> Fit:
        return next(fit for fit in self.fits if not fit.sheet.by_choice)

    def better_than(self, sheet: Sheet) -> Sheet | None:
        """The sheet that fits clearly better than another; None when there is none.

        A sheet that is not among them, as one that only a bench file knows, is not compared.

        Args:
            sheet: the sheet of the sensor type.
        """
        own = next((fit.score for fit in self.fits if fit.sheet.id == sheet.id), np.inf)
        return self.best if self.settled and self._best.score > own + CLEARLY else None


def looks_answered(exchanges: HumidityExchanges, step_ns: int = 1) -> bool:
    """Whether a line carries answers of humidity sensors.

    Frames count whose answer and bits have the shape of a frame: bit lows all alike, the
    answer's low longer by its factor, no high out of all proportion.  And they must say something
    for a sensor that is known: sums that hold, or pulses of lengths that a sheet gives.

    Args:
        exchanges: decoded, columns of n exchanges.
        step_ns: of the capture, ns.
    """
    shaped = _shaped(exchanges)
    return (shaped is not None and _known(shaped)) or _begin_as_answers(exchanges, step_ns)


def _begin_as_answers(exchanges: HumidityExchanges, step_ns: int) -> bool:
    """Whether asks of a host are answered as only these sensors answer, whatever follows."""
    asks = exchanges.ask_ns
    release, low, high = exchanges.widths_ns[: layout.FIRST_LOW]
    slack = 2 * step_ns
    began = (asks >= ASK_LEAST_NS) & (asks <= ASK_ONLY_NS[1])
    began &= (release > 0) & (release <= RELEASE_MOST_NS + slack)
    began &= (low >= ANSWER_NS[0] - slack) & (low <= ANSWER_NS[1] + slack) & (high > 0)
    began &= np.abs((low + high) - 2 * ANSWER_MIDDLE_NS) <= ANSWER_SLACK_NS + slack
    count = int(np.count_nonzero(began))
    if count < LEAST_BEGUN or count < MOST_BEGUN * len(exchanges):
        return False
    return int(np.ptp(asks[began])) <= max(ASKS_SPREAD * _middle(asks[began]), slack)


def nearest(exchanges: HumidityExchanges) -> str | None:
    """Frames of nobody that is known: which sheet is nearest, and in what they differ.

    Args:
        exchanges: decoded, columns of n exchanges.
    """
    shaped = _shaped(exchanges)
    if shaped is None or _known(shaped):
        return None
    classes = sort_pulses(shaped)
    offs = [(sheet, _differing(classes, sheet)) for sheet in recognisable(HUMIDITY_FRAME)]
    sheet, rows = min(offs, key=lambda candidate: sum(off for off, _ in candidate[1]))
    told = ", ".join(says for _, says in sorted(rows, reverse=True)[:MOST_TOLD])
    return f"no sheet fits; nearest is the {sheet.name}, which differs in {told}"


def _differing(classes: PulseClasses, sheet: Sheet) -> list[tuple[float, str]]:
    """Windows that the usual pulse misses: by which share, and in words."""
    rows = []
    for row, key in enumerate(KEYS):
        there = classes.count[row] > 0
        window = sheet.windows[key]
        if key in ("ask", "release") or not there.any() or window.max_us is None:
            continue
        usual = _middle(classes.mean_ns[row][there]) / 1000
        off = max(window.min_us - usual, usual - window.max_us) / window.typ_us
        if off > 0:
            words = f"“{window.label}” {us(usual)} for {span(window.min_us, window.max_us)}"
            rows.append((off, words))
    return rows or [(0.0, "its sums, of which none holds")]


def _known(shaped: HumidityExchanges) -> bool:
    """Whether frames say something for a sensor that is known."""
    whole = shaped.bit_count == layout.BITS
    packed = shaped.packed
    holds = whole & (sum8(packed[:4]) == packed[4]) & packed.any(axis=0)
    classes = sort_pulses(shaped)
    fits = [fit_clock(classes, sheet) for sheet in recognisable(HUMIDITY_FRAME)]
    sums = np.count_nonzero(holds) >= max(SUMS_SHARE * np.count_nonzero(whole), 1)
    rough = min(float(_middle(np.abs(fit.clock - 1) + fit.misfit_us / 100)) for fit in fits)
    if sums and rough < ROUGHLY:
        return True
    return max(_time_share(classes, sheet) for sheet in recognisable(HUMIDITY_FRAME)) >= TIMES_SHARE


def _shaped(exchanges: HumidityExchanges) -> HumidityExchanges | None:
    """Those of the first exchanges that have the shape of frames; None when they are too few."""
    rows = np.flatnonzero(exchanges.bit_count >= LEAST_BITS)
    if not rows.size:
        return None
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
    enough = found > 0 and stride * found >= max(LEAST_SHARE * len(exchanges), 1)
    if not enough:
        return None
    whole = bool((fits & (sample.bit_count == layout.BITS)).any())
    asked = _middle(sample.ask_ns[fits]) >= CUT_ASK_NS
    if not whole and not (asked and found >= CUT_SHARE * rows.size):
        return None
    return sample.pick(np.flatnonzero(fits))


def _medians(lows: npt.NDArray[np.int32], count: npt.NDArray[np.int8]) -> npt.NDArray[np.int32]:
    """Median of each exchange's bit lows, int32 (n,), ns."""
    ordered = np.sort(np.where(lows == ABSENT, WIDEST_NS, lows), axis=0)
    middle = np.maximum(count.astype(np.int64) // 2, 0)[None, :]
    medians: npt.NDArray[np.int32] = np.take_along_axis(ordered, middle, axis=0)[0]
    return medians


def looks_asked(exchanges: HumidityExchanges) -> bool:
    """Whether a line carries asks of the length for humidity sensors, and nothing else.

    A host's asks are all alike and come seldom; a finger on a button, a servo, an LED do not.

    Args:
        exchanges: decoded, columns of n exchanges.
    """
    if not len(exchanges) or exchanges.stray_edges.size:
        return False
    asks = exchanges.ask_ns
    alone = bool((exchanges.pulse_count <= 1).all())
    fits = (asks >= ASK_ONLY_NS[0]) & (asks <= ASK_ONLY_NS[1])
    fits &= (asks < SHORT_RESET_NS[0]) | (asks >= SHORT_RESET_NS[1])
    alike = int(asks.max() - asks.min()) <= max(ASKS_SPREAD * _middle(asks), ASKS_SPREAD_NS)
    rested = np.diff(exchanges.start_ns) - asks[:-1] >= REST_NS
    return alone and bool(fits.all()) and alike and bool(rested.all())


def rank_sheets(exchanges: HumidityExchanges) -> Ranking:
    """All humidity sheets, the best fitting first.

    The first exchanges settle it where a whole frame is among them: what comes later says no more.

    Args:
        exchanges: decoded, columns of n exchanges.
    """
    early = exchanges.rows(0, LOOKED_AT)
    if (early.bit_count == layout.BITS).any():
        exchanges = early
    sample = _sample(exchanges)
    classes = sort_pulses(sample)
    fits = [Fit(sheet, _score(sample, classes, sheet)) for sheet in sheets_of(HUMIDITY_FRAME)]
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
    seen = (sample.marks & (DecodeMark.ASK_UNSEEN | DecodeMark.ASK_CLIPPED)) == 0
    if not seen.any():
        return 0.0
    asks_us = sample.ask_ns[seen] / 1000
    off = np.abs(np.log(asks_us / sheet.windows["ask"].typ_us))
    return float(1 - np.minimum(off / np.log(ASK_FACTOR), 1).mean())


def _value_share(sample: HumidityExchanges, sheet: Sheet) -> float:
    rows = [quantity(rule, sample.packed) for rule in sheet.values]
    possible = np.logical_and.reduce([value.possible for value in rows])
    in_range = np.logical_and.reduce([value.possible & value.in_range for value in rows])
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
