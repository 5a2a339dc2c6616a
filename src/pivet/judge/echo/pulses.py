"""The pulses of one echo measurement."""

from pivet.decode.echo import DecodeMark, EchoExchanges
from pivet.decode.interface import ABSENT
from pivet.judge.echo.judged import JudgedShots, windows_at
from pivet.judge.pulses import Pulse, judged_pulses
from pivet.signal.uncertainty import at

TRIGGER, WAIT, ECHO, REST = range(4)
"""Columns, in the order on the wire."""


def pulses_of(exchanges: EchoExchanges, judged: JudgedShots, index: int) -> tuple[Pulse, ...]:
    """The pulses of measurement ``index``, in the order on the wire.

    Args:
        exchanges: decoded, columns of n exchanges.
        judged: what the judge says of them, as columns.
        index: of the exchange, from 0.
    """
    sheet, speed = judged.sheet, float(judged.speed[index])
    windows = {window.key: window for window in windows_at(sheet, speed)}
    echo_line = 1 if sheet.echo is not None and sheet.echo.lines == 2 else 0
    start, trigger = int(exchanges.start_ns[index]), int(exchanges.trigger_ns[index])
    rise, flight = int(exchanges.rise_ns[index]), int(exchanges.flight_ns[index])
    part = bool(exchanges.marks[index] & DecodeMark.CAPTURE_ENDED)
    rows: list[tuple[int, str, int, int, bool, int]] = []
    if trigger != ABSENT:
        rows.append((TRIGGER, "trigger", start, trigger, True, 0))
    if trigger != ABSENT and flight != ABSENT:
        rows.append((WAIT, "wait", start + trigger, rise - start - trigger, False, echo_line))
    if flight != ABSENT:
        rows.append((ECHO, "echo", rise, flight, True, echo_line))
    keys = list(windows)
    rest = int(judged.classes.least_ns[keys.index("rest"), index]) if "rest" in keys else ABSENT
    if rest != ABSENT:
        rows.append((REST, "rest", rise + flight, rest, False, echo_line))
    pulses = [
        (
            column,
            windows[key],
            high,
            windows[key].label,
            at_ns,
            width,
            None,
            part and column == (TRIGGER if flight == ABSENT else ECHO),
            line,
        )
        for column, key, at_ns, width, high, line in rows
    ]
    return judged_pulses(pulses, at(judged.resolution_ns, index))
