"""A figure and how a list of them is printed."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Figure:
    """One measured ratio.

    Attributes:
        name: what was measured.
        value: the ratio.
        limit: what it may be at most (or, with ``at_least``, must be at least); None for no limit.
        said: the two sides of the ratio.
        at_least: the limit is a lower one.
    """

    name: str
    value: float
    limit: float | None
    said: str
    at_least: bool = False

    @property
    def holds(self) -> bool:
        """Whether the limit is kept."""
        if self.limit is None:
            return True
        return self.value >= self.limit if self.at_least else self.value <= self.limit


def table(figures: Iterable[Figure]) -> Iterator[str]:
    """Lines of a table."""
    yield f"{'figure':<52}{'value':>9}  {'limit':<10}{'':<5} measured"
    for row in figures:
        sign = "≥" if row.at_least else "≤"
        limit = "-" if row.limit is None else f"{sign} {row.limit:g}"
        verdict = "" if row.limit is None else ("ok" if row.holds else "MISS")
        yield f"{row.name:<52}{row.value:>9.2f}  {limit:<10}{verdict:<5} {row.said}"
