"""A pulse of an exchange with its window, width and margin."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pivet.judge.margins import judge_widths, margin_share, margin_us
from pivet.judge.verdict import Verdict
from pivet.sheets.model import Window

VERDICTS = tuple(Verdict)


@dataclass(frozen=True, slots=True)
class Pulse:
    """One pulse of an exchange.

    Attributes:
        column: its number in the exchange; the family says what stands there.
        window: the window that it is measured against.
        high: the line's level.
        place: where it stands, for people: bits and bytes are counted from 1.
        bit: number of its bit, from 0; None outside the bits.
        start_ns: when it begins, ns.
        width_ns: how long it lasts, ns.
        verdict: against its window.
        margin_us: distance to the nearest limit, µs; negative outside.
        share: the same as a share of the way from limit to typical width.
        bound: the width is only a lower bound, so there is nothing to judge.
        line: which line of the wire, from 0.
    """

    column: int
    window: Window
    high: bool
    place: str
    bit: int | None
    start_ns: int
    width_ns: int
    verdict: Verdict
    margin_us: float
    share: float
    bound: bool = False
    line: int = 0

    @property
    def width_us(self) -> float:
        """How long it lasts, µs."""
        return self.width_ns / 1000

    @property
    def end_ns(self) -> int:
        """When it ends, ns."""
        return self.start_ns + self.width_ns

    @property
    def name(self) -> str:
        """Place and window, for people."""
        label = self.window.label
        return label if self.place == label else f"{self.place} · {label}"


@dataclass(frozen=True, slots=True)
class Mould:
    """What a pulse is made of, before it is judged; see ``Pulse``."""

    column: int
    window: Window
    high: bool
    place: str
    start_ns: int
    width_ns: int
    bit: int | None = None
    bound: bool = False
    line: int = 0


def judged_pulses(moulds: Sequence[Mould], resolution_ns: int) -> tuple[Pulse, ...]:
    """Pulses with verdict and margin, window by window.

    Args:
        moulds: what they are made of.
        resolution_ns: uncertainty of a width, ns.
    """
    verdicts = np.zeros(len(moulds), dtype=np.uint8)
    keys = np.array([mould.window.key for mould in moulds])
    widths = np.array([mould.width_ns for mould in moulds], dtype=np.int64)
    for key in set(keys.tolist()):
        rows = np.flatnonzero(keys == key)
        window = moulds[int(rows[0])].window
        verdicts[rows] = judge_widths(widths[rows], widths[rows], window, resolution_ns)
    return tuple(
        _pulse(mould, VERDICTS[verdict])
        for mould, verdict in zip(moulds, verdicts.tolist(), strict=True)
    )


def _pulse(mould: Mould, verdict: Verdict) -> Pulse:
    return Pulse(
        column=mould.column,
        window=mould.window,
        high=mould.high,
        place=mould.place,
        bit=mould.bit,
        start_ns=mould.start_ns,
        width_ns=mould.width_ns,
        verdict=Verdict.UNKNOWN if mould.bound else verdict,
        margin_us=margin_us(mould.width_ns, mould.window),
        share=margin_share(mould.width_ns, mould.window),
        bound=mould.bound,
        line=mould.line,
    )
