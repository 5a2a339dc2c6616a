"""What is made for some exchanges at once: whoever looks at one soon looks at the next."""

import threading
from collections.abc import Callable, Sequence
from typing import Generic, TypeVar

R = TypeVar("R")

AT_ONCE = 256
"""Exchanges that are made together."""


class Neighbours(threading.local, Generic[R]):
    """A row an exchange; those that stand with the one looked at last are kept, in each thread."""

    def __init__(self) -> None:
        self._first = -1
        self._of: tuple[object, ...] = ()
        self._rows: Sequence[R] = ()

    def row(
        self,
        index: int,
        make: Callable[..., Sequence[R]],
        *of: object,
        at_once: int = AT_ONCE,
    ) -> R:
        """The row of an exchange.

        Args:
            index: number of the exchange.
            make: gives the rows of some: is called with ``of``, the number of the first and one
                past that of the last; may give fewer where there are no more.
            *of: that the rows are made of; told from others by ``==``, the columns of a wire by
                which they are.
            at_once: how many exchanges are made together.
        """
        first = index - index % at_once
        if self._first != first or self._of != of:
            self._rows = make(*of, first, first + at_once)
            self._first, self._of = first, of
        return self._rows[index - first]
