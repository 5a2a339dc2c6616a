"""All that is known of one exchange of any family, as an object: made when somebody looks."""

from collections.abc import Callable, Mapping
from functools import partial
from typing import NamedTuple, Protocol

import numpy as np
import numpy.typing as npt

from pivet.decode.interface import ABSENT
from pivet.frozen import FrozenObject, FrozenValue, replace
from pivet.judge.finding import Finding
from pivet.judge.later import Call
from pivet.judge.neighbours import MANY, Neighbours
from pivet.judge.pulses import Pulse
from pivet.judge.verdict import VERDICTS, Verdict
from pivet.readings.units import AS_KEPT, Amount, UnitChoice
from pivet.sheets.model import Sheet, Window

More = tuple[str, tuple[Amount, ...]]
"""What else is to be known of a value, with a place ``{}`` for each amount."""


def said(words: str, *amounts: Amount) -> More:
    """What else is to be known of a value.

    Args:
        words: a few, with a place ``{}`` for each amount.
        *amounts: that are written in the unit that is chosen.
    """
    return words, amounts


NOTHING_MORE = Call(said, ("",))


class Value(FrozenValue):
    """A value that an exchange gave, or that was refused.

    Attributes:
        quantity, value, unit: what was measured.
        text: the value with as many decimals as the sensor has.
        reason: why it is refused; empty for a reading.
        rom: code of the 1-Wire device, in kernel form; empty for other families.
        flight_us: time of flight of an echo, µs.
        derived: made from another reading of the exchange.
        doubt: probability that it is wrong, of one that is refused for it.
        make_about: gives what else is to be known of it; called when somebody reads it.
    """

    quantity: str
    value: float
    unit: str
    text: str
    reason: str = ""
    rom: str = ""
    flight_us: float | None = None
    derived: bool = False
    doubt: float | None = None
    make_about: Call[More] = NOTHING_MORE

    def told(self, units: UnitChoice = AS_KEPT) -> str:
        """What else is to be known of it, in the units that were chosen; may be empty.

        Args:
            units: the units in which values are shown.
        """
        about, amounts = self.make_about()
        return about.format(*(units.words(*amount) for amount in amounts)) if amounts else about


WORDS = {
    "sum8": ("sum holds", "sum wrong", "no sum"),
    "crc8": ("CRC holds", "CRC wrong", "no CRC"),
}


class Check(FrozenValue):
    """The check of an exchange.

    Attributes:
        kind: name of the arithmetic; "none" where a family has no check.
        ok: whether it holds; None when there was nothing to check.
        sent, computed: the check values.
        make_says: gives the arithmetic written out, or why there is none; called when somebody
            reads it.
    """

    kind: str
    ok: bool | None
    sent: int | None = None
    computed: int | None = None
    make_says: Call[str] = Call(str)

    @property
    def word(self) -> str:
        """How it stands, in two words."""
        holds, wrong, nothing = WORDS.get(self.kind, ("", "", ""))
        return nothing if self.ok is None else holds if self.ok else wrong

    @property
    def says(self) -> str:
        """The arithmetic written out, or why there is none."""
        return self.make_says()


class WindowUse(NamedTuple):
    """The pulses of one window in one exchange; a tuple, since a long capture has many.

    Attributes:
        window: the window of the sheet.
        verdict: the verdict of the worst of them.
        number: how many pulses.
        min_us, max_us: shortest and longest, µs.
        worst_margin_us: distance to the nearest limit, µs; below 0 is outside.
    """

    window: Window
    verdict: Verdict
    number: int
    min_us: float
    max_us: float
    worst_margin_us: float


class Classes(Protocol):
    """Pulse lengths by window: a row a window, a column an exchange; -1 for none."""

    @property
    def least_ns(self) -> npt.NDArray[np.int32]:
        """Shortest pulse, ns."""
        ...

    @property
    def most_ns(self) -> npt.NDArray[np.int32]:
        """Longest pulse, ns."""
        ...

    def counts_of(self, first: int, last: int) -> npt.NDArray[np.integer]:
        """Number of pulses of each window in some exchanges, (k, m).

        Args:
            first: number of the first exchange.
            last: one past the number of the last.
        """
        ...


WindowRow = tuple[Window, int, int, float, float, float]
"""A window's pulses in an exchange: it, number of the verdict, how many, shortest, longest, and
distance to the nearest limit, µs."""

_windows: Neighbours[list[WindowRow]] = Neighbours()


def window_rows(
    judged: FrozenObject,
    classes: Classes,
    verdicts: npt.NDArray[np.uint8],
    windows_of: Callable[[], tuple[Window, ...]],
    index: int,
    *speed: float,
    most: int = MANY,
) -> list[WindowRow]:
    """How the pulses of each window were in an exchange; those without pulses are left out.

    Args:
        judged: to which the classes and the verdicts belong.
        classes: pulse lengths.
        verdicts: ``Verdict`` of each window, uint8 (k, n).
        windows_of: gives the windows, in the order of the rows of both.
        index: number of the exchange.
        *speed: of sound, m/s, where a window hangs on it.
        most: how many neighbours have the same windows, at most.
    """
    make = partial(_rows_of_windows, windows_of, classes, verdicts)
    return _windows.row(judged, index, make, *speed, most=most)


