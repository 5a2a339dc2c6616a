"""Where everything in the stack stands; no painting here."""

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF

from pivet.decode.humidity import layout
from pivet.judge.pulses import ASK
from pivet.sheets.model import Sheet

BYTES = 5
BITS_IN_ROW = 8
PAD = 14.0
TITLE_HEIGHT = 30.0
PREAMBLE_HEIGHT = 28.0
READOUT_HEIGHT = 28.0
LABEL_WIDTH = 100.0
SUM_WIDTH = 84.0
CELL_GAP = 5.0
TAIL_US = 5.0
BEYOND = 1.1
"""How much further than its widest window a cell reaches."""


@dataclass(frozen=True, slots=True)
class Geometry:
    """Layout of the stack for one size and sheet.

    Attributes:
        width, height: of the view.
        before_us: how far a cell reaches before the rising edge, µs.
        after_us: how far behind it, µs.
    """

    width: float
    height: float
    before_us: float
    after_us: float

    @classmethod
    def of(cls, width: float, height: float, sheet: Sheet) -> "Geometry":
        """For a view of this size."""
        low, one = sheet.windows["bit_low"], sheet.windows["one_high"]
        before = (low.max_us or low.typ_us) * BEYOND
        return cls(width, height, before, (one.max_us or one.typ_us) * BEYOND)

    @property
    def title(self) -> QRectF:
        return QRectF(PAD, 8, self.width - 2 * PAD, TITLE_HEIGHT - 8)

    @property
    def preamble(self) -> QRectF:
        return QRectF(PAD, TITLE_HEIGHT, self.width - 2 * PAD, PREAMBLE_HEIGHT)

    @property
    def readout(self) -> QRectF:
        return QRectF(PAD, self.height - READOUT_HEIGHT, self.width - 2 * PAD, READOUT_HEIGHT - 4)

    @property
    def row_height(self) -> float:
        used = TITLE_HEIGHT + PREAMBLE_HEIGHT + READOUT_HEIGHT
        return max((self.height - used) / BYTES, 40.0)

    @property
    def pitch(self) -> float:
        return (self.width - 2 * PAD - LABEL_WIDTH - SUM_WIDTH) / BITS_IN_ROW

    @property
    def px_per_us(self) -> float:
        return (self.pitch - CELL_GAP) / (self.before_us + self.after_us + TAIL_US)

    def row(self, byte: int) -> QRectF:
        """The whole row of a byte."""
        top = TITLE_HEIGHT + PREAMBLE_HEIGHT + byte * self.row_height
        return QRectF(PAD, top, self.width - 2 * PAD, self.row_height)

    def label(self, byte: int) -> QRectF:
        """Name and value of a byte."""
        row = self.row(byte)
        return QRectF(row.left(), row.top(), LABEL_WIDTH - 8, row.height())

    def sum(self, byte: int) -> QRectF:
        """The running sum at the row's end."""
        row = self.row(byte)
        return QRectF(row.right() - SUM_WIDTH + 8, row.top(), SUM_WIDTH - 8, row.height())

    def cell(self, bit: int) -> QRectF:
        """The cell of a bit."""
        byte, place = divmod(bit, BITS_IN_ROW)
        row = self.row(byte)
        left = PAD + LABEL_WIDTH + place * self.pitch
        return QRectF(left, row.top(), self.pitch - CELL_GAP, row.height())

    def wave(self, bit: int) -> QRectF:
        """The part of a cell in which the line is drawn."""
        cell = self.cell(bit)
        return QRectF(cell.left(), cell.top() + 9, cell.width(), cell.height() - 31)

    def x_of(self, bit: int, t_us: float) -> float:
        """Where a time from the bit's rising edge stands, cut at the cell's ends."""
        cell = self.cell(bit)
        x = cell.left() + (self.before_us + t_us) * self.px_per_us
        return min(max(x, cell.left()), cell.right())

    def columns_at(self, point: QPointF) -> frozenset[int]:
        """Columns of the pulses under a point: one pulse in a cell, a byte's on its label."""
        for byte in range(BYTES):
            if self.label(byte).contains(point):
                first = byte * BITS_IN_ROW
                return frozenset(
                    range(layout.low_column(first), layout.low_column(first + BITS_IN_ROW))
                )
        for bit in range(layout.BITS):
            cell = self.cell(bit)
            if cell.contains(point):
                before = point.x() < self.x_of(bit, 0.0)
                return frozenset({(layout.low_column if before else layout.high_column)(bit)})
        return frozenset()


ORDER = (ASK, *range(layout.PULSES))
"""All columns in the order on the wire."""
