"""What a given firmware would have made of the very edges that were captured."""

from collections.abc import Sequence

import numpy as np

from pivet.errors import InputError
from pivet.frozen import FrozenObject
from pivet.insight.grid import Grid
from pivet.insight.outcomes import Outcome, Outcomes
from pivet.insight.pulses import Int64Array
from pivet.insight.readers import Reader
from pivet.insight.registry import insight_of
from pivet.insight.resample import share_interval
from pivet.insight.side import Side
from pivet.insight.suggestion import Suggestion
from pivet.progress import Progress, silent

MOST_FAILED = 5


class Rehearsal(FrozenObject):
    """What became of the exchanges of one wire.

    Attributes:
        reader: the firmware.
        at: which exchanges were gone through, rising, int64 (m,).
        found: what became of each.
        why: what decided those that were not read right, in sentences.
        suggested: what these exchanges suggest.
        grid: over two constants; None where it was not asked for.
    """

    reader: Reader
    at: Int64Array
    found: Outcomes
    why: tuple[str, ...]
    suggested: Suggestion
    grid: Grid | None = None

    def count(self, outcome: Outcome) -> int:
        """How many exchanges ended so.

        Args:
            outcome: the outcome that is counted.
        """
        return self.found.count(outcome)

    @property
    def right(self) -> tuple[float, float, float]:
        """Share that is read right, and between what it lies in the long run, at 95 %."""
        hits, total = self.count(Outcome.RIGHT), len(self.found)
        return (hits / total if total else 0.0, *share_interval(hits, total))

    def failed(self) -> list[tuple[int, Outcome]]:
        """The first that were not read right; those taken although wrong stand ahead."""
        order = (Outcome.WRONG, Outcome.REFUSED, Outcome.TIMEOUT)
        rows = [
            (int(self.at[row]), outcome)
            for outcome in order
            for row in np.flatnonzero(self.found.outcome == outcome)[:MOST_FAILED].tolist()
        ]
        return rows[:MOST_FAILED]

    def as_json(self) -> dict[str, object]:
        """As docs/json.md has it."""
        _, low, high = self.right
        found: dict[str, object] = {
            "reader": self.reader.as_json(),
            "exchanges": len(self.found),
            **{outcome.code: self.count(outcome) for outcome in Outcome},
            "right_low": round(low, 4),
            "right_high": round(high, 4),
            "why": list(self.why),
            "suggested": dict(self.suggested.as_json()),
        }
        if self.grid is not None:
            found["map"] = self.grid.as_json()
        return found


def rehearse(
    side: Side, reader: Reader, progress: Progress = silent, with_map: bool = False
) -> Rehearsal:
    """Lets a firmware read exchanges.

    Args:
        side: the exchanges.
        reader: the firmware; its kind may be empty for the usual one.
        progress: called now and then.
        with_map: also draws a map over two constants.

    Raises:
        InputError: the family has no such reader.
    """
    insight = insight_of(side.wire)
    reader = insight.kind(reader.kind).filled(reader)
    at = np.flatnonzero(side.counted)
    found = insight.read(side.wire, at, reader)
    return Rehearsal(
        reader,
        at,
        found,
        tuple(insight.why(side.wire, at, found)),
        insight.suggest([(side.wire, at)], reader, progress),
        insight.map_of(side.wire, at, reader, progress=progress) if with_map else None,
    )


def suggest(sides: Sequence[Side], reader: Reader) -> Suggestion:
    """Constants that work for all exchanges of several wires together.

    Args:
        sides: the exchanges, at least one side; all of one family.
        reader: its kind, and constants that stay as they are.

    Raises:
        InputError: they are of different families, or there is no such reader.
    """
    insight = insight_of(sides[0].wire)
    if any(insight_of(side.wire) is not insight for side in sides):
        raise InputError("the wires are of different kinds", "name wires of one kind with --wire")
    reader = insight.kind(reader.kind).filled(reader)
    return insight.suggest([(side.wire, np.flatnonzero(side.counted)) for side in sides], reader)
