"""What the stretches of an exchange are called under the strip."""

from dataclasses import dataclass

from pivet.decode.humidity import layout
from pivet.judge.pulses import ASK
from pivet.judge.report import Report

BITS_IN_BYTE = 8


@dataclass(frozen=True, slots=True)
class Label:
    """A named stretch.

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


def labels_of(report: Report) -> list[Label]:
    """The stretches of an exchange: ask, answer, values, check sum."""
    groups = [("ask", "ask", (ASK,)), ("answer", "ans.", (layout.ANSWER_LOW, layout.ANSWER_HIGH))]
    shown = {row.quantity: f"{row.text} {row.unit}" for row in (*report.readings, *report.refused)}
    for rule in report.sheet.values:
        columns = _bytes(rule.first, 2)
        text = shown.get(rule.quantity, rule.quantity)
        groups.append((text if report.readings else f"{rule.quantity}", rule.quantity[:4], columns))
    groups.append(("check sum", "sum", _bytes(layout.BYTES - 1, 1)))
    places = {pulse.column: pulse for pulse in report.pulses}
    found = []
    for text, short, columns in groups:
        there = [places[column] for column in columns if column in places]
        if there:
            ends = there[0].start_ns, there[-1].end_ns
            found.append(Label(text, short, *ends, tuple(row.column for row in there)))
    return found


def _bytes(first: int, count: int) -> tuple[int, ...]:
    start = layout.low_column(first * BITS_IN_BYTE)
    return tuple(range(start, start + 2 * BITS_IN_BYTE * count))
