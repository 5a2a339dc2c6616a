"""What many 1-Wire transactions say."""

from collections.abc import Iterator, Sequence

import numpy as np

from pivet.captures.wire import Wire
from pivet.decode.onewire import OneWireExchanges
from pivet.insight.drawn.picture import Picture
from pivet.insight.family import Chosen, FamilyInsight
from pivet.insight.grid import DRAWN, Grid
from pivet.insight.onewire.picture import transaction_picture
from pivet.insight.onewire.printed import facts_of
from pivet.insight.onewire.pulses import widths
from pivet.insight.onewire.reading import USUAL_SAMPLE_US, read
from pivet.insight.onewire.suggest import map_of, suggest
from pivet.insight.outcomes import UNDECIDED, Outcome, Outcomes
from pivet.insight.printed.facts import Fact
from pivet.insight.pulses import Int64Array, Widths
from pivet.insight.readers import Reader, ReaderKind
from pivet.insight.suggestion import Suggestion
from pivet.judge.onewire import JudgedTransactions
from pivet.judge.report import Report
from pivet.progress import Progress, silent

KINDS = (
    ReaderKind(
        "host",
        "looks once after the fall of each slot",
        {
            "threshold_us": "look after the fall",
            "slot_us": "slot",
            "recovery_us": "recovery",
            "presence_us": "look for presence",
            "reset_us": "reset",
            "rise_us": "later rise",
        },
        {"threshold_us": USUAL_SAMPLE_US},
    ),
)


class OneWireInsight(FamilyInsight):
    """Many 1-Wire transactions."""

    pairs = (("one", "hold"), ("one", "zero"))
    position = "slot"
    kinds = KINDS

    def widths(self, wire: Wire) -> Iterator[Widths]:
        """All pulses, window by window.

        Args:
            wire: a wire of this family.
        """
        return widths(_exchanges(wire), wire.sheet)

    def read(self, wire: Wire, at: Int64Array, reader: Reader) -> Outcomes:
        """What a host would have made of transactions."""
        return read(_exchanges(wire), at, reader)

    def suggest(self, chosen: Chosen, reader: Reader, progress: Progress = silent) -> Suggestion:
        """Constants with which a host reads all transactions."""
        return suggest([(_exchanges(wire), at) for wire, at in chosen], reader)

    def map_of(
        self,
        wire: Wire,
        at: Int64Array,
        reader: Reader,
        drawn: int = DRAWN,
        progress: Progress = silent,
    ) -> Grid | None:
        """When the host looks, against a later rise."""
        return map_of(_exchanges(wire), at, reader, drawn)

    def why(self, wire: Wire, at: Int64Array, found: Outcomes) -> Sequence[str]:
        """Which slots were taken for the other value, and who was not seen."""
        exchanges, sentences = _exchanges(wire), []
        rows = np.flatnonzero(found.decided != UNDECIDED)
        if rows.size:
            slots = exchanges.first_slot[at[rows]] + found.decided[rows]
            for bit in (0, 1):
                mine = exchanges.low_ns[slots][exchanges.bit[slots] == bit] / 1000
                if mine.size:
                    sentences.append(
                        f"{mine.size} of {rows.size} misread transactions begin with a {bit} that "
                        f"is low for {mine.min():.1f} to {mine.max():.1f} µs"
                    )
        missing = found.count(Outcome.TIMEOUT)
        if missing:
            sentences.append(f"in {missing} no presence is seen")
        return sentences

    def facts(self, wire: Wire) -> list[Fact]:
        """What each exchange gave."""
        return facts_of(*wire.columns(OneWireExchanges, JudgedTransactions))

    def picture(self, wire: Wire, report: Report, width: float) -> Picture:
        """Its bytes under each other; without a slot the line itself."""
        if not any(pulse.bit is not None for pulse in report.pulses):
            return super().picture(wire, report, width)
        return transaction_picture(report)


def _exchanges(wire: Wire) -> OneWireExchanges:
    return wire.columns(OneWireExchanges, JudgedTransactions)[0]
