"""Where everything in the stack stands; no painting here."""

from PySide6.QtCore import QPointF, QRectF

from pivet.decode.humidity import layout
from pivet.sheets.model import Sheet, Window
from pivet.ui.stack.rows import PAD, READOUT_HEIGHT, TITLE_HEIGHT

BYTES = 5
BITS_IN_ROW = 8
PREAMBLE_HEIGHT = 28.0
LABEL_WIDTH = 100.0
SUM_WIDTH = 84.0
CELL_GAP = 5.0
TAIL_US = 5.0
BEYOND = 1.1
"""How much further than its widest window a cell reaches."""


class Geometry:
    """Layout of the stack for one size and sheet.

    Args:
        width: of the view, px.
        height: the height of the view, px.
        sheet: its windows say how far a cell reaches.
    """

    def __init__(self, width: float, height: float, sheet: Sheet) -> None:
        low, one = sheet.windows["bit_low"], sheet.windows["one_high"]
        self.before_us = (low.max_us or low.typ_us) * BEYOND
        self.after_us = (one.max_us or one.typ_us) * BEYOND
        inner = width - 2 * PAD
        self.preamble = QRectF(PAD, TITLE_HEIGHT, inner, PREAMBLE_HEIGHT)
        top = TITLE_HEIGHT + PREAMBLE_HEIGHT
        row_height = max((height - top - READOUT_HEIGHT) / BYTES, 40.0)
        pitch = (inner - LABEL_WIDTH - SUM_WIDTH) / BITS_IN_ROW
        self.px_per_us = (pitch - CELL_GAP) / (self.before_us + self.after_us + TAIL_US)
        self._rows = [QRectF(PAD, top + n * row_height, inner, row_height) for n in range(BYTES)]
        self._cells = [
            QRectF(PAD + LABEL_WIDTH + place * pitch, row.top(), pitch - CELL_GAP, row_height)
            for row in self._rows
            for place in range(BITS_IN_ROW)
        ]
        self._waves = [cell.adjusted(0, 9, 0, -22) for cell in self._cells]

        self.bands = {
            key: [self._band(bit, sheet.windows[key], side) for bit in range(layout.BITS)]
            for key, side in (("zero_high", 1), ("one_high", 1), ("bit_low", -1))
        }

    def _band(self, bit: int, window: Window, side: int) -> QRectF:
        limit = window.max_us if window.max_us is not None else window.typ_us
        ends = self.x_of(bit, side * window.min_us), self.x_of(bit, side * limit)
        wave = self._waves[bit]
        return QRectF(
            min(ends), wave.top() - 4, max(abs(ends[1] - ends[0]), 1.5), wave.height() + 8
        )

    def row(self, byte: int) -> QRectF:
        """The whole row of a byte."""
        return self._rows[byte]

    def label(self, byte: int) -> QRectF:
        """Name and value of a byte."""
        row = self._rows[byte]
        return QRectF(row.left(), row.top(), LABEL_WIDTH - 8, row.height())

    def sum(self, byte: int) -> QRectF:
        """The running sum at the row's end."""
        row = self._rows[byte]
        return QRectF(row.right() - SUM_WIDTH + 8, row.top(), SUM_WIDTH - 8, row.height())

    def cell(self, bit: int) -> QRectF:
        """The cell of a bit."""
        return self._cells[bit]

    def wave(self, bit: int) -> QRectF:
        """The part of a cell in which the line is drawn."""
        return self._waves[bit]

    def x_of(self, bit: int, t_us: float) -> float:
        """Where a time from the bit's rising edge stands, cut at the cell's ends."""
        cell = self._cells[bit]
        left = cell.left()
        x = left + (self.before_us + t_us) * self.px_per_us
        return min(max(x, left), left + cell.width())

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
