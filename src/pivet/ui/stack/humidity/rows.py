"""A humidity exchange in the stack."""

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter

from pivet.decode.humidity import layout
from pivet.insight.drawn.humidity import BITS_IN_ROW, PREAMBLE, FrameLayout, bit_pulses
from pivet.insight.drawn.place import Rect
from pivet.judge.humidity.report import Frame
from pivet.judge.report import Report
from pivet.judge.wording import limits_of
from pivet.ui.drawing.painting import font_of
from pivet.ui.drawing.theme import theme
from pivet.ui.stack.humidity.cells import paint_bands, paint_cells, paint_missing
from pivet.ui.stack.humidity.sums import paint_labels, paint_sums
from pivet.ui.stack.rows import NOTHING, Chips, Columns, Key, Rows, RowsToPaint


def bits_of(report: Report) -> int:
    """Whole bits of a frame."""
    return report.detail.bit_count if isinstance(report.detail, Frame) else 0


class HumidityRows(Rows):
    """Five rows of eight bits, aligned at their rising edges, the running sum at the ends."""

    name = "Stack of bits"
    hint = "Point at a bit, a byte or a pulse: it lights up everywhere, with its margin."

    def __init__(self) -> None:
        self._place: tuple[tuple[Rect, str], FrameLayout] | None = None
        self._chips = Chips()

    def geometry(self, shown: RowsToPaint) -> FrameLayout:
        """The layout at the present size."""
        key = (shown.area, shown.report.sheet.id)
        if self._place is None or self._place[0] != key:
            self._place = (key, FrameLayout(shown.area, shown.report.sheet))
        return self._place[1]

    def legend(self, shown: RowsToPaint) -> list[Key]:
        """The three windows of a bit."""
        colours, found = theme(), []
        for key, colour in (
            ("one_high", colours.one),
            ("zero_high", colours.zero),
            ("bit_low", colours.low),
        ):
            window = shown.report.sheet.windows[key]
            found.append(Key(f"{window.label} {limits_of(window)}", colour))
        return found

    def paint(self, painter: QPainter, shown: RowsToPaint) -> None:
        """Preamble, bands, rows, cells."""
        report, widget = shown.report, shown.widget
        place = self.geometry(shown)
        pulses = [pulse for pulse in report.pulses if pulse.window.key in PREAMBLE]
        self._chips.paint(painter, shown, pulses, place.preamble)
        bits = bit_pulses(report)
        font, count = font_of(widget, 0.9), bits_of(report)
        paint_bands(painter, place, report.sheet)
        paint_labels(painter, place, report, widget)
        paint_sums(painter, place, report, widget)
        paint_cells(painter, place, report, count, bits, shown.lit, font)
        for bit in range(count, layout.BITS):
            paint_missing(painter, place, bits, bit, font)

    def columns_at(self, point: QPointF, shown: RowsToPaint) -> Columns:
        """A chip, a byte, a pulse of a bit."""
        chip = self._chips.column_at(point)
        if chip is not None:
            return frozenset({chip})
        there = {pulse.column for pulse in shown.report.pulses}
        found = self.geometry(shown).columns_at(point.x(), point.y()) & there
        return found or NOTHING

    def row_step(self, report: Report) -> int:
        """A byte's pulses."""
        return 2 * BITS_IN_ROW
