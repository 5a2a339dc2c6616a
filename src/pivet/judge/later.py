"""What is made when somebody first looks at it."""

from collections.abc import Callable
from typing import Any, Generic, TypeVar

from pivet.frozen import FrozenValue

T = TypeVar("T")


class Later(Generic[T]):
    """Calls a function at the first look; later looks get what it gave then.

    Args:
        make: gives it.
        *parts: that the function is given.
    """

    __slots__ = ("_made", "_make", "_parts")

    def __init__(self, make: Callable[..., T], *parts: object) -> None:
        self._make: Callable[..., T] | None = make
        self._parts = parts

    def __call__(self) -> T:
        """What the function gave."""
        make = self._make  # another thread may be at it as well
        if make is not None:
            self._made = make(*self._parts)
            self._make = None
        return self._made


class Call(FrozenValue, Generic[T]):
    """A function with all that it is given; equal to one that says the same.

    Attributes:
        make: gives what is asked for, each time anew.
        parts: that it is given.
    """

    make: Callable[..., T]
    parts: tuple[Any, ...] = ()

    def __call__(self) -> T:
        """What the function gives."""
        return self.make(*self.parts)
