"""How long jobs tell their progress and learn that they are to stop."""

from collections.abc import Callable, Iterator, Sequence
from typing import TypeVar

T = TypeVar("T")

Progress = Callable[[float], None]
"""Called now and then with the share done, 0..1; raises ``Cancelled`` to stop the job."""


def silent(_share: float) -> None:
    """Progress for callers who do not look."""


def each(rows: Sequence[T], progress: Progress, step: int = 1) -> Iterator[T]:
    """Rows one by one, with progress before each, or before the first of so many.

    Raises:
        Cancelled: ``progress`` raised it.
    """
    for number, row in enumerate(rows):
        if not number % step:
            progress(number / len(rows))
        yield row


def each_whole(rows: Sequence[T], progress: Progress) -> Iterator[tuple[T, Progress]]:
    """Rows one by one, each with a progress of its own share of the whole job."""
    for number, row in enumerate(rows):
        yield row, part(progress, number / len(rows), (number + 1) / len(rows))


def part(progress: Progress, start: float, end: float) -> Progress:
    """Maps the progress of a step onto ``start``..``end`` of the whole job."""
    return lambda share: progress(start + (end - start) * share)
