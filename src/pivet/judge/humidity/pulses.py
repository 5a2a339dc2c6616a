"""The pulses of one humidity exchange."""

import numpy as np

from pivet.decode.humidity import HumidityExchanges, layout
from pivet.decode.interface import ABSENT
from pivet.judge.humidity.classes import KEYS
from pivet.judge.humidity.judged import JudgedFrames
from pivet.judge.pulses import Pulse, Unjudged, judged_pulses
from pivet.signal.uncertainty import at

ASK = -1
"""Column number of the ask, which stands before the columns of ``layout``."""


def window_key(column: int, is_one: bool) -> str:
    """Key of the window for a column.

    Args:
        column: the column of the stack.
        is_one: a high there is a 1.
    """
    if column == ASK:
        return "ask"
    if column <= layout.ANSWER_HIGH:
        return KEYS[column + 1]
    if column == layout.END_LOW:
        return "end_low"
    if (column - layout.FIRST_LOW) % 2 == 0:
        return "bit_low"
    return "one_high" if is_one else "zero_high"


def pulses_of(exchanges: HumidityExchanges, judged: JudgedFrames, index: int) -> tuple[Pulse, ...]:
    """All complete pulses of exchange ``index``, in the order on the wire.

    Args:
        exchanges: decoded, columns of n exchanges.
        judged: what the judge says of them, as columns.
        index: of the exchange, from 0.
    """
    widths = exchanges.widths_ns[:, index]
    ones = (widths > exchanges.split_ns[index]).tolist()
    starts = exchanges.pulse_starts_ns(index).tolist()
    columns = np.flatnonzero(widths != ABSENT).tolist()
    rows = [(column, starts[column], int(widths[column])) for column in columns]
    start_ns, body_ns = int(exchanges.start_ns[index]), int(exchanges.body_ns[index])
    if body_ns > start_ns:
        rows.insert(0, (ASK, start_ns, body_ns - start_ns))
    clipped = int(judged.classes.least_ns[0, index]) == ABSENT
    pulses: list[Unjudged] = []
    for column, start, width in rows:
        ask = column == ASK
        window = judged.sheet.windows[window_key(column, not ask and ones[column])]
        bit = layout.bit_of(column)
        high, bound = not ask and column % 2 == 0, clipped and ask
        place = window.label if bit is None else f"bit {bit + 1}"
        pulses.append((column, window, high, place, start, width, bit, bound, 0))
    return judged_pulses(pulses, at(judged.resolution_ns, index))
