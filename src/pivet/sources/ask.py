"""Asks: what a host drives on a line before it only listens."""

from collections.abc import Sequence

from pivet.frozen import FrozenValue
from pivet.signal.trace import Level

MOST_STEP_US = 500_000
"""The longest step, as docs/probe-link.md has it."""


class Ask(FrozenValue):
    """A line is driven, let go, driven ... and then only listened to.

    Attributes:
        line: name of the line in its source.
        steps_us: how long each step lasts, µs; the line is driven in the first, let go in the
            second, and so on.
        drive: the level to which it is driven; ``HIGH`` only where nobody else drives the
            line, as on the trigger of an echo sensor.
    """

    line: str
    steps_us: tuple[int, ...]
    drive: Level = Level.LOW

    def __post_init__(self) -> None:
        if not self.steps_us or not all(0 < step <= MOST_STEP_US for step in self.steps_us):
            raise ValueError("an ask has steps of 1 µs to half a second")

    @property
    def length_us(self) -> int:
        """From its first edge to its end, µs."""
        return sum(self.steps_us)


def in_runs(steps: Sequence[int], most_period: int = 2) -> list[tuple[tuple[int, ...], int]]:
    """Steps as runs: some steps, and how often they come one after the other.

    Slots of 1-Wire come in pairs of steps, many alike, so runs of pairs shorten an ask.

    Args:
        steps: low and high by turns, µs.
        most_period: steps in one run.
    """
    runs: list[tuple[tuple[int, ...], int]] = []
    at = 0
    while at < len(steps):
        period = tuple(steps[at : at + most_period])
        times = 1
        while tuple(steps[at + times * most_period : at + (times + 1) * most_period]) == period:
            times += 1
        runs.append((period, times))
        at += times * len(period)
    return runs
