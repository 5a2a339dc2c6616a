"""What is made for some exchanges at once: whoever looks at one soon looks at the next."""

import threading
from collections.abc import Callable, Sequence
from typing import Generic, TypeVar

R = TypeVar("R")

FEW = 4
"""Exchanges that are made together at the first look ..."""

MANY = 256
"""... and at most, when one after the other is looked at."""

MORE = 4
"""So many times as many as before, each time that the look goes on."""


class Neighbours(threading.local, Generic[R]):
    """A row an exchange; those that stand with the one looked at last are kept, in each thread."""

    def __init__(self) -> None:
        self._first = self._end = -1
        self._size = 0
        self._of: tuple[object, ...] = ()
        self._rows: Sequence[R] = ()

    def row(
        self,
        index: int,
        make: Callable[..., Sequence[R]],
        *of: object,
        most: int = MANY,
    ) -> R:
        """The row of an exchange.

        Args:
            index: number of the exchange.
            make: gives the rows of some: is called with ``of``, the number of the first and one
                past that of the last; may give fewer where there are no more.
            *of: that the rows are made of; told from others by ``==``, the columns of a wire by
                which they are.
            most: how many exchanges are made together at most; a power of two.
        """
        if not (self._first <= index < self._end and self._of == of):
            goes_on = self._first - 1 <= index <= self._end and self._of == of
            size = min(self._size * MORE if goes_on else FEW, most)
            first = index - index % size
            self._rows = make(*of, first, first + size)
            self._first, self._end, self._size, self._of = first, first + size, size, of
        return self._rows[index - self._first]
