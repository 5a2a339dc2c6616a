"""Where everything of a 1-Wire transaction stands; no painting here."""

from collections.abc import Hashable
from dataclasses import dataclass

from PySide6.QtCore import QLineF, QPointF, QRectF

from pivet.decode.onewire import Speaker
from pivet.judge.onewire.detail import ByteRow, Transaction
from pivet.sheets.model import Sheet, Window
from pivet.ui.stack.rows import RowsToPaint

HEAD_HEIGHT = 84.0
GAP = 18.0
FEW_ROWS = 9
"""How many rows stand in one wide column; more in two, ROM part and function part."""

LEAST_ROW, MOST_ROW = 31.0, 58.0
LABEL_NARROW, LABEL_WIDE = 98.0, 118.0
MEANING_WIDE = 170.0
LEAD = 3.0
SPAN_US, FAST_SPAN_US = 126.0, 17.0
"""How much time a cell shows from the fall on: a little more than the longest window."""


@dataclass(frozen=True, slots=True)
class Cell:
    """One slot's place: its line is drawn in ``wave``, its numbers under it in ``number``.

    ``x``, ``top``, ``right``, ``bottom`` are the fall and the edges of ``wave`` as plain
    numbers, and ``fall`` the idle and the fall as lines: hundreds are painted at once.
    """

    slot: int
    box: QRectF
    wave: QRectF
    number: QRectF
    x: float
    top: float
    right: float
    bottom: float
    fall: tuple[QLineF, QLineF]
    px_per_us: float

    def x_of(self, t_us: float) -> float:
        """Where a time from the fall stands, cut at the cell's end."""
        return min(self.x + t_us * self.px_per_us, self.right)


def _cell(slot: int, box: QRectF, span_us: float) -> Cell:
    wave = box.adjusted(0, 5, 0, -15)
    x, top, right, bottom = wave.left() + LEAD, wave.top(), wave.right(), wave.bottom()
    return Cell(
        slot=slot,
        box=box,
        wave=wave,
        number=QRectF(box.left(), bottom + 1, box.width(), 13),
        x=x,
        top=top,
        right=right,
        bottom=bottom,
        fall=(QLineF(wave.left(), top, x, top), QLineF(x, top, x, bottom)),
        px_per_us=(wave.width() - LEAD) / span_us,
    )


@dataclass(frozen=True, slots=True)
class RowPlace:
    """One row's place."""

    row: ByteRow
    box: QRectF
    label: QRectF
    meaning: QRectF | None
    cells: tuple[Cell, ...]
    fast: bool


class Geometry:
    """Layout of transactions whose rows are alike, for one size and scroll position.

    Args:
        shown: what is to be painted.
        detail: its transaction.
    """

    def __init__(self, shown: RowsToPaint, detail: Transaction) -> None:
        body = shown.body
        self.head = QRectF(body.left(), body.top(), body.width(), HEAD_HEIGHT)
        self._top = body.top() + HEAD_HEIGHT
        parts = [[row for row in detail.rows if row.part == part] for part in (0, 1)]
        wide = len(detail.rows) <= FEW_ROWS
        columns = [[*parts[0], *parts[1]]] if wide else parts
        most = max((len(column) for column in columns), default=1) or 1
        room = body.bottom() - self._top
        height = min(max(room / most, LEAST_ROW), MOST_ROW)
        self.overflow = max(most * height - room, 0.0)
        count = 1 if wide else 2
        width = (body.width() - GAP * (count - 1)) / count
        self.places: list[RowPlace] = []
        for number, column in enumerate(columns):
            left = body.left() + number * (width + GAP)
            for at, row in enumerate(column):
                top = self._top + at * height - shown.top
                box = QRectF(left, top, width, height)
                self.places.append(_place(row, box, detail, wide))
        used = len(columns[0]) * height if detail.walk is not None else 0.0
        self.tree = QRectF(
            body.left(), self._top + used + 4, body.width(), max(room - used - 4, 120.0)
        )
        self.divider = None if wide else body.left() + width + GAP / 2
        self.bands = Bands(self.places, shown.report.sheet)

    def cell_at(self, point: QPointF) -> Cell | None:
        """The slot under a point."""
        for place in self.places:
            if place.box.contains(point):
                return next((cell for cell in place.cells if cell.box.contains(point)), None)
        return None

    def row_at(self, point: QPointF, detail: Transaction) -> ByteRow | None:
        """The row whose name is under a point."""
        for place in self.places:
            if place.label.contains(point):
                return next((row for row in detail.rows if row.first == place.row.first), None)
        return None


class Bands:
    """Where lows may end, and where the host samples a read; alike for rows that are alike.

    Args:
        places: the places of the rows.
        sheet: its windows.
    """

    def __init__(self, places: list[RowPlace], sheet: Sheet) -> None:
        self.ones: list[QRectF] = []
        self.zeros: list[QRectF] = []
        self.samples: list[QLineF] = []
        for place in places:
            head = "fast_" if place.fast else ""
            key = "hold" if place.row.speaker is Speaker.DEVICE else "zero"
            one, zero = sheet.windows[head + "one"], sheet.windows[head + key]
            for cell in place.cells:
                self.ones.append(_band(cell, one))
                self.zeros.append(_band(cell, zero))
                x = cell.x_of(one.max_us or one.typ_us)
                self.samples.append(QLineF(x, cell.wave.top() - 2, x, cell.wave.bottom() + 2))


def structure_of(detail: Transaction) -> Hashable:
    """What two transactions must share to be laid out alike."""
    rows = tuple((row.part, row.label, row.first, row.count, row.speaker) for row in detail.rows)
    return rows, detail.fast, detail.turns_fast, detail.walk is None


def _band(cell: Cell, window: Window) -> QRectF:
    left = cell.x_of(window.min_us)
    right = cell.x_of(window.max_us if window.max_us is not None else window.typ_us)
    wave = cell.wave
    return QRectF(left, wave.top() - 2, max(right - left, 1.5), wave.height() + 4)


def _place(row: ByteRow, box: QRectF, detail: Transaction, wide: bool) -> RowPlace:
    label_width = LABEL_WIDE if wide else LABEL_NARROW
    meaning = MEANING_WIDE if wide else 0.0
    label = QRectF(box.left(), box.top(), label_width, box.height())
    pitch = (box.width() - label_width - meaning) / 8
    fast = detail.fast or (detail.turns_fast and row.first >= 8)
    span = FAST_SPAN_US if fast else SPAN_US
    cells = []
    for number in range(row.count):
        left = label.right() + number * pitch
        cells.append(
            _cell(row.first + number, QRectF(left, box.top(), pitch - 4, box.height()), span)
        )
    told = None
    if wide:
        told = QRectF(box.right() - MEANING_WIDE + 10, box.top(), MEANING_WIDE - 10, box.height())
    return RowPlace(row, box, label, told, tuple(cells), fast)
