"""What echo measurements leave behind for those that follow."""

import msgspec
import numpy as np
import numpy.typing as npt

from pivet.decode.echo import EchoExchanges
from pivet.decode.interface import ABSENT
from pivet.frozen import FrozenObject
from pivet.judge.echo.timeout import UNKNOWN, Longest

FloatArray = npt.NDArray[np.float64]


class Before(FrozenObject):
    """What is known of a wire from the measurements before.

    Attributes:
        trigger_ns: start of the last trigger; None without one, ns.
        distances: the last shots that could be given, as many as a median is of, float64 (k,), m.
        longest: its longest echoes.
        count: how many measurements, whole chapters.
    """

    trigger_ns: int | None = None
    distances: FloatArray = msgspec.field(default_factory=lambda: np.empty(0))
    longest: Longest = UNKNOWN
    count: int = 0

    def and_then(
        self, exchanges: EchoExchanges, given: FloatArray, over: int, longest: Longest
    ) -> "Before":
        """What is known after further measurements.

        Args:
            exchanges: that follow.
            given: their distances that can be given, m.
            over: how many shots make a median.
            longest: what is known of the longest echoes then.
        """
        triggered = np.flatnonzero(exchanges.trigger_ns != ABSENT)
        last = int(exchanges.start_ns[triggered[-1]]) if triggered.size else self.trigger_ns
        distances = np.concatenate((self.distances, given))[-over:]
        return Before(last, distances, longest, self.count + len(exchanges))


NOTHING = Before()
