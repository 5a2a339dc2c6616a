"""What insight must know of a family; each has a package with one such object."""

from abc import ABC, abstractmethod
from collections.abc import Iterator, Sequence

from pivet.captures.wire import Wire
from pivet.errors import InputError
from pivet.insight.drawn.course import wave_picture
from pivet.insight.drawn.picture import Picture
from pivet.insight.grid import DRAWN, Grid
from pivet.insight.outcomes import Outcomes
from pivet.insight.printed.facts import Fact
from pivet.insight.pulses import Int64Array, Widths
from pivet.insight.readers import Reader, ReaderKind
from pivet.insight.suggestion import Suggestion
from pivet.judge.report import Report
from pivet.progress import Progress, silent

TAKEN_PX = 700.0
"""How wide the line of an exchange is drawn that has no picture of its own."""

Chosen = Sequence[tuple[Wire, Int64Array]]
"""Wires, and which of their exchanges, rising."""


class FamilyInsight(ABC):
    """Many exchanges of one family.

    Attributes:
        pairs: keys of windows whose pulses a reader tells apart by their length alone, the
            shorter first.
        position: what a position in an exchange is called.
        kinds: of readers, the usual one first.
    """

    pairs: tuple[tuple[str, str], ...] = ()
    position: str = "pulse"
    kinds: tuple[ReaderKind, ...] = ()

    def kind(self, name: str) -> ReaderKind:
        """A kind of reader by its name; the usual one for an empty name.

        Args:
            name: the name of the kind.

        Raises:
            InputError: the family has none of that name.
        """
        found = [kind for kind in self.kinds if kind.name == (name or self.kinds[0].name)]
        if not found:
            known = ", ".join(kind.name for kind in self.kinds)
            raise InputError(f"there is no reader {name!r} for this wire", f"choose one of {known}")
        return found[0]

    @abstractmethod
    def widths(self, wire: Wire) -> Iterator[Widths]:
        """All pulses of a wire, window by window, in the order on the wire.

        Args:
            wire: a wire of this family, decoded and judged.
        """

    @abstractmethod
    def read(self, wire: Wire, at: Int64Array, reader: Reader) -> Outcomes:
        """What a firmware would have made of exchanges.

        Args:
            wire: a wire of this family.
            at: which exchanges, rising, int64 (m,).
            reader: the firmware.
        """

    @abstractmethod
    def suggest(self, chosen: Chosen, reader: Reader, progress: Progress = silent) -> Suggestion:
        """Constants with which a kind of reader reads all of some exchanges.

        Args:
            chosen: the exchanges, of one or several wires.
            reader: its kind, and constants that stay as they are.
            progress: called now and then.
        """

    @abstractmethod
    def map_of(
        self,
        wire: Wire,
        at: Int64Array,
        reader: Reader,
        drawn: int = DRAWN,
        progress: Progress = silent,
    ) -> Grid | None:
        """Which share of exchanges a reader would read right, over two constants.

        Args:
            wire: a wire of this family.
            at: which exchanges, rising.
            reader: with the constants that the map does not vary.
            drawn: how many exchanges are drawn.
            progress: called now and then.

        Returns:
            None where there is nothing to draw from.
        """

    @abstractmethod
    def why(self, wire: Wire, at: Int64Array, found: Outcomes) -> Sequence[str]:
        """What decided exchanges that were not read right, in sentences.

        Args:
            wire: a wire of this family.
            at: which exchanges, rising, int64 (m,).
            found: what became of them.
        """

    @abstractmethod
    def facts(self, wire: Wire) -> list[Fact]:
        """What each exchange gave that should have given a reading, and how it can be mistaken.

        Args:
            wire: a wire of this family.
        """

    def picture(self, wire: Wire, report: Report, width: float) -> Picture:
        """One exchange, drawn.

        Args:
            wire: its wire.
            report: the report of the exchange.
            width: of the picture, at most.
        """
        return wave_picture(report, width)

    def taken_picture(
        self, wire: Wire, report: Report, reader: Reader, found: Outcomes, place: int
    ) -> Picture:
        """One exchange as a firmware took it; where that cannot be drawn, as it was.

        Args:
            wire: its wire.
            report: the report of the exchange.
            reader: the firmware.
            found: what became of exchanges.
            place: a place of this one among them.
        """
        return self.picture(wire, report, TAKEN_PX)
