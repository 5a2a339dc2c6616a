"""Rounds of a search: passes that together find all devices of a line."""

from dataclasses import dataclass, field

from pivet.frozen import FrozenValue
from pivet.sheets.onewire import ROM_BITS


def search_key(code: int) -> int:
    """Place of a code in search order: its bits, the first on the wire weighing most.

    Args:
        code: the code of the device: eight bytes as a number, the family in the lowest.
    """
    return int(f"{code:0{ROM_BITS}b}"[::-1], 2)


class Pass(FrozenValue):
    """One pass of a search.

    Attributes:
        index: its transaction.
        code: the code that it found.
        found: codes found so far in its round, itself included.
        last: no device is left to find.
    """

    index: int
    code: int
    found: tuple[int, ...]
    last: bool


@dataclass(slots=True)
class Rounds:
    """Puts the passes of one search command into rounds.

    Attributes:
        known: codes of the last whole round, in search order; None before the first.
    """

    known: tuple[int, ...] | None = None
    _found: list[int] = field(default_factory=list)
    _over: bool = True

    def add(self, index: int, code: int, forks: int) -> Pass:
        """A pass that found a device.

        Args:
            index: its transaction.
            code: what it found.
            forks: bits at which devices differed.
        """
        if self._over or search_key(code) <= search_key(self._found[-1]):
            self._found = []
        self._found.append(code)
        last = not forks & ~code
        self._over = last
        return Pass(index, code, tuple(self._found), last)

    def broken(self) -> tuple[int, ...]:
        """A pass that found none; gives the codes found so far."""
        return () if self._over else tuple(self._found)

    def whole(self) -> tuple[tuple[int, ...] | None, tuple[int, ...]]:
        """After the last pass: the codes known before, and those of this round."""
        before, self.known = self.known, tuple(self._found)
        return before, self.known
