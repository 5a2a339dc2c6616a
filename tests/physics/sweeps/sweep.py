"""One figure of a signal."""

from collections.abc import Callable
from dataclasses import dataclass

from pivet.signal.trace import Trace

Make = Callable[[float], Trace]


@dataclass(frozen=True)
class Sweep:
    """One figure of a signal.

    Attributes:
        name: for people.
        make: the capture of a figure, µs (a number where ``unit`` is 1000 or more).
        low, high: the least and the largest, µs.
        sensor: as which it is judged; None recognises.
        family: of the decoder.
        unit: a step of the figure, ns; 1000 counts.
    """

    name: str
    make: Make
    low: float
    high: float
    sensor: str | None
    family: str
    unit: int = 1

    def trace(self, figure: int) -> Trace:
        """The capture of a figure in ns."""
        return self.make(figure / 1000)
