"""How long jobs tell their progress and learn that they are to stop."""

from collections.abc import Callable

Progress = Callable[[float], None]
"""Called now and then with the share done, 0..1; raises ``Cancelled`` to stop the job."""


def silent(_share: float) -> None:
    """Progress for callers who do not look."""


def part(progress: Progress, start: float, end: float) -> Progress:
    """Maps the progress of a step onto ``start``..``end`` of the whole job."""
    return lambda share: progress(start + (end - start) * share)
