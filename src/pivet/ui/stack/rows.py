"""What each family brings to the stack: how its exchange is laid out and painted."""

from abc import ABC, abstractmethod
from collections.abc import Mapping

import msgspec
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QFontMetricsF, QPainter
from PySide6.QtWidgets import QWidget

from pivet.captures.wire import Wire
from pivet.frozen import FrozenObject, FrozenValue
from pivet.insight.drawn.chips import chip_words
from pivet.insight.drawn.place import Rect
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.readings.units import AS_KEPT, UnitChoice
from pivet.ui.drawing.painting import draw_mark, draw_text, font_of
from pivet.ui.drawing.theme import theme

PAD = 14.0
TITLE_HEIGHT = 30.0
READOUT_HEIGHT = 28.0
CHIP_GAP = 18.0

Columns = frozenset[int]
NOTHING: Columns = frozenset()


class RowsToPaint(FrozenObject):
    """What is to be painted.

    Attributes:
        wire, report: the chosen wire and exchange.
        lit: columns of the lit pulses.
        widget: gives the font.
        width, height: of the view, px.
        top: how far the rows are scrolled down, px.
        names: the person's names of devices, by code.
        units: the units in which readings are shown.
    """

    wire: Wire
    report: Report
    lit: Columns
    widget: QWidget
    width: float
    height: float
    top: float = 0.0
    names: Mapping[str, str] = msgspec.field(default_factory=dict)
    units: UnitChoice = AS_KEPT

    @property
    def index(self) -> int:
        """Where the exchange stands in the wire."""
        return self.report.number - self.wire.first

    @property
    def area(self) -> Rect:
        """Where the rows stand, between title and readout."""
        height = self.height - TITLE_HEIGHT - READOUT_HEIGHT
        return Rect(PAD, TITLE_HEIGHT, self.width - 2 * PAD, height)

    @property
    def body(self) -> QRectF:
        """The same, for Qt."""
        return QRectF(*self.area)


class Key(FrozenValue):
    """An entry of the legend in the title line."""

    text: str
    colour: QColor


class Rows(ABC):
    """Lays out and paints the exchanges of one family."""

    name = "Stack"
    hint = "Point at a pulse: it lights up everywhere, with its margin."

    @abstractmethod
    def legend(self, shown: RowsToPaint) -> list[Key]:
        """What the colours of the bands mean."""

    @abstractmethod
    def paint(self, painter: QPainter, shown: RowsToPaint) -> None:
        """Paints everything between title and readout."""

    @abstractmethod
    def columns_at(self, point: QPointF, shown: RowsToPaint) -> Columns:
        """Pulses under a point."""

    def exchange_at(self, point: QPointF, shown: RowsToPaint) -> int | None:
        """Another exchange that is shown at a point."""
        return None

    def readout_at(self, point: QPointF, shown: RowsToPaint) -> str:
        """What is to be said of a point that is no pulse."""
        return ""

    def row_step(self, report: Report) -> int:
        """How many pulses lie between one row and the next."""
        return 1

    def steps_exchanges(self) -> bool:
        """Up and down step to other exchanges instead of other rows."""
        return False

    def overflow(self, shown: RowsToPaint) -> float:
        """How far the rows can be scrolled, px."""
        return 0.0


class Chips:
    """A line of single pulses with their verdicts, above the cells."""

    def __init__(self) -> None:
        self._places: list[tuple[QRectF, int]] = []

    def paint(self, painter: QPainter, shown: RowsToPaint, pulses: list[Pulse], line: Rect) -> None:
        """Paints the pulses side by side."""
        self._places = []
        colours, font = theme(), font_of(shown.widget, 0.92)
        metrics = QFontMetricsF(font)
        chips = [(pulse, chip_words(pulse)) for pulse in pulses]
        widths = [metrics.horizontalAdvance(text) + 22 for _, text in chips]
        spare = line.width - sum(widths)
        gap = min(max(spare / max(len(chips) - 1, 1), 1.0), CHIP_GAP)
        left = line.left
        for (pulse, text), width in zip(chips, widths, strict=True):
            box = QRectF(left, line.top + 3, width, line.height - 8)
            if pulse.column in shown.lit:
                painter.fillRect(box.adjusted(-4, 0, 4, 0), colours.live)
            draw_mark(painter, pulse.verdict, QPointF(left + 6, box.center().y()), 9)
            sound = pulse.verdict is Verdict.SOUND
            colour = colours.ink if sound else colours.verdict(pulse.verdict)
            draw_text(painter, box.adjusted(16, 0, 8, 0), text, font, colour)
            self._places.append((box, pulse.column))
            left += width + gap

    def column_at(self, point: QPointF) -> int | None:
        """The pulse under a point."""
        return next((column for box, column in self._places if box.contains(point)), None)
