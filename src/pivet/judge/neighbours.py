"""What is made for some exchanges at once: whoever looks at one soon looks at the next."""

import threading
from collections.abc import Callable, Sequence
from typing import Generic, TypeVar
from weakref import ref

from pivet.frozen import FrozenObject

R = TypeVar("R")

FEW = 4
"""Exchanges that are made together at the first look ..."""

MANY = 256
"""... and at most, when one after the other is looked at."""

MORE = 4
"""So many times as many as before, each time that the look goes on."""


class Neighbours(threading.local, Generic[R]):
    """A row an exchange; those that stand with the one looked at last are kept, in each thread.

    The columns of which they were made are not: whoever closes a capture gets its memory back.
    """

    def __init__(self) -> None:
        self._owner: Callable[[], object] = lambda: None
        self._more: tuple[float, ...] = ()
        self._first = self._end = -1
        self._rows: Sequence[R] = ()

    def row(
        self,
        owner: FrozenObject,
        index: int,
        make: Callable[[int, int], Sequence[R]],
        *more: float,
        most: int = MANY,
    ) -> R:
        """The row of an exchange.

        Args:
            owner: the columns of its wire.
            index: number of the exchange.
            make: gives the rows of some: is called with the number of the first and one past that
                of the last; may give fewer where there are no more.
            *more: what the rows hang on beside their columns.
            most: how many exchanges are made together at most; a power of ``MORE``.
        """
        same = self._owner() is owner and self._more == more
        if not (same and self._first <= index < self._end):
            goes_on = same and self._first - 1 <= index <= self._end
            size = min((self._end - self._first) * MORE if goes_on else FEW, most)
            first = index - index % size
            self._rows = make(first, first + size)
            self._owner, self._more = ref(owner), more
            self._first, self._end = first, first + size
        return self._rows[index - self._first]
