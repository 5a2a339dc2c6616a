"""Where everything of a humidity frame stands in a stack: a row a byte, a cell a bit.

The window and a report draw from the same places: all bits on one scale, each aligned at its rise,
so that what is too long or too short stands out.
"""

from collections.abc import Iterator

from pivet.decode.humidity import layout
from pivet.insight.drawn.picture import Kind, Points
from pivet.insight.drawn.place import Rect
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report
from pivet.readings.forms import byte_names
from pivet.sheets.model import Sheet, Window

BYTES = layout.BYTES
BITS_IN_ROW = 8
PREAMBLE = ("ask", "release", "answer_low", "answer_high", "end_low")
"""Windows of the pulses that are no bits; they stand in a line above."""

PREAMBLE_HEIGHT = 28.0
LABEL_WIDTH = 100.0
SUM_WIDTH = 84.0
LEAST_ROW = 40.0
CELL_GAP = 5.0
TAIL_US = 5.0
LEAD = 3.0
TEXT_HEIGHT = 18.0
BEYOND = 1.1
"""How much further than its widest window a cell reaches."""

BANDS = (("zero_high", Kind.ZERO), ("one_high", Kind.ONE), ("bit_low", Kind.LOW))
"""The windows behind a bit, in the order in which they lie over each other."""


class FrameLayout:
    """The places of a frame.

    Args:
        area: where it stands.
        sheet: its windows say how far a cell reaches.
    """

    def __init__(self, area: Rect, sheet: Sheet) -> None:
        low, one = sheet.windows["bit_low"], sheet.windows["one_high"]
        self.before_us = (low.max_us or low.typ_us) * BEYOND
        self.after_us = (one.max_us or one.typ_us) * BEYOND
        self.preamble = Rect(area.left, area.top, area.width, PREAMBLE_HEIGHT)
        top = self.preamble.bottom
        height = max((area.bottom - top) / BYTES, LEAST_ROW)
        pitch = (area.width - LABEL_WIDTH - SUM_WIDTH) / BITS_IN_ROW
        self.px_per_us = (pitch - CELL_GAP) / (self.before_us + self.after_us + TAIL_US)
        self.rows = [Rect(area.left, top + n * height, area.width, height) for n in range(BYTES)]
        self.cells = [
            Rect(area.left + LABEL_WIDTH + place * pitch, row.top, pitch - CELL_GAP, height)
            for row in self.rows
            for place in range(BITS_IN_ROW)
        ]
        self.waves = [cell.inside(0, 9, 0, 22) for cell in self.cells]
        self.bands = {
            key: [self._band(bit, sheet.windows[key], side) for bit in range(layout.BITS)]
            for key, side in (("zero_high", 1), ("one_high", 1), ("bit_low", -1))
        }

    def _band(self, bit: int, window: Window, side: int) -> Rect:
        limit = window.max_us if window.max_us is not None else window.typ_us
        ends = self.x_of(bit, side * window.min_us), self.x_of(bit, side * limit)
        wave = self.waves[bit]
        return Rect(min(ends), wave.top - 4, max(abs(ends[1] - ends[0]), 1.5), wave.height + 8)

    def label(self, byte: int) -> Rect:
        """Name and value of a byte.

        Args:
            byte: its number, from 0.
        """
        row = self.rows[byte]
        return Rect(row.left, row.top, LABEL_WIDTH - 8, row.height)

    def sum(self, byte: int) -> Rect:
        """The running sum at the row's end.

        Args:
            byte: its number, from 0.
        """
        row = self.rows[byte]
        return Rect(row.right - SUM_WIDTH + 8, row.top, SUM_WIDTH - 8, row.height)

    def x_of(self, bit: int, t_us: float) -> float:
        """Where a time from the bit's rising edge stands, cut at the cell's ends.

        Args:
            bit: its number in the frame, from 0.
            t_us: the time, µs; negative before the rise.
        """
        cell = self.cells[bit]
        x = cell.left + (self.before_us + t_us) * self.px_per_us
        return min(max(x, cell.left), cell.right)

    def low_line(self, bit: int, low_us: float) -> Points:
        """A bit of idle, the fall, the low.

        Args:
            bit: its number in the frame, from 0.
            low_us: how long the low lasts, µs.
        """
        cell, wave = self.cells[bit], self.waves[bit]
        fall, rise = self.x_of(bit, -low_us), self.x_of(bit, 0.0)
        start = max(fall - LEAD, cell.left - LEAD)
        return ((start, wave.top), (fall, wave.top), (fall, wave.bottom), (rise, wave.bottom))

    def high_line(self, bit: int, high_us: float) -> Points:
        """The rise, the high, the fall, and a bit of the next low.

        Args:
            bit: its number in the frame, from 0.
            high_us: how long the high lasts, µs.
        """
        wave = self.waves[bit]
        rise, end = self.x_of(bit, 0.0), self.x_of(bit, high_us)
        tail = min(end + TAIL_US * self.px_per_us, self.cells[bit].right)
        top, bottom = wave.top, wave.bottom
        return ((rise, bottom), (rise, top), (end, top), (end, bottom), (tail, bottom))

    def cut_line(self, bit: int, low_us: float) -> Points:
        """A bit of which only the low came: the line stays high.

        Args:
            bit: its number in the frame, from 0.
            low_us: how long the low lasts, µs.
        """
        wave, rise = self.waves[bit], self.x_of(bit, 0.0)
        return (*self.low_line(bit, low_us), (rise, wave.top), (wave.right, wave.top))

    def goes_on(self, low_us: float, high_us: float) -> tuple[bool, bool]:
        """Whether a low, or a high, is longer than its cell.

        Args:
            low_us: how long the low lasts, µs.
            high_us: how long the high lasts, µs.
        """
        return low_us > self.before_us, high_us > self.after_us + TAIL_US

    def number_boxes(self, bit: int) -> tuple[Rect, Rect, Rect]:
        """Under a cell: the low's width, the bit, the high's width.

        Args:
            bit: its number in the frame, from 0.
        """
        cell, rise = self.cells[bit], self.x_of(bit, 0.0)
        top = cell.bottom - TEXT_HEIGHT - 2
        return (
            Rect(cell.left, top, rise - cell.left - 1, TEXT_HEIGHT),
            Rect(rise + 1, top, 14, TEXT_HEIGHT),
            Rect(rise + 14, top, cell.right - rise - 14, TEXT_HEIGHT),
        )

    def columns_at(self, x: float, y: float) -> frozenset[int]:
        """Columns of the pulses under a point: one pulse in a cell, a byte's on its label.

        Args:
            x: how far to the right, px.
            y: how far down, px.
        """
        for byte in range(BYTES):
            if self.label(byte).holds(x, y):
                first = byte * BITS_IN_ROW
                return frozenset(
                    range(layout.low_column(first), layout.low_column(first + BITS_IN_ROW))
                )
        for bit, cell in enumerate(self.cells):
            if cell.holds(x, y):
                before = x < self.x_of(bit, 0.0)
                return frozenset({(layout.low_column if before else layout.high_column)(bit)})
        return frozenset()


