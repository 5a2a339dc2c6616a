"""How reliable a wire is: verdicts by hour and by reason, gaps, retries, interval, margin."""

from collections import Counter
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject
from pivet.history.advice import ADVICE
from pivet.history.times import zone_ns
from pivet.history.wire import WireHistory, by_wire
from pivet.judge.notices import NoticeBit, first_named
from pivet.judge.verdict import Verdict

Int64Array = npt.NDArray[np.int64]

HOUR_NS = 3_600_000_000_000
STANDS_OUT, LEAST_SEEN = 0.5, 3
"""A cause stands out when it makes this share of what is not sound, and was seen so often."""

VERDICTS = len(Verdict)


class Hours(FrozenObject):
    """Verdicts by hour.

    Attributes:
        begin_ns: of each hour in which there was an exchange, rising, int64 (h,).
        counts: the counts of each verdict, int64 (h, 4).
        reasons: the commonest of what was not sound, a few words each; empty where all was.
    """

    begin_ns: Int64Array
    counts: npt.NDArray[np.int64]
    reasons: tuple[str, ...]


class Reliability(FrozenObject):
    """How reliable a wire was.

    Attributes:
        name: the name of the wire.
        sheet: id of its sensor type.
        counts: exchanges of each verdict, int64 (4,).
        reasons: how often something was the gravest that was noticed, commonest first.
        retries: exchanges that were further tries.
        hours: verdicts by hour.
        gap_s: longest time between two readings of the same sensor, s; NaN without two.
        gap_ns: when it began.
        every_s: median time between first tries, s; NaN without two.
        every_low_s, every_high_s: 5 % and 95 % of them.
        margin: the least, as a share of the way; NaN where none is known.
        margin_number, margin_part: the exchange and its capture; -1 where none is known.
        advice: one line when a cause stands out, else empty.
    """

    name: str
    sheet: str
    counts: npt.NDArray[np.int64]
    reasons: tuple[tuple[str, int], ...]
    retries: int
    hours: Hours
    gap_s: float
    gap_ns: int
    every_s: float
    every_low_s: float
    every_high_s: float
    margin: float
    margin_number: int
    margin_part: int
    advice: str

    @property
    def count(self) -> int:
        """All exchanges."""
        return int(self.counts.sum())

    def share(self, verdict: Verdict) -> float:
        """Share of exchanges with a verdict; 0 without any.

        Args:
            verdict: the verdict that is counted.
        """
        return float(self.counts[verdict]) / self.count if self.count else 0.0


