"""What a family of sensors brings: everything that the bench must know of it stands here.

A new family is one such object in ``pivet.families`` and one painter in the window.
"""

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from typing import Generic, TypeVar

import numpy as np
import numpy.typing as npt

from pivet.decode.interface import Decoder, Exchanges
from pivet.judge.copied import Copied, Meaning
from pivet.judge.judgement import Judgement, Likeness
from pivet.judge.margins import LeastMargins
from pivet.judge.notices import NoticeBit
from pivet.judge.report import Report
from pivet.person.choices import WireChoices
from pivet.sheets.load import sheets_of
from pivet.sheets.model import Sheet
from pivet.signal.trace import Level, Line
from pivet.signal.uncertainty import Uncertainty

SHARED_LEAST_S = 0.05

E = TypeVar("E", bound=Exchanges)
J = TypeVar("J", bound=Judgement)
B = TypeVar("B")


class Family(ABC, Generic[E, J, B]):
    """Decoding, judging and telling the exchanges of one family.

    Its exchanges, how they are judged, and what a chapter leaves behind for the next are types of
    its own; the rest of the program hands them back to the family that made them, see
    ``AnyFamily``.

    Attributes:
        key: its name in sheets.
        title: what its wires carry, for people.
        lines: how many lines a wire of it can have.
        notices: what can be noticed.
        words: a few words for each notice that can head an exchange, by its code.
        copied: which bytes of it ``meanings`` can explain, for people; empty where none.
        has_devices: several devices can share a wire; a round asks them all.
        watched_s: how often a sensor is asked when nobody says: often enough to watch, seldom
            enough to read, s.
        precedence: of families that look asked but not answered alike, the lowest is taken:
            lone resets of 500 µs could be a humidity sensor's asks, which are mostly longer.
    """

    key: str
    title: str
    precedence: int = 1
    lines: tuple[int, ...] = (1,)
    notices: type[NoticeBit]
    words: Mapping[str, str]
    copied: str = ""
    has_devices: bool = False
    watched_s: float = 2.0

    def least_interval_s(self, sheet: Sheet) -> float:
        """How often a sensor can be asked at most, s.

        Args:
            sheet: the sheet of the sensor type.
        """
        return max(sheet.interval_s, SHARED_LEAST_S)

    def why_interval(self, sheet: Sheet) -> str:
        """Why not sooner, in a few words.

        Args:
            sheet: the sheet of the sensor type.
        """
        return sheet.interval_note or "its conversion takes so long"

    @property
    def sheets(self) -> tuple[Sheet, ...]:
        """Its sensor types."""
        return sheets_of(self.key)

    @abstractmethod
    def decoder(self, initial: tuple[Level, ...], start_ns: int) -> Decoder[E]:
        """A decoder for lines that begin at these levels.

        Args:
            initial: a level a line.
            start_ns: where the capture begins.
        """

    @abstractmethod
    def join(self, batches: Sequence[E]) -> E:
        """Batches of one wire, in order of time, as one.

        Args:
            batches: columns, in order of time.
        """

    @abstractmethod
    def likeness(self, exchanges: E, lines: int, step_ns: int = 1) -> Likeness:
        """How much so many decoded lines, captured in a step, look like a wire of this family.

        Args:
            exchanges: the exchanges of some lines, decoded as this family.
            lines: how many lines.
            step_ns: of the capture, ns.
        """

    def nearest(self, exchanges: E) -> tuple[str, Sheet | None] | None:
        """What lines may be that do not look like a wire of this family.

        Args:
            exchanges: decoded, columns of n exchanges.

        Returns:
            a sentence, and the sheet as which they can be decoded (None where none fits); None
            where there is nothing to say.
        """
        return None

    def answering(self, quiet: Sequence[Line]) -> Line | None:
        """Of lines that are low all the time, that on which a second line's asks are answered.

        Args:
            quiet: lines that hardly move.
        """
        return None

    def remarks(self, lines: tuple[Line, ...]) -> Sequence[str]:
        """What is odd about which lines a wire is made of, in plain words.

        Args:
            lines: the lines of a wire.
        """
        return ()

    @abstractmethod
    def rows(self, exchanges: E, first: int, last: int) -> E:
        """Exchanges ``first`` up to ``last``; what lies beside them stays whole.

        Args:
            exchanges: decoded, columns of n exchanges.
            first: index of the first.
            last: one past the index of the last.
        """

    @abstractmethod
    def judge(
        self,
        exchanges: E,
        line_count: int,
        resolution_ns: Uncertainty,
        choices: WireChoices,
        before: B | None = None,
    ) -> J:
        """Judges exchanges; without a chosen sheet it is recognised.

        ``before`` is what the exchanges before these left behind, see ``after``; None at the
        first of a wire.

        Args:
            exchanges: decoded, columns of n exchanges.
            line_count: how many lines the wire has.
            resolution_ns: uncertainty of every width, ns.
            choices: what the person chose.
            before: what the exchanges before these left behind, see ``after``; None at the
                first of a wire.
        """

    @abstractmethod
    def after(self, exchanges: E, judged: J, count: int, before: B | None) -> B:
        """What the first ``count`` exchanges, a chapter, leave behind for those that follow.

        Args:
            exchanges: decoded, columns of n exchanges.
            judged: what the judge says of them, as columns.
            count: how many exchanges the chapter has.
            before: what those before them left behind.
        """

    @abstractmethod
    def states(self, exchanges: E, judged: J) -> Sequence[npt.NDArray[np.generic]]:
        """Columns, (..., n), on which everything rests that what follows may change.

        Args:
            exchanges: n of them.
            judged: the same n.
        """

    @abstractmethod
    def report(
        self, exchanges: E, judged: J, index: int, wire: str, names: Mapping[str, str]
    ) -> Report:
        """Everything about one exchange; ``names`` are the person's names of devices.

        Args:
            exchanges: decoded, columns of n exchanges.
            judged: what the judge says of them, as columns.
            index: of the exchange, from 0.
            wire: its name, for people.
            names: the person's names of devices.
        """

    @abstractmethod
    def margins(self, judged: J) -> LeastMargins:
        """The least margin of each exchange.

        Args:
            judged: what the judge says of a wire.
        """

    @property
    def silencing(self) -> int:
        """Notices, as bits, of exchanges that leave every device of the wire without a reading."""
        return 0

    @abstractmethod
    def data(self, exchanges: E, index: int) -> bytes:
        """Whole bytes of one exchange, in the order on the wire.

        Args:
            exchanges: the exchanges of one wire.
            index: which, from 0.
        """

    def meanings(self, copied: Copied) -> Sequence[Meaning]:
        """What bytes that somebody copied mean for each of its types; empty where none has them.

        Args:
            copied: the bytes, and what came with them.
        """
        return ()

    def device(self, judged: J, index: int) -> str:
        """Code of the device that one exchange means, in kernel form; empty where there is none.

        Args:
            judged: what the judge says of one wire.
            index: which, from 0.
        """
        return ""

    def is_part(self, exchanges: E, other: E) -> bool:
        """Whether a line shows only a share of what another line shows whole.

        Simulators record the drivers of a line beside the line itself.

        Args:
            exchanges: the exchanges of the line in question.
            other: of the other line.
        """
        return False


AnyFamily = Family[Exchanges, Judgement, object]
"""As the rest of the program sees a family: of its columns only what all families' have."""
