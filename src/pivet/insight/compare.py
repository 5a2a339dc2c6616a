"""Before and after: what of two sets of exchanges differs, and how sure that is."""

from collections import Counter
from enum import StrEnum

import numpy as np
import numpy.typing as npt

from pivet.errors import InputError
from pivet.frozen import FrozenObject, FrozenValue
from pivet.insight.margins import Margin, Margins, margins_of
from pivet.insight.pulses import Widths
from pivet.insight.registry import insight_of
from pivet.insight.resample import (
    blocks_of,
    difference_interval,
    draws,
    reach,
    share_interval,
)
from pivet.insight.side import Side
from pivet.insight.spread import spread_of
from pivet.judge.notices import leading
from pivet.judge.verdict import Verdict
from pivet.sheets.model import Window
from pivet.signal.uncertainty import worst

FEWEST = 10
"""Fewer exchanges on a side tell nothing: too few to draw from."""

SEEN_SHARE = 0.20
"""A difference of shares counts as none when one of so much would have been seen."""

SEEN_ROOM = 0.25
"""Likewise a shift of this part of the window's width; of a window without an upper limit, of its
typical width."""

LEAST_US = 0.05
"""A smaller shift is none, however sure it is."""

DITHERED = 0.4
"""Widths that vary by this share of a step show shifts smaller than a step."""

MOST_BINS = 256


class Moved(StrEnum):
    """What is said of the widths of a window."""

    MOVED = "moved"
    SAME = "same"
    TOO_FEW = "too-few"


class Better(StrEnum):
    """What is said of the share of sound exchanges."""

    BETTER = "better"
    WORSE = "worse"
    SAME = "same"
    TOO_FEW = "too-few"


class Shift(FrozenValue):
    """How the widths of one window moved.

    Attributes:
        window: the window of the sheet.
        before, after: its pulses; None where there are none.
        shift_us: by how much the middle of the widths moved, µs; NaN where nobody can say.
        low_us, high_us: between what it lies, for all windows together at 95 %.
        verdict: what that means.
    """

    window: Window
    before: Margin | None
    after: Margin | None
    shift_us: float
    low_us: float
    high_us: float
    verdict: Moved


class Share(FrozenValue):
    """Share of exchanges that are sound.

    Attributes:
        sound, total: how many of how many.
        low, high: between what the share lies in the long run, at 95 %.
    """

    sound: int
    total: int
    low: float
    high: float

    @property
    def share(self) -> float:
        """As it was seen; NaN of none."""
        return self.sound / self.total if self.total else float("nan")


class Comparison(FrozenObject):
    """What differs between two sets of exchanges.

    Attributes:
        shifts: window by window.
        before, after: shares of sound exchanges.
        difference: between what their difference lies, at 95 %.
        verdict: what that means.
        reasons: why exchanges were not sound: code, how often before, how often after; those that
            changed most come first.
        notes: what else is to be known, in plain words.
    """

    shifts: tuple[Shift, ...]
    before: Share
    after: Share
    difference: tuple[float, float]
    verdict: Better
    reasons: tuple[tuple[str, int, int], ...]
    notes: tuple[str, ...] = ()


def compare(before: Side, after: Side) -> Comparison:
    """What differs between two sets of exchanges of the same family.

    The shift is that of the medians, between the steps of a coarse capture.  Its interval comes
    from drawing blocks of exchanges again (``resample``), and is made so wide that those of all
    windows hold together.

    Args:
        before: the one.
        after: the other.

    Raises:
        InputError: they are of different families.
    """
    if before.wire.family is not after.wire.family:
        raise InputError(
            f"{before.wire.label} carries {before.wire.family.title}, {after.wire.label} "
            f"{after.wire.family.title}",
            "compare wires of one kind",
        )
    sides = (before, after)
    rows = tuple(margins_of(side.wire, side.chosen) for side in sides)
    middles = tuple(_middles(side) for side in sides)
    windows = _windows(rows)
    tests = sum(all(key in middle for middle in middles) for key in windows)
    shifts = tuple(
        _shift(
            window,
            rows[0].row(key),
            rows[1].row(key),
            middles[0].get(key),
            middles[1].get(key),
            tests,
        )
        for key, window in windows.items()
    )
    first, second = _share(before), _share(after)
    difference = difference_interval((first.sound, first.total), (second.sound, second.total))
    return Comparison(
        shifts,
        first,
        second,
        difference,
        _better(first, second, difference),
        _reasons(before, after),
        _notes(before, after),
    )


def _windows(rows: tuple[Margins, ...]) -> dict[str, Window]:
    """The windows that either side has pulses of, in the order on the wire."""
    found = [{row.window.key: row.window for row in side.rows} for side in rows]
    keys = list(found[0])
    keys += [key for key in found[1] if key not in found[0]]
    return {key: {**found[1], **found[0]}[key] for key in keys}


class Middle(FrozenValue):
    """The middle of the widths of a window, and how sure it is.

    Attributes:
        us: the median, µs.
        error_us: its standard error.
        blur_us: what a capture in steps leaves open beyond that.
        exchanges: how many had such pulses.
    """

    us: float
    error_us: float
    blur_us: float
    exchanges: int


def _middles(side: Side) -> dict[str, Middle]:
    wire, counted = side.wire, side.counted
    place = np.cumsum(counted) - 1
    blocks = blocks_of(int(np.count_nonzero(counted)))
    step_ns = max(wire.resolution_ns, worst(wire.judged.resolution_ns), 1)
    found = {}
    for widths in insight_of(wire).widths(wire):
        mine = widths if side.chosen is None else widths.of(counted)
        if mine.ns.size:
            owners = place[mine.owners()]
            found[widths.window.key] = _middle(mine, owners, blocks, step_ns)
    return found


