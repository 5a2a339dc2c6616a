"""Which exchanges were asked from here."""

from bisect import bisect_left
from collections import deque
from collections.abc import Sequence

NEAR_NS = 2_000_000
"""An exchange that starts so near to an ask is that ask's."""

ATTEMPTS_KEPT = 1024


class Attempts:
    """Which exchange was asked from here, and at which try."""

    def __init__(self) -> None:
        self._begins: deque[tuple[int, int]] = deque(maxlen=ATTEMPTS_KEPT)

    def add(self, begins: Sequence[tuple[int, int]]) -> None:
        """Further asks: when each began, ns, and which attempt it was.

        Args:
            begins: when each began, ns, and its number.
        """
        self._begins.extend(begins)

    def of(self, start_ns: int) -> int:
        """The attempt of the exchange that starts at a time; 0 when nobody here asked.

        Args:
            start_ns: of the exchange, ns.
        """
        at = bisect_left(self._begins, (start_ns - NEAR_NS, 0))
        if at < len(self._begins) and self._begins[at][0] <= start_ns + NEAR_NS:
            return self._begins[at][1]
        return 0
