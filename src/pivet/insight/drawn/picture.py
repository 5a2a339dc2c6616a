"""A picture as shapes, in a unit that is a pixel at 100 %.

Colours are no matter of geometry: each shape has a kind, and whoever shows it knows what colour
that is, in light and dark, on the screen and on paper.
"""

from collections.abc import Sequence
from enum import StrEnum

from pivet.frozen import FrozenValue
from pivet.judge.verdict import Verdict

Points = Sequence[tuple[float, float]]


class Kind(StrEnum):
    """What a shape is."""

    PAPER = "paper"
    BAND = "band"
    COMMON = "common"
    AXIS = "axis"
    INK = "ink"
    QUIET = "quiet"
    BEFORE = "before"
    AFTER = "after"
    SECOND = "second"
    GOOD = "good"
    BAD = "bad"
    NEAR = "near"
    MINE = "mine"
    CELL = "cell"
    LOW = "low"
    ZERO = "zero"
    ONE = "one"


def kind_of(verdict: Verdict) -> Kind:
    """How a pulse is drawn.

    Args:
        verdict: the verdict of the pulse.
    """
    return {Verdict.UNSOUND: Kind.BAD, Verdict.NEAR: Kind.NEAR}.get(verdict, Kind.INK)


class Box(FrozenValue):
    """A filled rectangle.

    Attributes:
        x, y: its upper left corner.
        width, height: of it.
        kind: what it is.
        strength: how much of its colour, 0 to 1.
    """

    x: float
    y: float
    width: float
    height: float
    kind: Kind
    strength: float = 1.0


class Stroke(FrozenValue):
    """A line from point to point; filled down to its first point's height when ``filled``.

    Attributes:
        points: the points, in order.
        kind: what it is.
        width: of the line.
        filled: the area it closes is filled, too.
    """

    points: Points
    kind: Kind
    width: float = 1.0
    filled: bool = False


class Words(FrozenValue):
    """A line of text.

    Attributes:
        x, y: where its base line begins, has its middle, or ends.
        text: the words.
        kind: what it is.
        anchor: ``start``, ``middle`` or ``end``.
        size: the size of the letters.
        bold: in heavier letters.
    """

    x: float
    y: float
    text: str
    kind: Kind = Kind.INK
    anchor: str = "start"
    size: float = 12.0
    bold: bool = False


class Cross(FrozenValue):
    """A mark that one can point at.

    Attributes:
        x, y: its middle.
        kind: what it is.
        exchange: the number of the exchange that it stands for.
        position: the pulse in it; -1 where there is only one.
        says: what is said of it.
    """

    x: float
    y: float
    kind: Kind
    exchange: int
    position: int
    says: str


Shape = Box | Stroke | Words | Cross


class Picture(FrozenValue):
    """Shapes on a sheet; later ones lie over earlier ones.

    Attributes:
        width, height: of the sheet.
        shapes: on it.
        says: what it shows, in a sentence, for those who do not see it.
    """

    width: float
    height: float
    shapes: tuple[Shape, ...]
    says: str = ""
