"""What is made when somebody first looks at it."""

from collections.abc import Callable
from typing import Generic, TypeVar

T = TypeVar("T")


class Later(Generic[T]):
    """Calls a function at the first look; later looks get what it gave then.

    Args:
        make: gives it.
        *parts: that the function is given.
    """

    __slots__ = ("_made", "_make", "_parts")

    _made: T

    def __init__(self, make: Callable[..., T], *parts: object) -> None:
        self._make, self._parts = make, parts

    def __call__(self) -> T:
        """What the function gave."""
        try:
            made: T = self._made
        except AttributeError:  # not made yet
            made = self._made = self._make(*self._parts)
        return made
