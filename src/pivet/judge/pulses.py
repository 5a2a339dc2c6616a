"""A pulse of an exchange with its window, width and margin."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from pivet.judge.margins import judge_widths, margin_share, margin_us
from pivet.judge.verdict import Verdict
from pivet.sheets.model import Window

VERDICTS = tuple(Verdict)


class Pulse(NamedTuple):
    """One pulse of an exchange.

    Attributes:
        column: its number in the exchange; the family says what stands there.
        window: the window that it is measured against.
        high: the line's level.
        place: where it stands, for people: bits and bytes are counted from 1.
        start_ns: when it begins, ns.
        width_ns: how long it lasts, ns.
        bit: number of its bit, from 0; None outside the bits.
        bound: the width is only a lower bound, so there is nothing to judge.
        line: which line of the wire, from 0.
        verdict: against its window.
    """

    column: int
    window: Window
    high: bool
    place: str
    start_ns: int
    width_ns: int
    bit: int | None = None
    bound: bool = False
    line: int = 0
    verdict: Verdict = Verdict.UNKNOWN

    @property
    def width_us(self) -> float:
        """How long it lasts, µs."""
        return self.width_ns / 1000

    @property
    def end_ns(self) -> int:
        """When it ends, ns."""
        return self.start_ns + self.width_ns

    @property
    def margin_us(self) -> float:
        """Distance to the nearest limit, µs; negative outside."""
        return margin_us(self.width_ns, self.window)

    @property
    def share(self) -> float:
        """The margin as a share of the way from limit to typical width."""
        return margin_share(self.width_ns, self.window)

    @property
    def name(self) -> str:
        """Place and window, for people."""
        label = self.window.label
        return label if self.place == label else f"{self.place} · {label}"


Unjudged = tuple[int, Window, bool, str, int, int, int | None, bool, int]
"""The fields of a ``Pulse`` up to its verdict."""


def judged_pulses(rows: Sequence[Unjudged], resolution_ns: int) -> tuple[Pulse, ...]:
    """Pulses with their verdicts, window by window; those that are bounds have none.

    Args:
        rows: their other fields.
        resolution_ns: uncertainty of a width, ns.
    """
    groups: dict[str, list[int]] = {}
    for number, row in enumerate(rows):
        groups.setdefault(row[1].key, []).append(number)
    verdicts = [Verdict.UNKNOWN] * len(rows)
    for numbers in groups.values():
        widths = np.array([rows[number][5] for number in numbers], dtype=np.int64)
        found = judge_widths(widths, widths, rows[numbers[0]][1], resolution_ns)
        for number, verdict in zip(numbers, found.tolist(), strict=True):
            if not rows[number][7]:
                verdicts[number] = VERDICTS[verdict]
    return tuple(Pulse(*row, verdict) for row, verdict in zip(rows, verdicts, strict=True))
