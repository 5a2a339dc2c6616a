"""Judging humidity exchanges against a sheet, as columns."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from pivet.decode.checks import sum8
from pivet.decode.humidity import DecodeMark, HumidityExchanges, layout
from pivet.frozen import FrozenObject
from pivet.judge.belief import LIMIT
from pivet.judge.humidity.belief import doubts
from pivet.judge.humidity.classes import KEYS, PulseClasses, sort_pulses
from pivet.judge.humidity.clock import ClockFit, fit_clock
from pivet.judge.humidity.line import line_notices
from pivet.judge.humidity.notices import BROKEN, WEIGHTS, Notice
from pivet.judge.margins import judge_widths, too_soon
from pivet.judge.notices import Flags, as_seen, note, noted, spiked, verdicts_of
from pivet.judge.verdict import Verdict
from pivet.readings.track import Track
from pivet.readings.values import Quantity, decimals_of, quantity
from pivet.sheets.model import Sheet
from pivet.signal.uncertainty import Uncertainty, part

BLOCK = 4096
"""Exchanges judged at once: keeps the columns in between small."""

BLIND_NS = 20_000
"""In such steps a 0 may come out as long as a 1."""

HELD_NS = 100 * layout.MS
"""An "ask" of this length is a line held low."""

REFUSING = Notice.ALL_ZEROS | Notice.IMPOSSIBLE_VALUE | Notice.TOO_DOUBTFUL
"""With one of these the values are not given out."""

CLOCK_SHARE = 0.04
RISE_US = 2.5
MISFIT_US = 4.0
USUAL_LOW_US = 50.0
ANSWER_US, ANSWER_OFF, LATE_US = 82.0, 0.1, 10.0
LEAST_BITS = 8
"""From when on a clock is called off, a rise slow; both need pulses that fit together."""


class JudgedFrames(FrozenObject):
    """What is said of n exchanges.

    Attributes:
        sheet: the one they were judged against.
        better: the sheet that fits instead, if this one does not.
        resolution_ns: uncertainty of every width, ns.
        verdict: ``Verdict`` values, uint8 (n,).
        notices: ``Notice`` bits, int64 (n,).
        check: 1 the sum holds, 0 it does not, -1 nothing to check; int8 (n,).
        computed: sum over the first four bytes, uint8 (n,).
        doubt: probability that the bits are wrong although the sum holds, float64 (n,).
        given: the values may be given out as readings, bool (n,).
        quantities: the values, in the order of the sheet's rules.
        classes: shortest, longest and mean pulse of each window.
        window_verdict: ``Verdict`` of each window, uint8 (8, n), rows as ``KEYS``.
        since_last_ns: from the ask before to this ask, int64 (n,), ns; -1 for none.
        clock: fitted clock and rise.
    """

    sheet: Sheet
    better: Sheet | None
    resolution_ns: Uncertainty
    verdict: npt.NDArray[np.uint8]
    notices: Flags
    check: npt.NDArray[np.int8]
    computed: npt.NDArray[np.uint8]
    doubt: npt.NDArray[np.float64]
    given: npt.NDArray[np.bool_]
    quantities: tuple[Quantity, ...]
    classes: PulseClasses
    window_verdict: npt.NDArray[np.uint8]
    since_last_ns: npt.NDArray[np.int64]
    clock: ClockFit

    def __len__(self) -> int:
        return int(self.verdict.size)

    @property
    def tracks(self) -> tuple[Track, ...]:
        """The values over the exchanges, for the ribbon."""
        every = np.arange(len(self), dtype=np.int64)
        return tuple(
            Track(
                name=one.rule.quantity,
                quantity=one.rule.quantity,
                unit=one.rule.unit,
                decimals=decimals_of(one.rule),
                at=every,
                values=one.values,
                given=self.given,
            )
            for one in self.quantities
        )


def judge(
    exchanges: HumidityExchanges,
    sheet: Sheet,
    resolution_ns: Uncertainty,
    better: Sheet | None = None,
    previous_start_ns: int | None = None,
) -> JudgedFrames:
    """Judges exchanges of one wire.

    Args:
        exchanges: the exchanges, in order of time.
        sheet: the sensor type's sheet.
        resolution_ns: uncertainty of every width, or of those of each exchange, ns.
        better: the sheet that fits this wire instead, if ``sheet`` does not.
        previous_start_ns: start of the exchange before the first, if there was one.
    """
    blocks = []
    for start, end in pairwise(_borders(exchanges)):
        rows, own = exchanges.rows(start, end), part(resolution_ns, start, end)
        before = int(exchanges.start_ns[start - 1]) if start else previous_start_ns
        blocks.append(_judge_block(rows, sheet, own, better, before))
    return blocks[0] if len(blocks) == 1 else _join(blocks, resolution_ns)


def _borders(exchanges: HumidityExchanges) -> list[int]:
    """From where to where exchanges are judged together: what follows at once is not parted."""
    count = len(exchanges)
    rested = exchanges.start_ns[1:] - exchanges.end_ns[:-1] >= layout.IDLE_NS
    apart = np.append(np.flatnonzero(rested) + 1, count)
    borders = [0]
    while borders[-1] < count:
        borders.append(int(apart[np.searchsorted(apart, min(borders[-1] + BLOCK, count))]))
    return borders if count else [0, 0]


def _judge_block(
    exchanges: HumidityExchanges,
    sheet: Sheet,
    resolution_ns: Uncertainty,
    better: Sheet | None,
    previous_start_ns: int | None,
) -> JudgedFrames:
    classes = sort_pulses(exchanges)
    windows = np.stack(
        [
            judge_widths(
                classes.least_ns[row], classes.most_ns[row], sheet.windows[key], resolution_ns
            )
            for row, key in enumerate(KEYS)
        ]
    )
    whole = exchanges.bit_count == layout.BITS
    computed = sum8(exchanges.packed[:4])
    holds = computed == exchanges.packed[4]
    check = np.where(whole, holds, -1).astype(np.int8)
    quantities = tuple(quantity(rule, exchanges.packed) for rule in sheet.values)
    since = _since_last(exchanges, previous_start_ns)
    clock = fit_clock(classes, sheet)
    asked_short = (windows[0] == Verdict.UNSOUND) & (
        classes.least_ns[0] < sheet.windows["ask"].typ_us * 1000
    )
    notices = _course_notices(exchanges, sheet, since)
    note(notices, asked_short, Notice.ASK_TOO_SHORT)
    notices |= _value_notices(exchanges, check, quantities, better)
    notices |= _window_notices(windows, notices)
    notices |= _clock_notices(exchanges, classes, clock, resolution_ns, notices)
    notices |= line_notices(exchanges, classes, windows, sheet, notices, resolution_ns)
    blind = np.broadcast_to(np.asarray(resolution_ns) >= BLIND_NS, notices.shape)
    notices = as_seen(notices, blind, BROKEN, Notice.TOO_COARSE)
    doubt = doubts(exchanges, classes, check == 1, resolution_ns)
    note(notices, doubt >= LIMIT, Notice.TOO_DOUBTFUL)
    return JudgedFrames(
        sheet=sheet,
        better=better,
        resolution_ns=resolution_ns,
        verdict=verdicts_of(notices, WEIGHTS),
        notices=notices,
        check=check,
        computed=computed,
        doubt=doubt,
        given=(check == 1) & exchanges.packed.any(axis=0) & ((notices & REFUSING) == 0),
        quantities=quantities,
        classes=classes,
        window_verdict=windows,
        since_last_ns=since,
        clock=clock,
    )


def _since_last(exchanges: HumidityExchanges, previous_start_ns: int | None) -> np.ndarray:
    starts = exchanges.start_ns
    since = np.full(starts.size, -1, dtype=np.int64)
    since[1:] = np.diff(starts)
    if starts.size and previous_start_ns is not None:
        since[0] = int(starts[0]) - previous_start_ns
    return since


def _course_notices(exchanges: HumidityExchanges, sheet: Sheet, since: np.ndarray) -> Flags:
    """Notices on how the exchange went: asked, answered, ended."""
    pulses = exchanges.pulse_count
    ended = exchanges.ended & (pulses < layout.PULSES)
    began = (exchanges.marks & (DecodeMark.ASK_UNSEEN | DecodeMark.ASK_CLIPPED)) != 0
    silent = (pulses <= 1) & ~ended
    release = exchanges.widths_ns[layout.RELEASE]
    soon = too_soon(since, sheet.interval_s)
    return noted(
        (silent, Notice.NO_ANSWER),
        (exchanges.ask_ns >= HELD_NS, Notice.LINE_HELD_LOW),
        ((pulses > 1) & (pulses < layout.PULSES) & ~ended, Notice.CUT_SHORT),
        (pulses > layout.PULSES, Notice.EXTRA_PULSES),
        (release >= layout.IDLE_NS, Notice.LATE_ANSWER),
        (ended, Notice.CAPTURE_ENDED),
        (began, Notice.CAPTURE_BEGAN),
        (soon, Notice.TOO_SOON),
        (spiked(exchanges), Notice.SPIKE_REMOVED),
    )


def _value_notices(
    exchanges: HumidityExchanges,
    check: npt.NDArray[np.int8],
    quantities: Sequence[Quantity],
    better: Sheet | None,
) -> Flags:
    """Notices on the bytes and what they would mean."""
    zeros = (check == 1) & ~exchanges.packed.any(axis=0)
    usable = (check == 1) & ~zeros
    possible = np.logical_and.reduce([one.possible for one in quantities])
    in_range = np.logical_and.reduce([one.in_range for one in quantities])
    notices = noted(
        (check == 0, Notice.SUM_WRONG),
        (zeros, Notice.ALL_ZEROS),
        (usable & ~possible, Notice.IMPOSSIBLE_VALUE),
        (usable & possible & ~in_range, Notice.OUT_OF_RANGE),
    )
    for one in quantities:
        if one.rule.quantity == "humidity":
            edge = (one.values == one.rule.least) | (one.values == one.rule.most)
            note(notices, usable & possible & edge, Notice.SCALE_EDGE)
        note(notices, usable & possible & one.other_sign, Notice.OTHER_SIGN)
    if better is not None:
        note(notices, exchanges.bit_count == layout.BITS, Notice.WRONG_TYPE)
    return notices


def _window_notices(windows: np.ndarray, so_far: Flags) -> Flags:
    """Notices on pulses against their windows; a short ask has a notice of its own."""
    told = (so_far & (Notice.ASK_TOO_SHORT | Notice.LINE_HELD_LOW)) != 0
    outside = windows == Verdict.UNSOUND
    outside[KEYS.index("ask")] &= ~told
    late = (so_far & Notice.LATE_ANSWER) != 0
    outside[KEYS.index("release")] &= ~late
    return noted(
        (outside.any(axis=0), Notice.PULSE_OUTSIDE),
        ((windows == Verdict.UNKNOWN).any(axis=0), Notice.TOO_COARSE),
        ((windows == Verdict.NEAR).any(axis=0), Notice.PULSE_NEAR),
    )


def _clock_notices(
    exchanges: HumidityExchanges,
    classes: PulseClasses,
    clock: ClockFit,
    resolution_ns: Uncertainty,
    so_far: Flags,
) -> Flags:
    fits = (exchanges.bit_count >= LEAST_BITS) & (clock.misfit_us < MISFIT_US)
    fits &= (so_far & Notice.WRONG_TYPE) == 0
    late = fits & (clock.rise_us >= np.maximum(RISE_US, resolution_ns / 1000))
    broken = (so_far & np.int64(BROKEN)) != 0
    late |= broken & _rises_late(exchanges, classes, clock, resolution_ns)
    off = fits & (np.abs(clock.clock - 1) >= CLOCK_SHARE)
    return noted((off, Notice.CLOCK_OFF), (late, Notice.SLOW_RISE))


def _rises_late(
    exchanges: HumidityExchanges,
    classes: PulseClasses,
    clock: ClockFit,
    resolution_ns: Uncertainty,
) -> npt.NDArray[np.bool_]:
    """Whether an answer's low gained what its high lost: where zeros vanish only that is left.

    Its clock fit is set by it, since the bits of such a frame fit nothing.
    """
    low = exchanges.widths_ns[layout.ANSWER_LOW] / 1000
    high = exchanges.widths_ns[layout.ANSWER_HIGH] / 1000
    # Where zeros vanish their lows run together and look like asks, the first right after it.
    pause_ns = exchanges.start_ns[1:] - exchanges.end_ns[:-1]
    soon = pause_ns < layout.IDLE_NS
    high[:-1] = np.where(soon & (high[:-1] < 0), pause_ns / 1000, high[:-1])
    rise = (low - high) / 2
    whole = np.abs((low + high) / (2 * ANSWER_US) - 1) < ANSWER_OFF
    late: npt.NDArray[np.bool_] = whole & (rise >= LATE_US) & (high > 0)
    shortest = classes.least_ns[KEYS.index("bit_low")] / 1000
    late &= (shortest < 0) | (shortest >= USUAL_LOW_US + rise / 2)
    late &= np.asarray(2 * resolution_ns / 1000 < LATE_US)
    clock.rise_us[late] = rise[late]
    for _ in range(layout.BITS if late.any() else 0):
        more = soon & late[:-1] & ~late[1:]
        if not more.any():
            break
        clock.rise_us[1:][more] = clock.rise_us[:-1][more]
        late[1:] |= more
    return late


def _join(blocks: Sequence[JudgedFrames], resolution_ns: Uncertainty) -> JudgedFrames:
    first = blocks[0]

    def rows(name: str) -> np.ndarray:
        return np.concatenate([getattr(block, name) for block in blocks], axis=-1)

    def inner(name: str, part: str) -> np.ndarray:
        return np.concatenate([getattr(getattr(block, name), part) for block in blocks], axis=-1)

    classes = PulseClasses(*(inner("classes", name) for name in PulseClasses.__struct_fields__))
    clock = ClockFit(*(inner("clock", name) for name in ClockFit.__struct_fields__))
    quantities = tuple(
        Quantity(
            quantity.rule,
            *(
                np.concatenate([getattr(block.quantities[number], part) for block in blocks])
                for part in ("values", "possible", "in_range", "other_sign")
            ),
        )
        for number, quantity in enumerate(first.quantities)
    )
    plain = (
        "verdict",
        "notices",
        "check",
        "computed",
        "doubt",
        "given",
        "window_verdict",
        "since_last_ns",
    )
    return JudgedFrames(
        first.sheet,
        first.better,
        resolution_ns,
        **{name: rows(name) for name in plain},
        quantities=quantities,
        classes=classes,
        clock=clock,
    )
