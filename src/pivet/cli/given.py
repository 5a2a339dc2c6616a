"""Paths that are told as they were typed."""

from pathlib import Path


class Given(type(Path())):  # type: ignore[misc]
    """A path from the command line; ``./a.vcd`` and ``night/`` stay so in all that is said.

    What is made of it (its folder, a file beside it) is told as any path.

    Args:
        words: as they were typed.
    """

    # Elsewhere than at the command line a path is nobody's wording.
    _given = ""

    def __new__(cls, *words: str) -> "Given":
        made: Given = super().__new__(cls, *words)
        made._given = words[0] if len(words) == 1 else ""
        return made

    def __str__(self) -> str:
        return self._given or super().__str__()

    def _plain(self) -> Path:
        return Path(super().__str__())

    def __eq__(self, other: object) -> bool:
        # Newer Pythons compare what is told.
        return self._plain() == (other._plain() if isinstance(other, Given) else other)

    def __hash__(self) -> int:
        return hash(self._plain())

    def with_segments(self, *words: str) -> Path:
        """What newer Pythons make of it, plain again."""
        return Path(*words)