def reliability(histories: Sequence[WireHistory], clock: bool = False) -> Reliability:
    """How reliable one wire was over all its captures.

    Args:
        histories: the histories of the same wire, in order of time; at least one.
        clock: times are by the calendar: hours begin by the local one.
    """
    last = histories[-1]
    times = np.concatenate([history.times_ns for history in histories])
    verdict = np.concatenate([history.verdict for history in histories])
    notices = np.concatenate([history.notices for history in histories])
    attempt = np.concatenate([history.attempt for history in histories])
    counts = np.bincount(verdict, minlength=VERDICTS).astype(np.int64)
    not_sound = verdict != Verdict.SOUND
    bits, kind = np.unique(notices[not_sound], return_inverse=True)
    family = last.family
    gravest = [first_named(bit, family.notices, family.words) for bit in bits.tolist()]
    causes = _causes(gravest, np.bincount(kind, minlength=bits.size))
    ahead_ns = zone_ns(int(times[0])) if clock and times.size else 0
    begins, inverse = np.unique((times + ahead_ns) // HOUR_NS, return_inverse=True)
    seen = _table(inverse[not_sound], kind, (begins.size, bits.size))
    common = [_causes(gravest, hour).most_common(1) for hour in seen]
    hours = Hours(
        begin_ns=begins * HOUR_NS - ahead_ns,
        counts=_table(inverse, verdict, (begins.size, VERDICTS)),
        reasons=tuple(last.family.words[cause[0][0]] if cause else "" for cause in common),
    )
    every = [_intervals(history) for history in histories]
    steps = np.concatenate(every)
    gap_s, gap_ns = max((_longest_gap(history) for history in histories), default=(np.nan, 0))
    quantiles = np.quantile(steps, (0.05, 0.5, 0.95)) if steps.size else [np.nan] * 3
    margin, number, part = min(_least_margin(history) for history in histories)
    return Reliability(
        name=last.name,
        sheet=last.sheet,
        counts=counts,
        reasons=tuple((last.family.words[code], seen) for code, seen in causes.most_common()),
        retries=int(np.count_nonzero(attempt > 1)),
        hours=hours,
        gap_s=gap_s,
        gap_ns=gap_ns,
        every_s=float(quantiles[1]),
        every_low_s=float(quantiles[0]),
        every_high_s=float(quantiles[2]),
        margin=margin if number >= 0 else float("nan"),
        margin_number=number,
        margin_part=part,
        advice=_advice(causes),
    )


def reliabilities(histories: Sequence[WireHistory], clock: bool) -> dict[str, Reliability]:
    """How reliable each wire was, by name; histories of the same are in order of time.

    Args:
        histories: one a wire and capture.
        clock: times are of the calendar, else of the capture.
    """
    wires = by_wire(histories)
    there = {name: [history for history in rows if len(history)] for name, rows in wires.items()}
    return {name: reliability(there[name] or rows, clock) for name, rows in wires.items()}


def _causes(gravest: Sequence[NoticeBit | None], seen: npt.NDArray[np.int64]) -> Counter[str]:
    """By code, how often a notice was the gravest of an exchange.

    Args:
        gravest: the gravest of each set of notices.
        seen: how often each set was there, int64 (k,).
    """
    found: Counter[str] = Counter()
    for at in np.flatnonzero(seen).tolist():
        notice = gravest[at]
        if notice is not None:
            found[notice.code] += int(seen[at])
    return found


def _table(
    rows: Int64Array, columns: npt.NDArray[np.integer], shape: tuple[int, int]
) -> npt.NDArray[np.int64]:
    """How often each pair of row and column occurs, int64 ``shape``."""
    flat = np.bincount(rows * shape[1] + columns, minlength=shape[0] * shape[1])
    return flat.reshape(shape).astype(np.int64)


def _intervals(history: WireHistory) -> npt.NDArray[np.float64]:
    """Times between first tries of the sensor that was read most often, s."""
    if not history.tracks:
        return np.empty(0)
    at = max(history.tracks, key=lambda track: track.at.size).at
    first = at[history.attempt[at] <= 1]
    found: npt.NDArray[np.float64] = np.diff(history.times_ns[first]) / 1e9
    return found


def _longest_gap(history: WireHistory) -> tuple[float, int]:
    """The longest time without a reading of a sensor, s, and when it began.

    What came before the first reading counts as little as what came after the last, unless
    the wire was asked then.
    """
    longest = (0.0, 0)
    for track in history.tracks:
        given = history.times_ns[track.at[~np.isnan(track.values)]]
        asked = history.times_ns[track.at]
        if not asked.size:
            continue
        moments = np.concatenate([asked[:1], given, history.times_ns[-1:]])
        steps = np.diff(moments)
        at = int(steps.argmax())
        longest = max(longest, (float(steps[at]) / 1e9, int(moments[at])))
    return longest


def _least_margin(history: WireHistory) -> tuple[float, int, int]:
    known = np.isfinite(history.margin)
    if not known.any():
        return np.inf, -1, history.part
    at = int(np.where(known, history.margin, np.inf).argmin())
    return float(history.margin[at]), int(history.number[at]), history.part


def _advice(causes: Counter[str]) -> str:
    total = sum(causes.values())
    if not total:
        return ""
    code, seen = causes.most_common(1)[0]
    stands_out = seen >= LEAST_SEEN and seen >= STANDS_OUT * total
    return ADVICE.get(code, "") if stands_out else ""
