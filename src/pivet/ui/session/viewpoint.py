"""Where a person looks on a wire: in its newest part, or in one that is read for that."""

from enum import Enum, auto

from pivet.captures.wire import Wire
from pivet.judge.chapter import CHAPTER
from pivet.person.choices import WireChoices

NOWHERE = 1 << 40
"""A number after every exchange."""


class Moved(Enum):
    """What growing did to what is looked at."""

    NOT = auto()
    ON = auto()
    STAYS = auto()


class Viewpoint:
    """The part of one wire that is looked at, and the exchange in it.

    Attributes:
        part: the part that is looked at when it is not the newest.
        index: of the exchange in ``wire``.
        follows: goes on to the newest exchange when one comes.
    """

    def __init__(self) -> None:
        self._newest: Wire | None = None
        self.part: Wire | None = None
        self.index = 0
        self.follows = False

    @property
    def wire(self) -> Wire | None:
        """The part that is looked at; of a short wire all of it."""
        return self._newest if self.part is None else self.part

    @property
    def number(self) -> int:
        """Number of the exchange."""
        return self.index + (self.wire.first if self.wire is not None else 0)

    def begin(self, newest: Wire | None, at_end: bool) -> None:
        """Looks at another wire."""
        self._newest, self.part = newest, None
        self.index = max(len(newest) - 1, 0) if newest is not None and at_end else 0
        self.follows = True

    def put(self, newest: Wire, index: int) -> None:
        """The wire is another now."""
        self._newest, self.part = newest, None
        self.index = min(index, max(len(newest) - 1, 0))

    def choose(self, newest: Wire, choices: WireChoices) -> None:
        """The wire is judged by other choices now."""
        self._newest = newest
        if self.part is not None:
            self.part = self.part.chosen(choices)

    def within(self, number: int) -> int:
        """The number of an exchange that there is, nearest to one that may not be."""
        end = self._newest.end if self._newest is not None else 0
        return min(max(number, 0), max(end - 1, 0))

    def sees(self, number: int) -> bool:
        """Whether it can go to an exchange without another part."""
        newest, part = self._newest, self.part
        return (
            newest is None
            or number >= newest.first
            or (part is not None and self.holds(part, number))
        )

    def holds(self, part: Wire, number: int) -> bool:
        """Whether a part holds an exchange, and all that may still say something about it."""
        behind = self.within((number // CHAPTER + 2) * CHAPTER - 1)
        return part.first <= number < part.end and behind < part.end

    def go(self, number: int, part: Wire | None = None) -> None:
        """Goes to an exchange.

        Args:
            number: of one that there is.
            part: was read for it; without one that can be seen from here, the oldest that can.
        """
        newest = self._newest
        if newest is None:
            return
        if number >= newest.first:
            part = None
        elif part is None:
            part = self.part
        self.part = part
        self.index = max(number - (newest if part is None else part).first, 0)
        self.follows = part is None and self.index >= len(newest) - 1

    def grow(self, newest: Wire) -> Moved:
        """The wire may have grown: goes on with it, or stays."""
        before, self._newest = self._newest, newest
        if newest is before or before is None or self.part is not None:
            return Moved.NOT
        if self.follows:
            self.index = max(len(newest) - 1, 0)
            return Moved.ON
        index = before.first + self.index - newest.first
        if index < 0:
            # What is looked at is no longer in the newest part: it is kept as it was.
            self.part = before
            return Moved.NOT
        self.index = index
        return Moved.STAYS