def _middle(
    widths: Widths, owners: npt.NDArray[np.int64], blocks: npt.NDArray[np.int64], step_ns: int
) -> Middle:
    """The median of some widths between the steps in which they were captured."""
    exchanges = int(np.count_nonzero(np.bincount(owners)))
    number = int(blocks[-1]) + 1
    reach_out = min(0.5, 2.5 / np.sqrt(number))
    spread = spread_of(widths.ns)
    low, high, left, right = (
        spread.quantile_us(share) * 1000 for share in (0.5 - reach_out, 0.5 + reach_out, 0.16, 0.84)
    )
    bin_ns = step_ns * max(int(np.ceil((high - low) / (step_ns * MOST_BINS))), 1)
    edge = int(low) - bin_ns / 2
    bins = int((high - edge) // bin_ns) + 1
    at = np.clip((widths.ns - edge) // bin_ns + 1, 0, bins + 1).astype(np.int64)
    size = bins + 2
    table = np.bincount(blocks[owners] * size + at, minlength=number * size).reshape(number, size)
    every = np.vstack([table.sum(axis=0, dtype=np.float64), draws(number) @ table])
    medians = _grouped_medians(every) * bin_ns + edge
    dithered = (right - left) / 2 >= DITHERED * step_ns
    blur = 0.0 if dithered else step_ns / 2000
    return Middle(float(medians[0]) / 1000, float(medians[1:].std()) / 1000, blur, exchanges)


def _grouped_medians(counts: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Medians of widths of which only the bins are known, in bins from the first inner one.

    Args:
        counts: the counts of each bin, (m, bins + 2); the first and the last hold what lies beyond.
    """
    up_to = np.cumsum(counts, axis=1)
    half = up_to[:, -1:] / 2
    at = np.minimum((up_to < half).sum(axis=1, keepdims=True), counts.shape[1] - 1)
    inside = np.take_along_axis(counts, at, axis=1)
    before = np.take_along_axis(up_to, at, axis=1) - inside
    share = np.divide(half - before, inside, out=np.full_like(half, 0.5), where=inside > 0)
    found: npt.NDArray[np.float64] = (at - 1 + share)[:, 0]
    return np.clip(found, 0, counts.shape[1] - 2)


def _shift(
    window: Window,
    before: Margin | None,
    after: Margin | None,
    first: Middle | None,
    second: Middle | None,
    tests: int,
) -> Shift:
    nan = float("nan")
    if first is None or second is None:
        return Shift(window, before, after, nan, nan, nan, Moved.TOO_FEW)
    shift = second.us - first.us
    half = reach(tests) * float(np.hypot(first.error_us, second.error_us))
    half += first.blur_us + second.blur_us
    low, high = shift - half, shift + half
    room = (window.max_us - window.min_us) if window.max_us is not None else window.typ_us
    if min(first.exchanges, second.exchanges) < FEWEST:
        verdict = Moved.TOO_FEW
    elif (low > 0 or high < 0) and abs(shift) >= LEAST_US:
        verdict = Moved.MOVED
    else:
        verdict = Moved.SAME if half <= SEEN_ROOM * room else Moved.TOO_FEW
    return Shift(window, before, after, shift, low, high, verdict)


def _share(side: Side) -> Share:
    verdicts = side.wire.verdicts[side.counted]
    sound = int(np.count_nonzero(verdicts == Verdict.SOUND))
    return Share(sound, verdicts.size, *share_interval(sound, verdicts.size))


def _better(before: Share, after: Share, difference: tuple[float, float]) -> Better:
    low, high = difference
    if min(before.total, after.total) < FEWEST:
        return Better.TOO_FEW
    if low > 0:
        return Better.BETTER
    if high < 0:
        return Better.WORSE
    return Better.SAME if (high - low) / 2 <= SEEN_SHARE else Better.TOO_FEW


def reasons_of(side: Side) -> Counter[str]:
    """Why exchanges are not sound: the code of what is told first of each, and how often.

    Args:
        side: exchanges.
    """
    wire = side.wire
    chosen = side.counted & (wire.verdicts != Verdict.SOUND)
    bits, counts = np.unique(wire.judged.notices[chosen], return_counts=True)
    found: Counter[str] = Counter()
    for one, number in zip(bits.tolist(), counts.tolist(), strict=True):
        cause = leading(one, wire.family.notices)
        found[cause.code if cause is not None else "other"] += number
    return found


def _reasons(before: Side, after: Side) -> tuple[tuple[str, int, int], ...]:
    first, second = reasons_of(before), reasons_of(after)
    rows = [(code, first[code], second[code]) for code in {**first, **second}]
    return tuple(sorted(rows, key=lambda row: (-abs(row[2] - row[1]), -row[1], row[0])))


def _notes(before: Side, after: Side) -> tuple[str, ...]:
    notes = []
    first, second = before.wire, after.wire
    if first.sheet.id != second.sheet.id:
        notes.append(
            f"before is judged as {first.sheet.name}, after as {second.sheet.name}: "
            "shares of sound exchanges rest on different windows"
        )
    if first.resolution_ns != second.resolution_ns:
        notes.append(
            f"the captures have steps of {first.resolution_ns} and {second.resolution_ns} ns: "
            "what is near a limit in the one may be open in the other"
        )
    return tuple(notes)