def _rows_of_windows(
    windows_of: Callable[[], tuple[Window, ...]],
    classes: Classes,
    verdicts: npt.NDArray[np.uint8],
    first: int,
    last: int,
) -> list[list[WindowRow]]:
    """The rows of some exchanges; only the windows that any of them has pulses of are worked at."""
    windows, least_ns = windows_of(), classes.least_ns[:, first:last]
    there = (least_ns != ABSENT).any(axis=1)
    present = [windows[at] for at in np.flatnonzero(there).tolist()]
    low = np.array([window.min_us for window in present])[:, None]
    limits = [np.inf if window.max_us is None else window.max_us for window in present]
    top = np.array(limits)[:, None]
    least, most = least_ns[there] / 1000, classes.most_ns[there, first:last] / 1000
    margin = np.round(np.minimum(least - low, top - most), 3)
    least[least_ns[there] == ABSENT] = -1.0
    counts = classes.counts_of(first, last)[there]
    columns = (verdicts[there, first:last], counts, least, most, margin)
    return [
        [row for row in zip(present, *each, strict=True) if row[3] >= 0]
        for each in zip(*(column.T.tolist() for column in columns), strict=True)
    ]


class Stretch(FrozenValue):
    """A named part of an exchange on the wire.

    Attributes:
        text, short: its name, and the same where there is little room.
        start_ns, end_ns: where it stands, ns.
        columns: its pulses.
    """

    text: str
    short: str
    start_ns: int
    end_ns: int
    columns: tuple[int, ...]


def stretch(text: str, short: str, pulses: list[Pulse]) -> list[Stretch]:
    """A stretch over some pulses; none over none.

    Args:
        text: over it, where there is room.
        short: where there is little.
        pulses: the pulses that it spans.
    """
    if not pulses:
        return []
    columns = tuple(pulse.column for pulse in pulses)
    return [Stretch(text, short, pulses[0].start_ns, pulses[-1].end_ns, columns)]


class Report(FrozenObject):
    """One exchange, judged.

    Attributes:
        number: of the exchange on its wire, from 0.
        wire: name of the wire.
        sheet: against which it was judged; says the family too.
        start_ns, end_ns: from the ask to the last edge, ns.
        verdict: the worst of all.
        headline: the verdict and its first cause, in a few words.
        data: whole bytes, in the order on the wire.
        check: sum or CRC.
        readings, refused: values, and values that are not to be used.
        gap: why there is no value at all; empty where there is one or none is due.
        due: a reading was to be expected.
        device, role: code of the 1-Wire device that is meant, in kernel form, and the person's
            name for it; empty for other families.
        facts: what only this family has, as JSON; see docs/json.md.
        findings: what was noticed, gravest first.
        detail: what only this family has.
        make_pulses: gives every pulse; called when somebody looks at them.
        make_windows: gives the use of each window with pulses; likewise.
        make_stretches: gives the named parts; likewise.
    """

    number: int
    wire: str
    sheet: Sheet
    start_ns: int
    end_ns: int
    verdict: Verdict
    headline: str
    data: bytes
    check: Check
    readings: tuple[Value, ...]
    refused: tuple[Value, ...]
    gap: str
    findings: tuple[Finding, ...]
    detail: object
    make_pulses: Callable[[], tuple[Pulse, ...]]
    make_windows: Callable[[], list[WindowRow]]
    make_stretches: Callable[[tuple[Pulse, ...]], list[Stretch]]
    due: bool = True
    device: str = ""
    role: str = ""
    facts: Mapping[str, object] = {}

    def numbered(self, number: int) -> "Report":
        """The same under another number.

        Args:
            number: of the exchange on its whole wire, from 0.
        """
        return replace(self, number=number)

    @property
    def pulses(self) -> tuple[Pulse, ...]:
        """Every pulse, in the order on the wire; made at the first look."""
        return self.make_pulses()

    @property
    def windows(self) -> dict[str, WindowUse]:
        """How the pulses of each window were, by its key; windows without pulses are left out."""
        return {
            window.key: WindowUse(window, VERDICTS[verdict], number, least, most, margin)
            for window, verdict, number, least, most, margin in self.make_windows()
        }

    @property
    def stretches(self) -> list[Stretch]:
        """Named parts, in the order on the wire."""
        return self.make_stretches(self.pulses)


def headline_of(
    verdict: Verdict, findings: tuple[Finding, ...], causes: dict[str, str], sound: str
) -> str:
    """The verdict and its first cause, in a few words.

    Args:
        verdict: the verdict of the exchange.
        findings: the findings of the exchange, gravest first.
        causes: a few words by code.
        sound: what is said when nothing is wrong.
    """
    if verdict is Verdict.SOUND:
        return sound
    worst = next((finding for finding in findings if finding.weight is verdict), None)
    cause = causes.get(worst.code, "") if worst else ""
    title = verdict.title.capitalize()
    return f"{title}: {cause}" if cause else title


def as_float(value: np.floating | float) -> float:
    """A value without the dust of binary fractions.

    Args:
        value: in the kept unit.
    """
    return round(float(value), 6)
