"""How the pulses of a wire lie in their windows, over many exchanges."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from pivet.captures.wire import Wire
from pivet.frozen import FrozenObject, FrozenValue
from pivet.insight.pulses import BoolArray, Int64Array, Widths
from pivet.insight.registry import insight_of
from pivet.insight.spread import Spread, spread_of
from pivet.judge.margins import judge_widths, margin_us
from pivet.judge.verdict import Verdict
from pivet.progress import Progress, silent
from pivet.sheets.model import Window
from pivet.signal.uncertainty import worst

MOST_STRAYS = 5


class Stray(FrozenValue):
    """One pulse of those that are nearest to a limit, or beyond it.

    Attributes:
        exchange: its number on the wire, from 0.
        position: in the exchange: a bit or a slot, from 0; -1 where there is only one.
        start_ns: of the exchange, ns.
        width_ns: of the pulse.
        margin_us: distance to the nearest limit, µs; below 0 is outside.
    """

    exchange: int
    position: int
    start_ns: int
    width_ns: int
    margin_us: float


class Margin(FrozenObject):
    """All pulses of one window.

    Attributes:
        window: the window of the sheet.
        spread: of their widths.
        verdicts: how many pulses have each ``Verdict``, int64 (4,).
        strays: the worst few, the worst first.
    """

    window: Window
    spread: Spread
    verdicts: Int64Array
    strays: tuple[Stray, ...]

    @property
    def least_us(self) -> float:
        """The least margin, µs; below 0 is outside; NaN without pulses."""
        return self.strays[0].margin_us if self.strays else float("nan")

    def count(self, verdict: Verdict) -> int:
        """How many of the pulses have a verdict.

        Args:
            verdict: of pulses, each by itself.
        """
        return int(self.verdicts[verdict])


class Between(FrozenValue):
    """What lies between the pulses of two windows, of which a reader tells one from the other.

    Attributes:
        shorter, longer: keys of the windows.
        low_us: the longest of the shorter, µs.
        high_us: the shortest of the longer, µs.
    """

    shorter: str
    longer: str
    low_us: float
    high_us: float

    @property
    def free_us(self) -> float:
        """How far they are apart, µs; below 0 they overlap, and no threshold tells all."""
        return self.high_us - self.low_us


class Margins(FrozenObject):
    """All pulses of a wire, or of some of its exchanges.

    Attributes:
        exchanges: how many of them.
        rows: window by window, those that have pulses, in the order on the wire.
        between: the distance between what a reader has to tell apart.
    """

    exchanges: int
    rows: tuple[Margin, ...]
    between: tuple[Between, ...]

    def row(self, key: str) -> Margin | None:
        """The pulses of one window; None where there are none.

        Args:
            key: the key of the window.
        """
        return next((row for row in self.rows if row.window.key == key), None)


def margins_of(wire: Wire, chosen: BoolArray | None = None, progress: Progress = silent) -> Margins:
    """How the pulses of a wire lie in their windows.

    Args:
        wire: decoded and judged.
        chosen: which exchanges count, bool (n,); None for all.
        progress: called with the share done, 0 to 1.

    Raises:
        Cancelled: ``progress`` raised it.
    """
    resolution_ns = worst(wire.judged.resolution_ns)
    rows = []
    for done, widths in enumerate(insight_of(wire).widths(wire)):
        progress(done / (done + 4))  # how many windows there are is not known before
        if chosen is not None:
            widths = widths.of(chosen)
        if widths.ns.size:
            rows.append(_margin(widths, wire, resolution_ns))
    number = len(wire) if chosen is None else int(np.count_nonzero(chosen))
    return Margins(number, tuple(rows), _between(wire, rows))


def _margin(widths: Widths, wire: Wire, resolution_ns: int) -> Margin:
    spread = spread_of(widths.ns)
    verdict = judge_widths(spread.ns, spread.ns, widths.window, resolution_ns)
    verdicts = np.bincount(verdict, weights=spread.counts, minlength=len(Verdict))
    return Margin(widths.window, spread, verdicts.astype(np.int64), _strays(widths, spread, wire))


def _strays(widths: Widths, spread: Spread, wire: Wire) -> tuple[Stray, ...]:
    """The worst few pulses: only those widths are looked for that are worst of all."""
    window = widths.window
    margins = np.array([margin_us(int(ns), window) for ns in _ends(spread.ns)])
    worst_first = _ends(spread.ns)[np.argsort(margins, kind="stable")][:MOST_STRAYS]
    found: list[int] = []
    for ns in worst_first.tolist():
        found += np.flatnonzero(widths.ns == ns)[: MOST_STRAYS - len(found)].tolist()
        if len(found) >= MOST_STRAYS:
            break
    at = np.array(found, dtype=np.int64)
    owners, positions = widths.find(at)
    starts = wire.exchanges.start_ns[owners]
    return tuple(
        Stray(wire.first + exchange, position, start, ns, margin_us(ns, window))
        for exchange, position, start, ns in zip(
            owners.tolist(),
            positions.tolist(),
            starts.tolist(),
            widths.ns[at].tolist(),
            strict=True,
        )
    )


def _ends(ns: Int64Array) -> npt.NDArray[np.int64]:
    """The shortest and the longest of some widths: among them are the worst."""
    return ns if ns.size <= 2 * MOST_STRAYS else np.r_[ns[:MOST_STRAYS], ns[-MOST_STRAYS:]]


def _between(wire: Wire, rows: Sequence[Margin]) -> tuple[Between, ...]:
    spreads = {row.window.key: row.spread for row in rows}
    return tuple(
        Between(
            shorter,
            longer,
            float(spreads[shorter].ns[-1]) / 1000,
            float(spreads[longer].ns[0]) / 1000,
        )
        for shorter, longer in insight_of(wire).pairs
        if shorter in spreads and longer in spreads
    )
