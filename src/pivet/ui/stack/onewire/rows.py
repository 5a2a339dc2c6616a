"""A 1-Wire transaction in the stack."""

from collections.abc import Hashable

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPen, QPixmap

from pivet.decode.onewire import Speaker
from pivet.insight.drawn.onewire import structure_of
from pivet.insight.drawn.search import SearchLayout, step_columns, step_words
from pivet.judge.onewire.detail import Transaction
from pivet.judge.report import Report
from pivet.judge.wording import span
from pivet.ui.drawing.painting import is_on_screen, picture_of
from pivet.ui.drawing.theme import theme
from pivet.ui.stack.onewire.cells import paint_ground, paint_rows
from pivet.ui.stack.onewire.geometry import Geometry
from pivet.ui.stack.onewire.head import Head
from pivet.ui.stack.onewire.tree import paint_search
from pivet.ui.stack.rows import NOTHING, Columns, Key, Rows, RowsToPaint

MOST_KEPT = 8
"""How many layouts are kept: firmware mostly alternates between a few transactions."""


class OneWireRows(Rows):
    """Reset and presence first, then bytes under their commands, or the tree of a search."""

    name = "Stack of bytes"
    hint = "Point at a bit or a byte: it lights up everywhere, with its margin."

    def __init__(self) -> None:
        self._head = Head()
        self._kept: dict[Hashable, Geometry] = {}
        self._grounds: dict[Hashable, QPixmap] = {}

    def geometry(self, shown: RowsToPaint, detail: Transaction) -> Geometry:
        """The layout at the present size and scroll position."""
        key = (structure_of(detail), shown.width, shown.height, shown.top)
        if key not in self._kept:
            if len(self._kept) >= MOST_KEPT:
                self._kept.clear()
                self._grounds.clear()
            self._kept[key] = Geometry(shown, detail)
        return self._kept[key]

    def legend(self, shown: RowsToPaint) -> list[Key]:
        """What a low may be."""
        detail, windows, colours = shown.report.detail, shown.report.sheet.windows, theme()
        fast = isinstance(detail, Transaction) and (detail.fast or detail.turns_fast)
        head = "fast_" if fast else ""
        found = []
        for key, colour in (("zero", colours.zero), ("hold", colours.zero), ("one", colours.one)):
            window = windows[head + key]
            found.append(Key(f"{window.label} {span(window.min_us, window.max_us)}", colour))
        return found

    def paint(self, painter: QPainter, shown: RowsToPaint) -> None:
        """Reset and presence, rows, tree."""
        report, detail = shown.report, shown.report.detail
        if not isinstance(detail, Transaction):
            return
        place = self.geometry(shown, detail)
        self._head.paint(painter, place.head, report, detail, shown.lit, shown.widget)
        painter.setClipRect(shown.body.adjusted(-4, place.head.height - 2, 4, 0))
        self._paint_ground(painter, shown, place)
        pulses = {pulse.column: pulse for pulse in report.pulses}
        paint_rows(painter, place, detail.rows, pulses, shown.lit, shown.widget)
        if detail.walk is not None and detail.walk.steps:
            tree = SearchLayout(place.tree, detail.walk)
            paint_search(painter, tree, detail.walk, shown.names, shown.lit, shown.widget)

    def _paint_ground(self, painter: QPainter, shown: RowsToPaint, place: Geometry) -> None:
        """What lies behind the bytes; kept as a picture while the layout stays the same."""
        if not is_on_screen(painter):
            _paint_ground(painter, shown, place)
            return
        ratio = painter.device().devicePixelRatioF()
        key = (id(place), id(theme()), ratio)
        if key not in self._grounds:
            self._grounds[key] = picture_of(
                shown.width, shown.height, ratio, lambda own: _paint_ground(own, shown, place)
            )
        painter.drawPixmap(0, 0, self._grounds[key])

    def columns_at(self, point: QPointF, shown: RowsToPaint) -> Columns:
        """A slot, a byte, a triplet, reset or presence."""
        detail = shown.report.detail
        if not isinstance(detail, Transaction):
            return NOTHING
        place = self.geometry(shown, detail)
        head = self._head.column_at(point)
        if head is not None:
            return frozenset({head})
        x, y = point.toTuple()
        if y < place.head.bottom:
            return NOTHING
        cell = place.cell_at(x, y)
        if cell is not None:
            return frozenset({2 * cell.slot})
        row = place.row_at(x, y, detail)
        if row is not None:
            return frozenset(range(2 * row.first, 2 * (row.first + row.count), 2))
        step = self._step_at(point, shown, detail)
        return step_columns(step) if step is not None else NOTHING

    def _step_at(self, point: QPointF, shown: RowsToPaint, detail: Transaction) -> int | None:
        if detail.walk is None or not detail.walk.steps:
            return None
        tree = SearchLayout(self.geometry(shown, detail).tree, detail.walk)
        return tree.step_at(point.x(), point.y())

    def readout_at(self, point: QPointF, shown: RowsToPaint) -> str:
        """A triplet in words, or what a byte means."""
        detail = shown.report.detail
        if not isinstance(detail, Transaction):
            return ""
        step = self._step_at(point, shown, detail)
        if step is not None and detail.walk is not None:
            return step_words(step, detail.walk.steps[step])
        place = self.geometry(shown, detail)
        row = place.row_at(point.x(), point.y(), detail)
        if row is None or point.y() < place.head.bottom:
            return ""
        who = "host" if row.speaker is Speaker.HOST else "device"
        meaning = f" · {row.meaning}" if row.meaning else ""
        return f"{row.label} {row.value}{meaning} · from the {who}"

    def row_step(self, report: Report) -> int:
        """A byte's slots: lows and recoveries."""
        return 16

    def overflow(self, shown: RowsToPaint) -> float:
        """Rows that do not fit."""
        detail = shown.report.detail
        return self.geometry(shown, detail).overflow if isinstance(detail, Transaction) else 0.0


def _paint_ground(painter: QPainter, shown: RowsToPaint, place: Geometry) -> None:
    if place.divider is not None:
        painter.setPen(QPen(theme().edge, 1))
        top, bottom = place.head.bottom + 4, place.area.bottom - 4
        painter.drawLine(QPointF(place.divider, top), QPointF(place.divider, bottom))
    paint_ground(painter, place, shown.widget)
