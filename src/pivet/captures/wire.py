"""A wire: its lines with the sensor on them, its exchanges and what is said of them."""

from collections.abc import Mapping
from typing import TypeVar

import numpy as np
import numpy.typing as npt
from msgspec.structs import force_setattr

from pivet.decode.interface import Exchanges
from pivet.families.family import AnyFamily
from pivet.frozen import FrozenObject, replace
from pivet.judge.judgement import Judgement
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.judge.wording import count, seconds
from pivet.person.choices import NO_CHOICE, WireChoices
from pivet.readings.track import Track
from pivet.sheets.model import Sheet
from pivet.signal.naming import shared_name
from pivet.signal.trace import Line, Trace
from pivet.signal.uncertainty import Uncertainty, of_exchanges

X = TypeVar("X", bound=Exchanges)
Y = TypeVar("Y", bound=Judgement)

NO_NAMES: Mapping[str, str] = {}


class Wire(FrozenObject):
    """One wire of a capture.

    Attributes:
        lines: its edges, in the order of its family.
        resolution_ns: of the capture, ns.
        start_ns, end_ns: from and until when the lines are known, ns.
        family: the family whose exchanges it carries.
        exchanges: decoded, columns of the family.
        judged: against ``sheet``, columns of the family.
        choices: what the person chose.
        first: number of its first exchange, where this is a part of something longer.
        title: what the person calls it; empty for the names of its lines.
        name: names of the lines, as ``--wire`` takes them; made of them, not given.
    """

    lines: tuple[Line, ...]
    resolution_ns: int
    start_ns: int
    end_ns: int
    family: AnyFamily
    exchanges: Exchanges
    judged: Judgement
    choices: WireChoices
    first: int = 0
    title: str = ""
    name: str = ""

    def __post_init__(self) -> None:
        # Kept, since every report asks for it.
        force_setattr(self, "name", ",".join(line.name for line in self.lines))

    @property
    def label(self) -> str:
        """The name for people: of several lines what their names share."""
        if self.title:
            return self.title
        return shared_name([line.name for line in self.lines])

    @property
    def edge_count(self) -> int:
        """Edges of all its lines."""
        return sum(line.edges_ns.size for line in self.lines)

    @property
    def sheet(self) -> Sheet:
        """The sheet that the wire is judged against."""
        return self.judged.sheet

    @property
    def recognised(self) -> bool:
        """The sheet was found, not chosen by the person."""
        return self.choices.sheet is None

    @property
    def verdicts(self) -> npt.NDArray[np.uint8]:
        """``Verdict`` of each exchange, uint8 (n,)."""
        return self.judged.verdict

    @property
    def tracks(self) -> tuple[Track, ...]:
        """The readings over the exchanges."""
        return self.judged.tracks

    def __len__(self) -> int:
        return len(self.exchanges)

    def columns(self, exchanges: type[X], judged: type[Y]) -> tuple[X, Y]:
        """Its exchanges and how they were judged, as the columns of one family.

        Args:
            exchanges: the type of its exchanges.
            judged: the type of what its judge says.

        Raises:
            TypeError: the wire is of another family.
        """
        if isinstance(self.exchanges, exchanges) and isinstance(self.judged, judged):
            return self.exchanges, self.judged
        raise TypeError(f"{self.name} is of the family {self.family.key}")

    def report(self, index: int, names: Mapping[str, str] = NO_NAMES) -> Report:
        """Everything about exchange ``index``; ``names`` are the person's names of devices.

        Args:
            index: number of the exchange, from 0.
            names: by code of the device.
        """
        name = self.title or self.name
        found = self.family.report(self.exchanges, self.judged, index, name, names)
        return found.numbered(self.first + index) if self.first else found

    @property
    def end(self) -> int:
        """Number after that of its last exchange."""
        return self.first + len(self)

    def leftovers(self) -> list[str]:
        """What belongs to no exchange, in plain words."""
        found, strays = [], self.exchanges.stray_edges
        if strays.size:
            first = seconds(int(self.exchanges.stray_start_ns[0]))
            edges = count(int(strays.sum()), "edge")
            found.append(f"{edges} before or between the exchanges left out, first at {first}")
        starts = self.exchanges.spike_start_ns
        after = np.searchsorted(self.exchanges.start_ns, starts, side="right") - 1
        inside = after >= 0
        inside[inside] = starts[inside] < self.exchanges.end_ns[after[inside]]
        outside = int(np.count_nonzero(~inside))
        if outside:
            spikes = count(outside, "spike")
            found.append(f"{spikes} outside the exchanges removed")
        return found

    def chosen(self, choices: WireChoices) -> "Wire":
        """The same wire with other choices, judged anew.

        Args:
            choices: what the person wants of the wire.
        """
        uncertain = _uncertainty(self.lines, self.exchanges, self.resolution_ns)
        judged = self.family.judge(self.exchanges, len(self.lines), uncertain, choices)
        return replace(self, judged=judged, choices=choices)

    def judged_as(self, sheet: Sheet | None) -> "Wire":
        """The same wire against another sheet; None lets it be recognised.

        Args:
            sheet: the other one; None lets it be recognised.
        """
        return self.chosen(replace(self.choices, sheet=sheet))

    def count(self, verdict: Verdict) -> int:
        """Number of exchanges with this verdict.

        Args:
            verdict: the verdict that is counted.
        """
        return int(np.count_nonzero(self.verdicts == verdict))

    def next_not_sound(self, index: int, step: int) -> int | None:
        """The next exchange after (``step`` 1) or before (-1) ``index`` that is not sound.

        Args:
            index: number of the exchange, from 0.
            step: 1 or -1.
        """
        others = np.flatnonzero(self.verdicts != Verdict.SOUND)
        found = others[others > index][:1] if step > 0 else others[others < index][-1:]
        return int(found[0]) if found.size else None

    def nearest(self, t_ns: int) -> int | None:
        """The exchange that stands at a time, or nearest to it.

        Args:
            t_ns: the moment, ns.
        """
        starts = self.exchanges.start_ns
        if not starts.size:
            return None
        after = int(np.searchsorted(starts, t_ns, side="right"))
        if after == 0:
            return 0
        if after < starts.size and starts[after] - t_ns < t_ns - self.exchanges.end_ns[after - 1]:
            return after
        return after - 1


def _uncertainty(lines: tuple[Line, ...], exchanges: Exchanges, step_ns: int) -> Uncertainty:
    return of_exchanges(lines, exchanges.start_ns, exchanges.end_ns, step_ns)


def make_wire(
    family: AnyFamily,
    lines: tuple[Line, ...],
    trace: Trace,
    exchanges: Exchanges,
    choices: WireChoices = NO_CHOICE,
) -> Wire:
    """A wire from decoded lines; without a chosen sheet it is recognised.

    Args:
        family: that decodes and judges.
        lines: its edges, in the order of its family.
        trace: the trace they belong to.
        exchanges: decoded, columns of n exchanges.
        choices: what the person chose.
    """
    uncertain = _uncertainty(lines, exchanges, trace.resolution_ns)
    return Wire(
        lines=lines,
        resolution_ns=trace.resolution_ns,
        start_ns=trace.start_ns,
        end_ns=trace.end_ns,
        family=family,
        exchanges=exchanges,
        judged=family.judge(exchanges, len(lines), uncertain, choices),
        choices=choices,
    )
