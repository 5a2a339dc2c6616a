"""What many humidity exchanges say."""

from collections.abc import Iterator, Sequence

import numpy as np

from pivet.captures.wire import Wire
from pivet.decode.humidity import HumidityExchanges, layout
from pivet.insight.drawn.picture import Picture
from pivet.insight.family import Chosen, FamilyInsight
from pivet.insight.grid import DRAWN, Grid
from pivet.insight.humidity.map import map_of
from pivet.insight.humidity.picture import frame_picture
from pivet.insight.humidity.printed import facts_of
from pivet.insight.humidity.pulses import widths
from pivet.insight.humidity.reading import USUAL_PERIOD_US, USUAL_THRESHOLD_US, read
from pivet.insight.humidity.suggest import suggest
from pivet.insight.outcomes import UNDECIDED, Outcome, Outcomes
from pivet.insight.printed.facts import Fact
from pivet.insight.pulses import Int64Array, Widths
from pivet.insight.readers import Reader, ReaderKind
from pivet.insight.suggestion import Suggestion
from pivet.judge.humidity import JudgedFrames
from pivet.judge.report import Report
from pivet.progress import Progress, silent

FEWEST_DRAWN = 4
"""An exchange of fewer pulses has no bits to draw."""

STALLED = {"stall": "stalls"}
KINDS = (
    ReaderKind(
        "width",
        "measures each high with a timer",
        {
            "threshold_us": "threshold",
            "resolution_us": "timer step",
            "timeout_us": "give up after",
            **STALLED,
        },
        {"threshold_us": USUAL_THRESHOLD_US},
    ),
    ReaderKind(
        "sample",
        "looks once, some time after the rise",
        {"threshold_us": "look after the rise", "timeout_us": "give up after", **STALLED},
        {"threshold_us": USUAL_THRESHOLD_US},
    ),
    ReaderKind(
        "poll",
        "counts turns of a loop",
        {
            "period_us": "turn of the loop",
            "jitter_us": "jitter of a turn",
            "work_us": "puts a bit away",
            "limit": "give up after turns",
            "number": "turns that make a 1",
            "threshold_us": "or a high longer than",
            "timeout_us": "give up after",
            **STALLED,
        },
        {"period_us": USUAL_PERIOD_US},
    ),
)


class HumidityInsight(FamilyInsight):
    """Many humidity exchanges."""

    pairs = (("zero_high", "one_high"),)
    position = "bit"
    kinds = KINDS

    def widths(self, wire: Wire) -> Iterator[Widths]:
        """All pulses, window by window.

        Args:
            wire: a wire of this family.
        """
        return widths(_exchanges(wire), wire.sheet)

    def read(self, wire: Wire, at: Int64Array, reader: Reader) -> Outcomes:
        """What a firmware would have made of frames."""
        return read(_exchanges(wire), at, reader)

    def suggest(self, chosen: Chosen, reader: Reader, progress: Progress = silent) -> Suggestion:
        """Constants with which a kind of reader reads all frames."""
        return suggest([(_exchanges(wire), at) for wire, at in chosen], reader, progress)

    def map_of(
        self,
        wire: Wire,
        at: Int64Array,
        reader: Reader,
        drawn: int = DRAWN,
        progress: Progress = silent,
    ) -> Grid | None:
        """Threshold, or turn of a loop, against stalls."""
        return map_of(_exchanges(wire), at, reader, drawn, progress)

    def why(self, wire: Wire, at: Int64Array, found: Outcomes) -> Sequence[str]:
        """Which bits were taken for the other, and what was waited for in vain."""
        exchanges = _exchanges(wire)
        misread = np.isin(found.outcome, (Outcome.REFUSED, Outcome.WRONG))
        misread &= found.decided != UNDECIDED
        rows, sentences = np.flatnonzero(misread), []
        if rows.size:
            columns = found.decided[rows]
            bits = (columns - layout.FIRST_HIGH) // 2
            sent = exchanges.packed[bits // 8, at[rows]] >> (7 - bits % 8) & 1
            lasted = exchanges.widths_ns[columns, at[rows]] / 1000
            for bit in (0, 1):
                mine = lasted[sent == bit]
                if mine.size:
                    sentences.append(
                        f"{mine.size} of {rows.size} misread frames begin with a {bit} taken for "
                        f"a {1 - bit}: it lasts {mine.min():.1f} to {mine.max():.1f} µs"
                    )
        late = np.flatnonzero(found.outcome == Outcome.TIMEOUT)
        if late.size:
            short = int(np.count_nonzero(exchanges.bit_count[at[late]] < layout.BITS))
            if short:
                sentences.append(
                    f"{short} of {late.size} given up have not all their bits on the wire"
                )
            if late.size > short:
                waited = late.size - short
                sentences.append(f"{waited} of {late.size} given up wait longer than the firmware")
        return sentences

    def facts(self, wire: Wire) -> list[Fact]:
        """What each exchange gave."""
        return facts_of(*wire.columns(HumidityExchanges, JudgedFrames))

    def picture(self, wire: Wire, report: Report, width: float) -> Picture:
        """Its bits under each other; without any the line itself."""
        if len(report.pulses) < FEWEST_DRAWN:
            return super().picture(wire, report, width)
        return frame_picture(report)

    def taken_picture(
        self, wire: Wire, report: Report, reader: Reader, found: Outcomes, place: int
    ) -> Picture:
        """Its bits, with those that the firmware took for the other."""
        if len(report.pulses) < FEWEST_DRAWN:
            return super().taken_picture(wire, report, reader, found, place)
        gave_up = found.outcome[place] == Outcome.TIMEOUT
        taken = None if gave_up else found.taken[:, place].tobytes()
        return frame_picture(report, taken, reader.threshold_us)


def _exchanges(wire: Wire) -> HumidityExchanges:
    return wire.columns(HumidityExchanges, JudgedFrames)[0]
