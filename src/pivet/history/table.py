"""Rows of a table out of series: one an exchange, in order of time."""

from collections.abc import Iterator, Sequence

import numpy as np

from pivet.files.readings_table import Cell, TableRow
from pivet.frozen import FrozenObject
from pivet.history.times import iso_times, second_times, utc_times
from pivet.judge.verdict import Verdict
from pivet.progress import Progress, silent
from pivet.readings.series import GIVEN, Series
from pivet.readings.units import QUANTITIES

FINE_DECIMALS = 4
"""A 1-Wire thermometer of 12 bit counts in sixteenths."""

AT_ONCE = 20_000
"""How many rows are made at a time."""


class _Group(FrozenObject):
    """The series of one sensor: their rows are the same exchanges.

    Attributes:
        lead: the series whose rows count.
        columns: each series with the row of each row of ``lead``; -1 for none.
    """

    lead: Series
    columns: tuple[tuple[Series, np.ndarray], ...]


def quantities_of(series: Sequence[Series]) -> list[str]:
    """The quantities that occur, in their usual order.

    Args:
        series: the series of any number of sensors.
    """
    there = {one.quantity for one in series}
    return [quantity for quantity in QUANTITIES if quantity in there]


def table_rows(
    series: Sequence[Series], clock: bool, progress: Progress = silent, file: str = ""
) -> Iterator[TableRow]:
    """An exchange a row, in order of time.

    Args:
        series: the series of any number of sensors.
        clock: times are by the calendar, not since the capture began.
        progress: called with the share done, 0 to 1.
        file: that each row says it is from.
    """
    groups = _groups(series)
    times = np.concatenate(
        [group.lead.times_ns for group in groups] or [np.empty(0, dtype=np.int64)]
    )
    owner = np.concatenate(
        [np.full(len(group.lead), number) for number, group in enumerate(groups)] or [times]
    ).astype(np.int64)
    place = np.concatenate([np.arange(len(group.lead)) for group in groups] or [times])
    order = np.argsort(times, kind="stable")
    for start in range(0, order.size, AT_ONCE):
        part = order[start : start + AT_ONCE]
        texts = utc_times(times[part]) if clock else second_times(times[part])
        walls = iso_times(times[part]) if clock else [""] * part.size
        rows = zip(texts, walls, owner[part].tolist(), place[part].tolist(), strict=True)
        for text, wall, number, row in rows:
            yield _row(groups[number], row, text, wall, file)
        progress(min((start + AT_ONCE) / order.size, 1.0))


def _groups(series: Sequence[Series]) -> list[_Group]:
    by_sensor: dict[tuple[str, str], list[Series]] = {}
    for one in series:
        by_sensor.setdefault((one.sensor.wire, one.sensor.who), []).append(one)
    groups = []
    for rows in by_sensor.values():
        rows.sort(key=lambda one: list(QUANTITIES).index(one.quantity))
        lead = max(rows, key=len)
        groups.append(_Group(lead, tuple((one, _places(lead, one)) for one in rows)))
    return groups


def _places(lead: Series, row: Series) -> np.ndarray:
    if len(row) == len(lead):
        return np.arange(len(lead))
    keys = {
        key: at for at, key in enumerate(zip(row.part.tolist(), row.number.tolist(), strict=True))
    }
    wanted = zip(lead.part.tolist(), lead.number.tolist(), strict=True)
    return np.array([keys.get(key, -1) for key in wanted], dtype=np.int64)


def _row(group: _Group, row: int, time: str, local: str, file: str) -> TableRow:
    lead = group.lead
    reason = lead.why_text(row) if lead.why[row] != GIVEN else ""
    cells = []
    for series, places in group.columns:
        at = int(places[row])
        if at >= 0:
            cells.append(_cell(series, at, reason))
    who = lead.sensor.who
    return TableRow(
        time=time,
        wire=lead.sensor.wire,
        role=who if who != lead.rom else "",
        device=lead.rom,
        exchange=int(lead.number[row]),
        cells=tuple(cells),
        verdict=Verdict(int(lead.verdict[row])).word,
        reason=reason,
        local=local,
        file=file,
    )


def _cell(series: Series, at: int, reason: str) -> Cell:
    given = series.why[at] == GIVEN
    own = "" if given else series.why_text(at)
    raw = None if series.raw is None or not given else float(series.raw[at])
    return Cell(
        series.quantity,
        float(series.values[at]) if given else None,
        FINE_DECIMALS if series.rom else series.decimals,
        own if own != reason else "",
        raw,
    )
