"""What a line may be that nobody recognised: offered, and decoded when the person says so."""

from dataclasses import dataclass

from pivet.sheets.model import Sheet
from pivet.signal.trace import Line

Turned = tuple[bool, ...]
"""Which lines of a wire are turned over."""


@dataclass(frozen=True, slots=True)
class Offer:
    """What lines may be.

    Attributes:
        names: of the lines, as ``--wire`` takes them.
        says: why, in plain words.
        sheet: as which they can be decoded; None where only the person can say.
        turned: which of the lines must be turned over for that.
    """

    names: str
    says: str
    sheet: Sheet | None = None
    turned: Turned = ()

    @property
    def inverted(self) -> bool:
        """Whether a line must be turned over."""
        return any(self.turned)


def turn_over(lines: tuple[Line, ...], turned: Turned) -> tuple[Line, ...]:
    """Lines of which some are turned over."""
    if not any(turned):
        return lines
    pairs = zip(lines, turned, strict=True)
    return tuple(line.turned_over() if over else line for line, over in pairs)
