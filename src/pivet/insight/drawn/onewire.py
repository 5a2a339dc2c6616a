"""Where everything of a 1-Wire transaction stands in a stack: a row a byte, a cell a slot.

The window and a report draw from the same places: every slot from its fall on, on one scale.
"""

from collections.abc import Hashable

from pivet.decode.onewire import Speaker
from pivet.frozen import FrozenValue
from pivet.insight.drawn.picture import Points
from pivet.insight.drawn.place import Rect
from pivet.judge.onewire.detail import ByteRow, Transaction
from pivet.judge.pulses import Pulse
from pivet.sheets.model import Sheet, Window

HEAD_HEIGHT = 84.0
GAP = 18.0
FEW_ROWS = 9
"""How many rows stand in one wide column; more in two, ROM part and function part."""

LEAST_ROW, MOST_ROW = 31.0, 58.0
LEAST_TREE = 120.0
LABEL_NARROW, LABEL_WIDE = 98.0, 118.0
MEANING_WIDE = 170.0
CELLS_IN_ROW = 8
LEAD = 3.0
SPAN_US, FAST_SPAN_US = 126.0, 17.0
"""How much time a cell shows from the fall on: a little more than the longest window."""


class Cell(FrozenValue):
    """One slot's place.

    Attributes:
        slot: its number in the transaction.
        box: all of it.
        wave: where its line is drawn.
        number: under the line.
        x: where the fall stands.
        right: where the line ends.
        px_per_us: its scale.
    """

    slot: int
    box: Rect
    wave: Rect
    number: Rect
    x: float
    right: float
    px_per_us: float

    def x_of(self, t_us: float) -> float:
        """Where a time from the fall stands, cut at the cell's end.

        Args:
            t_us: the time, µs.
        """
        return min(self.x + t_us * self.px_per_us, self.right)

    def fall_line(self) -> Points:
        """A bit of idle, and the fall."""
        wave = self.wave
        return ((wave.left, wave.top), (self.x, wave.top), (self.x, wave.bottom))

    def low_line(self, low_us: float) -> Points:
        """The low, the rise, and what is left of the slot.

        Args:
            low_us: how long the low lasts, µs.
        """
        wave, rise = self.wave, self.x_of(low_us)
        return (
            (self.x, wave.bottom),
            (rise, wave.bottom),
            (rise, wave.top),
            (wave.right, wave.top),
        )


def _cell(slot: int, box: Rect, span_us: float) -> Cell:
    wave = box.inside(0, 5, 0, 15)
    number = Rect(box.left, wave.bottom + 1, box.width, 13)
    scale = (wave.width - LEAD) / span_us
    return Cell(slot, box, wave, number, wave.left + LEAD, wave.right, scale)


class RowPlace(FrozenValue):
    """One row's place.

    Attributes:
        row: the byte.
        box: all of it.
        label: where its name and value stand.
        meaning: where it says what it means; None where there is no room for that.
        cells: the places of its slots.
        fast: at overdrive speed.
    """

    row: ByteRow
    box: Rect
    label: Rect
    meaning: Rect | None
    cells: tuple[Cell, ...]
    fast: bool

    def bands(self, sheet: Sheet) -> tuple[Window, Window]:
        """Where its lows may end: those of a 1, and those of a 0.

        Args:
            sheet: that has the windows.
        """
        head = "fast_" if self.fast else ""
        key = "hold" if self.row.speaker is Speaker.DEVICE else "zero"
        return sheet.windows[head + "one"], sheet.windows[head + key]


