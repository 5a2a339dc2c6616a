"""A wire: one line with the sensor on it, its exchanges and what is said of them."""

from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import HumidityDecoder, HumidityExchanges
from pivet.decode.humidity.columns import join
from pivet.decode.interface import Decoder
from pivet.judge.humidity import Judged, judge
from pivet.judge.recognise import better_than, rank_sheets
from pivet.judge.report import Report, report
from pivet.judge.verdict import Verdict
from pivet.judge.wording import count, seconds
from pivet.progress import Progress, silent
from pivet.sheets.model import Sheet
from pivet.signal.trace import Line, Trace

BATCH = 1 << 17
"""Edges fed at once: bounds memory, gives progress."""


@dataclass(frozen=True, slots=True, eq=False)
class Wire:
    """One wire of a capture.

    Attributes:
        line: its edges.
        resolution_ns: of the capture, ns.
        start_ns, end_ns: from and until when the line is known, ns.
        exchanges: decoded.
        judged: against ``sheet``.
        recognised: the sheet was found, not chosen by the person.
    """

    line: Line
    resolution_ns: int
    start_ns: int
    end_ns: int
    exchanges: HumidityExchanges = field(repr=False)
    judged: Judged = field(repr=False)
    recognised: bool

    @property
    def name(self) -> str:
        """Name of the line."""
        return self.line.name

    @property
    def sheet(self) -> Sheet:
        """The sheet that the wire is judged against."""
        return self.judged.sheet

    @property
    def verdicts(self) -> npt.NDArray[np.uint8]:
        """``Verdict`` of each exchange, uint8 (n,)."""
        return self.judged.verdict

    def __len__(self) -> int:
        return len(self.exchanges)

    def report(self, index: int) -> Report:
        """Everything about exchange ``index``."""
        return report(self.exchanges, self.judged, index, self.name)

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

    def judged_as(self, sheet: Sheet | None) -> "Wire":
        """The same wire against another sheet; None lets it be recognised."""
        judged = _judge(self.exchanges, sheet, self.resolution_ns)
        return replace(self, judged=judged, recognised=sheet is None)

    def count(self, verdict: Verdict) -> int:
        """Number of exchanges with this verdict."""
        return int(np.count_nonzero(self.verdicts == verdict))

    def next_not_sound(self, index: int, step: int) -> int | None:
        """The next exchange after (``step`` 1) or before (-1) ``index`` that is not sound."""
        others = np.flatnonzero(self.verdicts != Verdict.SOUND)
        found = others[others > index][:1] if step > 0 else others[others < index][-1:]
        return int(found[0]) if found.size else None

    def nearest(self, t_ns: int) -> int | None:
        """The exchange that stands at a time, or nearest to it."""
        starts = self.exchanges.start_ns
        if not starts.size:
            return None
        after = int(np.searchsorted(starts, t_ns, side="right"))
        if after == 0:
            return 0
        if after < starts.size and starts[after] - t_ns < t_ns - self.exchanges.end_ns[after - 1]:
            return after
        return after - 1


def decode_line(line: Line, trace: Trace, progress: Progress = silent) -> HumidityExchanges:
    """Humidity exchanges of one line.

    Raises:
        Cancelled: from ``progress``.
    """
    decoder: Decoder[HumidityExchanges] = HumidityDecoder(line.initial, trace.start_ns)
    edges, batches = line.edges_ns, []
    for start in range(0, edges.size, BATCH):
        piece = edges[start : start + BATCH]
        whole = start + BATCH >= edges.size
        batches.append(decoder.feed(piece, trace.end_ns if whole else int(piece[-1])))
        progress(min(1.0, (start + BATCH) / edges.size))
    batches.append(decoder.finish())
    return join(batches)


def make_wire(line: Line, trace: Trace, exchanges: HumidityExchanges, sheet: Sheet | None) -> Wire:
    """A wire from a decoded line; without a sheet it is recognised."""
    return Wire(
        line=line,
        resolution_ns=trace.resolution_ns,
        start_ns=trace.start_ns,
        end_ns=trace.end_ns,
        exchanges=exchanges,
        judged=_judge(exchanges, sheet, trace.resolution_ns),
        recognised=sheet is None,
    )


def _judge(exchanges: HumidityExchanges, sheet: Sheet | None, resolution_ns: int) -> Judged:
    if sheet is not None:
        better = better_than(exchanges, sheet) if len(exchanges) else None
        return judge(exchanges, sheet, resolution_ns, better)
    return judge(exchanges, rank_sheets(exchanges)[0].sheet, resolution_ns)
