"""The pulses of one exchange, each with its window, width and margin."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import HumidityExchanges, layout
from pivet.decode.interface import ABSENT
from pivet.judge.classes import KEYS
from pivet.judge.humidity import Judged
from pivet.judge.margins import judge_widths, margin_share, margin_us
from pivet.judge.verdict import Verdict
from pivet.sheets.model import Window

VERDICTS = tuple(Verdict)

ASK = -1
"""Column number of the ask, which stands before the columns of ``layout``."""


@dataclass(frozen=True, slots=True)
class Pulse:
    """One pulse of an exchange.

    Attributes:
        column: its column of ``layout``; ``ASK`` for the ask.
        window: the window that it is measured against.
        high: the line's level.
        bit: number of its bit, from 0; None outside the bits.
        start_ns: when it begins, ns.
        width_ns: how long it lasts, ns.
        verdict: against its window.
        margin_us: distance to the nearest limit, µs; negative outside.
        share: the same as a share of the way from limit to typical width.
        bound: the width is only a lower bound, so there is nothing to judge.
    """

    column: int
    window: Window
    high: bool
    bit: int | None
    start_ns: int
    width_ns: int
    verdict: Verdict
    margin_us: float
    share: float
    bound: bool = False

    @property
    def width_us(self) -> float:
        """How long it lasts, µs."""
        return self.width_ns / 1000

    @property
    def end_ns(self) -> int:
        """When it ends, ns."""
        return self.start_ns + self.width_ns

    @property
    def place(self) -> str:
        """Where it stands, for people: bits are counted from 1."""
        return self.window.label if self.bit is None else f"bit {self.bit + 1}"


def window_key(column: int, is_one: bool) -> str:
    """Key of the window for a column."""
    if column == ASK:
        return "ask"
    if column <= layout.ANSWER_HIGH:
        return KEYS[column + 1]
    if column == layout.END_LOW:
        return "end_low"
    if (column - layout.FIRST_LOW) % 2 == 0:
        return "bit_low"
    return "one_high" if is_one else "zero_high"


def pulses_of(exchanges: HumidityExchanges, judged: Judged, index: int) -> tuple[Pulse, ...]:
    """All complete pulses of exchange ``index``, in the order on the wire."""
    widths = exchanges.widths_ns[:, index]
    ones = (widths > exchanges.split_ns[index]).tolist()
    starts = exchanges.pulse_starts_ns(index).tolist()
    columns = np.flatnonzero(widths != ABSENT).tolist()
    rows = [(column, starts[column], int(widths[column])) for column in columns]
    start_ns, body_ns = int(exchanges.start_ns[index]), int(exchanges.body_ns[index])
    if body_ns > start_ns:
        rows.insert(0, (ASK, start_ns, body_ns - start_ns))
    keys = [window_key(column, column != ASK and ones[column]) for column, _, _ in rows]
    verdicts = _verdicts(keys, np.array([width for _, _, width in rows]), judged)
    clipped = int(judged.classes.least_ns[0, index]) == ABSENT
    return tuple(
        _pulse(judged, column, key, start, width, verdict, clipped and column == ASK)
        for (column, start, width), key, verdict in zip(rows, keys, verdicts, strict=True)
    )


def _verdicts(keys: list[str], widths_ns: npt.NDArray[np.int64], judged: Judged) -> list[Verdict]:
    """Verdict on each pulse, window by window."""
    found = np.zeros(len(keys), dtype=np.uint8)
    named = np.array(keys)
    for key in set(keys):
        rows = named == key
        width, window = widths_ns[rows], judged.sheet.windows[key]
        found[rows] = judge_widths(width, width, window, judged.resolution_ns)
    return [VERDICTS[row] for row in found.tolist()]


def _pulse(
    judged: Judged,
    column: int,
    key: str,
    start_ns: int,
    width_ns: int,
    verdict: Verdict,
    bound: bool,
) -> Pulse:
    window = judged.sheet.windows[key]
    return Pulse(
        column=column,
        window=window,
        high=column != ASK and column % 2 == 0,
        bit=layout.bit_of(column),
        start_ns=start_ns,
        width_ns=width_ns,
        verdict=Verdict.UNKNOWN if bound else verdict,
        margin_us=margin_us(width_ns, window),
        share=margin_share(width_ns, window),
        bound=bound,
    )
