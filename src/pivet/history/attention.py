"""What needs attention first: every sensor with its last readings, limits and health."""

from collections.abc import Mapping, Sequence
from enum import IntEnum

import numpy as np

from pivet.frozen import FrozenObject
from pivet.history.reliability import HOUR_NS, Reliability, reliability
from pivet.history.sentences import moment, percent, sentence, worst_hour
from pivet.history.wire import WireHistory, by_wire
from pivet.judge.verdict import Verdict
from pivet.readings.limits import Crossing
from pivet.readings.series import Sensor, Series
from pivet.readings.statistics import reach_ns

OFTEN = 0.05
"""A wire of which a larger share is unsound in the last hour wants a look."""

NEAR_MARGIN = 0.2


class Urgency(IntEnum):
    """How much a sensor needs a look."""

    WELL = 0
    REMARK = 1
    LOOK = 2
    NOW = 3


class SensorState(FrozenObject):
    """A sensor, as one wants it at the start of a day.

    Attributes:
        wire, who: of the sensor; see ``Sensor``.
        sheet: id of its type.
        rows: each quantity with the row of its last value; -1 where none was ever given.
        last_ns: when the last value was read; None when none ever was.
        silent: why there is no value now; empty while there is.
        health: share of sound exchanges of the wire in its last hour, of a device among others
            of the reads that it answered in the last hour of all; NaN without any.
        urgency: how much it needs a look.
        says: why, one sentence; may be empty.
    """

    wire: str
    who: str
    sheet: str
    rows: tuple[tuple[Series, int], ...]
    last_ns: int | None
    silent: str
    health: float
    urgency: Urgency
    says: str

    @property
    def name(self) -> str:
        """For people."""
        return f"{self.wire}, {self.who}" if self.who else self.wire


def states(
    histories: Sequence[WireHistory],
    series: Sequence[Series],
    crossings: Mapping[Sensor, Crossing],
    clock: bool,
    whole: Mapping[str, Reliability],
) -> list[SensorState]:
    """Every sensor, the one that needs attention most first.

    Args:
        histories: the histories, in order of time where they are of the same wire.
        series: what was measured.
        crossings: limits that are crossed at the end of the readings.
        clock: whether times are by the calendar.
        whole: how reliable each wire was over all of them.
    """
    wires = by_wire(histories)
    ends = [int(history.times_ns[-1]) for history in histories if len(history)]
    end_ns = max(ends, default=0)
    recent = {name: _recent(rows, whole[name]) for name, rows in wires.items()}
    found = []
    for (wire, who), rows in _by_sensor(series).items():
        crossed = {s: c for s, c in crossings.items() if (s.wire, s.who) == (wire, who)}
        made = _state(wire, who, rows, recent[wire], whole[wire], crossed, (end_ns, clock))
        found.append(made)
    return sorted(found, key=lambda state: (-state.urgency, state.wire, state.who))


def _by_sensor(series: Sequence[Series]) -> dict[tuple[str, str], list[Series]]:
    found: dict[tuple[str, str], list[Series]] = {}
    for one in series:
        found.setdefault((one.sensor.wire, one.sensor.who), []).append(one)
    return found


def _recent(rows: Sequence[WireHistory], whole: Reliability) -> Reliability:
    """How reliable a wire was in its last hour, which may be all that there is."""
    last = rows[-1]
    end = int(last.times_ns[-1]) if len(last) else 0
    hour = last.between(end - HOUR_NS, end)
    return whole if hour is last and len(rows) == 1 else reliability([hour])


def _state(
    wire: str,
    who: str,
    rows: Sequence[Series],
    recent: Reliability,
    whole: Reliability,
    crossed: Mapping[Sensor, Crossing],
    now: tuple[int, bool],
) -> SensorState:
    end_ns, clock = now
    lasts = [(one, _last_given(one)) for one in rows]
    times = [int(one.times_ns[at]) for one, at in lasts if at >= 0]
    last_ns = max(times, default=None)
    silent = _silence(rows[0], last_ns, end_ns)
    urgency, says = _urgency(rows[0], silent, last_ns, recent, whole, crossed, clock)
    return SensorState(
        wire=wire,
        who=who,
        sheet=rows[0].sheet,
        rows=tuple(lasts),
        last_ns=last_ns,
        silent=silent,
        health=_health(rows[0], recent, end_ns),
        urgency=urgency,
        says=says,
    )


def _health(row: Series, recent: Reliability, end_ns: int) -> float:
    if not row.sensor.who:
        return recent.share(Verdict.SOUND) if recent.count else float("nan")
    own = row.between(end_ns - HOUR_NS, end_ns)
    return float(own.given.mean()) if len(own) else float("nan")


def _last_given(row: Series) -> int:
    given = np.flatnonzero(row.given[-4096:])
    if given.size:
        return max(len(row) - 4096, 0) + int(given[-1])
    given = np.flatnonzero(row.given)
    return int(given[-1]) if given.size else -1


def _silence(row: Series, last_ns: int | None, end_ns: int) -> str:
    """Why there is no value now: the last read failed, or nobody asks any more."""
    if not len(row):
        return "never read"
    if not row.given[-1]:
        return row.why_text(len(row) - 1)
    if last_ns is not None and end_ns - last_ns > reach_ns(row.times_ns) + 1e9:
        return "not asked any more"
    return ""


def _urgency(
    row: Series,
    silent: str,
    last_ns: int | None,
    recent: Reliability,
    whole: Reliability,
    crossed: Mapping[Sensor, Crossing],
    clock: bool,
) -> tuple[Urgency, str]:
    if silent:
        since = "" if last_ns is None else f" since {moment(last_ns, clock)}"
        weight = Urgency.REMARK if silent == "not asked any more" else Urgency.NOW
        return weight, f"No reading{since}: {silent}. {whole.advice}".strip()
    if crossed:
        sensor, crossing = next(iter(crossed.items()))
        since = moment(crossing.since_ns, clock)
        return (
            Urgency.NOW,
            f"{sentence(sensor.quantity)} {crossing.side} its limit since {since}.",
        )
    if row.sensor.who:
        return _device_urgency(row)
    share = recent.share(Verdict.UNSOUND)
    if share > OFTEN:
        reason = recent.reasons[0][0] if recent.reasons else "unsound"
        text = f"{percent(share)} of the last hour unsound: {reason}."
        return Urgency.LOOK, f"{text} {recent.advice}".strip()
    hour = worst_hour(whole, clock)
    if hour:
        return Urgency.LOOK, f"{hour}. {whole.advice}".strip()
    if recent.share(Verdict.NEAR) > OFTEN:
        return Urgency.REMARK, f"Often near a limit. {recent.advice}".strip()
    if not row.given.all() and whole.reasons:
        words, seen = whole.reasons[0]
        return Urgency.REMARK, f"{sentence(words)}, {seen}×."
    return Urgency.WELL, ""


def _device_urgency(row: Series) -> tuple[Urgency, str]:
    """What is to be said of one device of a wire: only its own reads count."""
    failed = row.why[~row.given]
    if not failed.size:
        return Urgency.WELL, ""
    words = row.reasons[int(np.bincount(failed).argmax())]
    recent = row.between(int(row.times_ns[-1]) - HOUR_NS, int(row.times_ns[-1]))
    often = np.count_nonzero(~recent.given) > OFTEN * len(recent)
    text = f"{sentence(words)}, {failed.size} of {len(row)} reads failed."
    return (Urgency.LOOK if often else Urgency.REMARK), text