class TransactionLayout:
    """The places of a transaction.

    Args:
        area: where it stands.
        detail: the transaction.
        top: how far its rows are scrolled down, px.
    """

    def __init__(self, area: Rect, detail: Transaction, top: float = 0.0) -> None:
        self.area = area
        self.head = area._replace(height=HEAD_HEIGHT)
        begin = self.head.bottom
        parts = [[row for row in detail.rows if row.part == part] for part in (0, 1)]
        wide = len(detail.rows) <= FEW_ROWS
        columns = [[*parts[0], *parts[1]]] if wide else parts
        most = max((len(column) for column in columns), default=1) or 1
        room = area.bottom - begin
        height = min(max(room / most, LEAST_ROW), MOST_ROW)
        self.overflow = max(most * height - room, 0.0)
        count = 1 if wide else 2
        width = (area.width - GAP * (count - 1)) / count
        self.places = [
            _place(row, Rect(area.left + number * (width + GAP), y - top, width, height), detail)
            for number, column in enumerate(columns)
            for row, y in ((row, begin + at * height) for at, row in enumerate(column))
        ]
        used = len(columns[0]) * height if detail.walk is not None else 0.0
        tree = max(room - used - 4, LEAST_TREE)
        self.tree = Rect(area.left, begin + used + 4, area.width, tree)
        self.divider = None if wide else area.left + width + GAP / 2

    def cell_at(self, x: float, y: float) -> Cell | None:
        """The slot under a point.

        Args:
            x: how far to the right, px.
            y: how far down, px.
        """
        for place in self.places:
            if place.box.holds(x, y):
                return next((cell for cell in place.cells if cell.box.holds(x, y)), None)
        return None

    def row_at(self, x: float, y: float, detail: Transaction) -> ByteRow | None:
        """The row whose name is under a point.

        Args:
            x: how far to the right, px.
            y: how far down, px.
            detail: the transaction whose row it is.
        """
        for place in self.places:
            if place.label.holds(x, y):
                return next((row for row in detail.rows if row.first == place.row.first), None)
        return None


def _place(row: ByteRow, box: Rect, detail: Transaction) -> RowPlace:
    wide = len(detail.rows) <= FEW_ROWS
    label = box._replace(width=LABEL_WIDE if wide else LABEL_NARROW)
    meaning = MEANING_WIDE if wide else 0.0
    pitch = (box.width - label.width - meaning) / CELLS_IN_ROW
    fast = detail.fast or (detail.turns_fast and row.first >= CELLS_IN_ROW)
    cells = [
        _cell(
            row.first + number,
            Rect(label.right + number * pitch, box.top, pitch - 4, box.height),
            FAST_SPAN_US if fast else SPAN_US,
        )
        for number in range(row.count)
    ]
    told = box.inside(box.width - MEANING_WIDE + 10, 0, 0, 0) if wide else None
    return RowPlace(row, box, label, told, tuple(cells), fast)


def band(cell: Cell, window: Window) -> Rect:
    """Where a low in a cell may end.

    Args:
        cell: the place of the slot.
        window: of the low.
    """
    left = cell.x_of(window.min_us)
    right = cell.x_of(window.max_us if window.max_us is not None else window.typ_us)
    return Rect(left, cell.wave.top - 2, max(right - left, 1.5), cell.wave.height + 4)


def sample(cell: Cell, one: Window) -> Points:
    """Where the host looks at what a device says: when a 1 is over.

    Args:
        cell: the place of the slot.
        one: the window of a 1.
    """
    x = cell.x_of(one.max_us or one.typ_us)
    return ((x, cell.wave.top - 2), (x, cell.wave.bottom + 2))


def width_text(pulse: Pulse) -> str:
    """A low's length as it stands under a cell, µs.

    Args:
        pulse: the low.
    """
    return f"{pulse.width_us:.0f}" if pulse.width_us >= 10 else f"{pulse.width_us:.1f}"


def structure_of(detail: Transaction) -> Hashable:
    """What two transactions must share to be laid out alike.

    Args:
        detail: a transaction.
    """
    rows = tuple((row.part, row.label, row.first, row.count, row.speaker) for row in detail.rows)
    return rows, detail.fast, detail.turns_fast, detail.walk is None