def labels_of(report: Report) -> Iterator[tuple[str, str, bool]]:
    """Of each byte: what it holds, its value, and whether it is the sum that fails.

    Args:
        report: the report of the exchange.
    """
    for byte, name in enumerate(byte_names(report.sheet)[:BYTES]):
        value = f"{report.data[byte]:02x}" if byte < len(report.data) else "–"
        yield name, value, byte == BYTES - 1 and report.check.ok is False


def sums_of(report: Report) -> Iterator[tuple[str, str]]:
    """Of each byte that came the sum so far, as a person adds it up: upper and lower line.

    Args:
        report: the report of the exchange.
    """
    data = report.data
    for byte in range(min(len(data), BYTES - 1)):
        total = sum(data[: byte + 1])
        yield (f"+ {data[byte]}", f"= {total}") if byte else (f"{data[0]}", "")
    if len(data) == BYTES:
        payload = sum(data[: BYTES - 1])
        sign = "=" if report.check.ok else "≠"
        yield f"{payload % 256} {sign} {data[-1]}", f"{payload} mod 256"


def bit_pulses(report: Report) -> dict[int, Pulse]:
    """The pulses of the bits, by their column.

    Args:
        report: the report of the exchange.
    """
    return {pulse.column: pulse for pulse in report.pulses if pulse.bit is not None}
