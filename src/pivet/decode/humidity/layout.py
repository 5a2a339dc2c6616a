"""How an exchange lies on the wire, and what tells its parts from idle and noise.

After the host's ask (low) the pulses come in fixed order.  Column numbers are those of
``HumidityExchanges.widths_ns``:

    0 release, high · 1 answer, low · 2 answer, high · 3 bit 0, low · 4 bit 0, high ·
    ... · 81 bit 39, low · 82 bit 39, high · 83 end, low

The limits here only find exchanges; whether a pulse is right is the judge's matter.
They hold for a sensor whose clock is off by up to 15 %.
"""

US = 1_000
MS = 1_000_000

BITS = 40
BYTES = 5
RELEASE, ANSWER_LOW, ANSWER_HIGH, FIRST_LOW, FIRST_HIGH = range(5)
END_LOW = FIRST_LOW + 2 * BITS
PULSES = END_LOW + 1

SPIKE_NS = 4 * US
"""A shorter pulse is a spike: reflections last 3 µs; the 0 of a copy 18, on a slow line still 6."""

IDLE_NS = 1 * MS
"""A high of this length is the idle line: five times the longest release (200 µs)."""

ASK_FLOOR_NS = 300 * US
"""A low of this length is the host's: over three times the longest low of a sensor (85 µs)."""

ASK_LEAST_NS = 10 * US
"""Out of an idle line, a shorter low is a disturbance, a longer one a (too short) ask:
firmware that mixes up units asks for 18 µs instead of 18 ms."""

LATE_NS = 100 * MS
"""How long after an ask an answer may come and still belong to it."""

MOST_LOWS = 2048
"""A run of more lows without idle is no frame; the rest of it is passed over and counted."""

ANSWER_LOW_NS = (55 * US, 160 * US)
ANSWER_HIGH_NS = (40 * US, 160 * US)
"""An answer's two pulses (75..88 µs) with 15 % of clock error and a slow rising edge."""

ANSWER_OVER_BIT = 1.1
"""An answer's low is longer than a bit's low by at least this factor: 80 / 50 by the sheets, but
80 / 68 in copies, and less where the line rises slowly."""


def low_column(bit: int) -> int:
    """Column of a bit's low.

    Args:
        bit: its number in the frame, from 0.
    """
    return FIRST_LOW + 2 * bit


def high_column(bit: int) -> int:
    """Column of a bit's high.

    Args:
        bit: its number in the frame, from 0.
    """
    return FIRST_HIGH + 2 * bit


def bit_of(column: int) -> int | None:
    """The bit that a column belongs to; None outside the bits.

    Args:
        column: the column of the stack: a pulse of the exchange.
    """
    return (column - FIRST_LOW) // 2 if FIRST_LOW <= column < END_LOW else None
