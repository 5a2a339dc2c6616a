"""The places of a 1-Wire transaction as Qt draws them: made once, hundreds are painted at once."""

from PySide6.QtCore import QLineF, QPointF, QRectF

from pivet.decode.onewire import Speaker
from pivet.insight.drawn.onewire import Cell, TransactionLayout, band, sample
from pivet.judge.onewire.detail import Transaction
from pivet.sheets.model import Sheet
from pivet.ui.drawing.painting import font_of, pieces, signs_of
from pivet.ui.stack.rows import RowsToPaint

EIGHTHS, MOST_LOWS = 8, 20_000


class Geometry(TransactionLayout):
    """Layout of transactions whose rows are alike, for one size and scroll position.

    Args:
        shown: what is to be painted.
        detail: its transaction.

    Attributes:
        numbers: where the number of each slot stands, by slot.
        falls: the idle and the fall of each slot, by slot.
        signs: a zero and a one.
        digits: where the digit of each slot begins, by slot: on its speaker's side.
    """

    def __init__(self, shown: RowsToPaint, detail: Transaction) -> None:
        super().__init__(shown.area, detail, shown.top)
        cells = [cell for place in self.places for cell in place.cells]
        self.numbers = {cell.slot: QRectF(*cell.number) for cell in cells}
        self._ends = {
            cell.slot: (
                cell.x,
                cell.wave.top,
                cell.wave.bottom,
                cell.right,
                cell.px_per_us / 1000,
            )
            for cell in cells
        }
        self._lows: dict[tuple[int, int], list[QLineF]] = {}
        self.signs = signs_of("01", font_of(shown.widget, 0.82, bold=True))
        self.digits = {
            cell.slot: self._digit(cell, place.row.speaker)
            for place in self.places
            for cell in place.cells
        }
        self.falls = {cell.slot: pieces(cell.fall_line()) for cell in cells}
        self.bands = Bands(self, shown.report.sheet)

    def low(self, slot: int, width_ns: int) -> list[QLineF]:
        """``Cell.low_line`` of a low, to an eighth of a px; kept, since lows repeat themselves.

        Args:
            slot: where it stands.
            width_ns: how long it lasts, ns.
        """
        x, top, bottom, right, px_per_ns = self._ends[slot]
        eighths = int(EIGHTHS * min(x + width_ns * px_per_ns, right))
        kept = self._lows.get((slot, eighths))
        if kept is None:
            if len(self._lows) >= MOST_LOWS:
                self._lows.clear()
            rise = eighths / EIGHTHS
            kept = self._lows[slot, eighths] = [
                QLineF(x, bottom, rise, bottom),
                QLineF(rise, bottom, rise, top),
                QLineF(rise, top, right, top),
            ]
        return kept

    def _digit(self, cell: Cell, speaker: Speaker) -> QPointF:
        box = cell.number
        host = speaker is Speaker.HOST
        return QPointF(box.left if host else box.right - self.signs.width, box.top)


class Bands:
    """Where lows may end, and where the host samples a read; alike for rows that are alike.

    Args:
        layout: the places of the rows.
        sheet: its windows.
    """

    def __init__(self, layout: TransactionLayout, sheet: Sheet) -> None:
        self.ones: list[QRectF] = []
        self.zeros: list[QRectF] = []
        self.samples: list[QLineF] = []
        for place in layout.places:
            one, zero = place.bands(sheet)
            self.ones += [QRectF(*band(cell, one)) for cell in place.cells]
            self.zeros += [QRectF(*band(cell, zero)) for cell in place.cells]
            self.samples += [line for cell in place.cells for line in pieces(sample(cell, one))]
