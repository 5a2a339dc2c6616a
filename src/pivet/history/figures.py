"""Figures of wires and their readings: as text, as CSV, or as JSON Lines.

See docs/readings.md for the columns and keys.
"""

import csv
import io
import json
from collections.abc import Iterable, Iterator, Sequence
from enum import StrEnum
from typing import Any, NamedTuple

import numpy as np

from pivet.files.spreadsheet import harmless_row
from pivet.history.reliability import Hours, Reliability, reliability
from pivet.history.sentences import reliability_lines, summary_lines
from pivet.history.times import second_times, utc_times
from pivet.history.wire import WireHistory
from pivet.judge.verdict import WORDS
from pivet.readings.series import Series
from pivet.readings.statistics import summarise
from pivet.readings.units import UnitChoice

FIGURES = ("least", "low", "median", "mean", "high", "most", "spread")
OF_WIRE = ("retries", "longest_gap_s", "every_s", "least_margin")
OF_SERIES = ("quantity", "who", "unit", "due", "given", *FIGURES, "correction")


class FiguresForm(StrEnum):
    """How figures are written."""

    TEXT = "txt"
    CSV = "csv"
    LINES = "jsonl"


class WireFigures(NamedTuple):
    """A wire and what it read.

    Attributes:
        told: how reliable it was.
        series: its readings.
        clock: whether times are by the calendar.
        file: the file that it is of, where wires of several are told together.
    """

    told: Reliability
    series: Sequence[Series]
    clock: bool
    file: str = ""


def wire_figures(
    histories: Sequence[WireHistory], series: Iterable[Series], clock: bool, file: str = ""
) -> WireFigures:
    """Works out the figures of one wire.

    Args:
        histories: the histories of the wire, at least one.
        series: readings, of which only its own count.
        clock: whether times are by the calendar.
        file: the file that it is of, where wires of several are told together.
    """
    own = [one for one in series if one.sensor.wire == histories[0].name]
    return WireFigures(reliability(histories, clock), own, clock, file)


def figures_text(wires: Iterable[WireFigures], units: UnitChoice, form: FiguresForm) -> str:
    """The figures of wires, in the units that were chosen.

    Args:
        wires: the wires of a file.
        units: the units in which values are shown.
        form: text, CSV or JSON.
    """
    lines = {FiguresForm.TEXT: _text, FiguresForm.CSV: _csv, FiguresForm.LINES: _json}[form]
    return "".join(lines(wires, units))


def _text(wires: Iterable[WireFigures], units: UnitChoice) -> Iterator[str]:
    file = ""
    for wire in wires:
        if wire.file != file:
            file = wire.file
            yield f"{file}:\n\n"
        for line in reliability_lines(wire.told, wire.clock):
            yield f"{line}\n"
        for line in summary_lines(wire.series, units):
            yield f"{line}\n"
        yield "\n"


def _json(wires: Iterable[WireFigures], units: UnitChoice) -> Iterator[str]:
    for wire in wires:
        yield json.dumps(_object(wire, units), ensure_ascii=False) + "\n"


def _csv(wires: Iterable[WireFigures], units: UnitChoice) -> Iterator[str]:
    """A row a quantity; a wire that gave none has one too."""
    text = io.StringIO()
    table = csv.writer(text, lineterminator="\n")
    rows = list(wires)
    file = ["file"] if any(wire.file for wire in rows) else []
    table.writerow([*file, "wire", "sensor", "exchanges", *WORDS, *OF_WIRE, *OF_SERIES, "advice"])
    for wire in rows:
        found = _object(wire, units)
        verdicts = found["verdicts"]
        first = [*(found[name] for name in (*file, "wire", "sensor", "exchanges"))]
        first += [*(verdicts[word] for word in WORDS), *(found[name] for name in OF_WIRE)]
        for reading in found["readings"] or [{}]:
            cells = [*first, *(reading.get(name) for name in OF_SERIES), found["advice"]]
            table.writerow(harmless_row(cells))
    yield text.getvalue()


def _object(wire: WireFigures, units: UnitChoice) -> dict[str, Any]:
    told = wire.told
    return ({"file": wire.file} if wire.file else {}) | {
        "wire": told.name,
        "sensor": told.sheet,
        "exchanges": told.count,
        "verdicts": dict(zip(WORDS, told.counts.tolist(), strict=True)),
        "reasons": dict(told.reasons),
        "retries": told.retries,
        "longest_gap_s": _number(told.gap_s, 3),
        "every_s": _number(told.every_s, 3),
        "least_margin": _number(told.margin, 3),
        "least_margin_exchange": told.margin_number if told.margin_number >= 0 else None,
        "advice": told.advice,
        "hours": _hours(told.hours, wire.clock),
        "readings": [_series_object(one, units) for one in wire.series],
    }


def _hours(hours: Hours, clock: bool) -> list[dict[str, Any]]:
    begins = utc_times(hours.begin_ns) if clock else second_times(hours.begin_ns)
    rows = zip(begins, hours.counts.tolist(), hours.reasons, strict=True)
    return [
        {"begin": begin, **dict(zip(WORDS, counts, strict=True)), "reason": reason}
        for begin, counts, reason in rows
    ]


def _series_object(row: Series, units: UnitChoice) -> dict[str, Any]:
    figures = summarise(units.shown(row.quantity, row.values))
    places = units.decimals(row.quantity, row.decimals) + 1
    return {
        "quantity": row.quantity,
        "who": row.sensor.who,
        "unit": units.of(row.quantity).symbol,
        "due": figures.count,
        "given": figures.given,
        **{name: _number(getattr(figures, name), places) for name in FIGURES},
        "correction": row.correction,
    }


def _number(value: float, places: int) -> float | None:
    return None if not np.isfinite(value) else round(float(value), places)
