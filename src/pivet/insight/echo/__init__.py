"""What many echo measurements say."""

from collections.abc import Iterator, Sequence

import numpy as np

from pivet.captures.wire import Wire
from pivet.decode.echo import EchoExchanges
from pivet.decode.interface import ABSENT
from pivet.insight.drawn.picture import Picture
from pivet.insight.echo.picture import shots_picture
from pivet.insight.echo.printed import facts_of
from pivet.insight.echo.pulses import widths
from pivet.insight.echo.reading import (
    USUAL_PERIOD_US,
    USUAL_SPEED_M_S,
    Shots,
    map_of,
    read,
    suggest,
)
from pivet.insight.family import Chosen, FamilyInsight
from pivet.insight.grid import DRAWN, Grid
from pivet.insight.outcomes import Outcome, Outcomes
from pivet.insight.printed.facts import Fact
from pivet.insight.pulses import Int64Array, Widths
from pivet.insight.readers import Reader, ReaderKind
from pivet.insight.suggestion import Suggestion
from pivet.judge.echo import JudgedShots
from pivet.judge.report import Report
from pivet.progress import Progress, silent

ALL = {
    "timeout_us": "give up after",
    "pause_us": "from trigger to trigger",
    "speed_m_s": "speed of sound",
    "stall": "stalls",
}
KINDS = (
    ReaderKind(
        "timer",
        "measures the echo with a timer",
        {"resolution_us": "timer step", **ALL},
        {"speed_m_s": USUAL_SPEED_M_S},
    ),
    ReaderKind(
        "poll",
        "counts turns of a loop",
        {"period_us": "turn of the loop", **ALL},
        {"speed_m_s": USUAL_SPEED_M_S, "period_us": USUAL_PERIOD_US},
    ),
)


class EchoInsight(FamilyInsight):
    """Many echo measurements."""

    kinds = KINDS

    def widths(self, wire: Wire) -> Iterator[Widths]:
        """All pulses, window by window.

        Args:
            wire: a wire of this family.
        """
        return widths(_shots(wire)[1])

    def read(self, wire: Wire, at: Int64Array, reader: Reader) -> Outcomes:
        """What a firmware would have made of echoes."""
        return read(_shots(wire), at, reader)

    def suggest(self, chosen: Chosen, reader: Reader, progress: Progress = silent) -> Suggestion:
        """Timeout, pause and speed of sound."""
        return suggest([(_shots(wire), at) for wire, at in chosen], reader)

    def map_of(
        self,
        wire: Wire,
        at: Int64Array,
        reader: Reader,
        drawn: int = DRAWN,
        progress: Progress = silent,
    ) -> Grid | None:
        """Speed of sound against timeout."""
        return map_of(_shots(wire), at, reader, drawn, progress)

    def why(self, wire: Wire, at: Int64Array, found: Outcomes) -> Sequence[str]:
        """What was taken for a distance, and what was given up."""
        exchanges, judged = _shots(wire)
        wrong, sentences = found.outcome == Outcome.WRONG, []
        none = int(np.count_nonzero(wrong & ~judged.given[at]))
        if none:
            sentences.append(f"{none} pulses without a distance are taken for one")
        off = int(np.count_nonzero(wrong)) - none
        if off:
            sentences.append(f"{off} distances differ by more than the sensor's sheet promises")
        lost = found.outcome == Outcome.TIMEOUT
        unheard = int(np.count_nonzero(exchanges.flight_ns[at[lost]] == ABSENT))
        if unheard:
            sentences.append(f"{unheard} triggers have no echo on the wire")
        return sentences

    def facts(self, wire: Wire) -> list[Fact]:
        """What each exchange gave."""
        return facts_of(*_shots(wire))

    def picture(self, wire: Wire, report: Report, width: float) -> Picture:
        """The shot among its neighbours."""
        return shots_picture(*_shots(wire), report.number - wire.first, report)


def _shots(wire: Wire) -> Shots:
    return wire.columns(EchoExchanges, JudgedShots)
