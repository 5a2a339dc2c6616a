"""The four verdicts."""

from enum import IntEnum


class Verdict(IntEnum):
    """How an exchange, or one of its pulses, stands against the sheet; worst last."""

    SOUND = 0
    NEAR = 1
    UNKNOWN = 2
    UNSOUND = 3

    @property
    def word(self) -> str:
        """Short name in JSON."""
        return ("sound", "near", "unknown", "unsound")[self]

    @property
    def title(self) -> str:
        """Name for people."""
        return ("sound", "near a limit", "cannot tell", "unsound")[self]


VERDICTS = tuple(Verdict)
"""By their numbers."""

WORDS = tuple(verdict.word for verdict in Verdict)
"""The short names, by verdict."""
