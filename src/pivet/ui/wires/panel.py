"""The list of captures and their wires, each with its last reading and last verdicts."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QModelIndex, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen
from PySide6.QtWidgets import QListView, QStyledItemDelegate, QWidget

from pivet.captures.wire import Wire
from pivet.judge.verdict import Verdict
from pivet.judge.wording import count
from pivet.ui.drawing.painting import RIGHT, draw_mark, draw_text, font_of
from pivet.ui.drawing.theme import theme
from pivet.ui.session.session import Session
from pivet.ui.wires.model import ROW_ROLE, Index, Row, WiresModel

if TYPE_CHECKING:  # creating the types of Qt's styles would cost a tenth of the start
    from PySide6.QtWidgets import QStyleOptionViewItem

BEGINNING = Qt.TextElideMode.ElideLeft
"""Of a dotted name the last part says most."""

LAST = 12
MARK_PITCH = 13.5
CARD_HEIGHT = 88
HEAD_HEIGHT = 44
OLD_S = 60.0
"""A reading that is older is told as old."""


class CardDelegate(QStyledItemDelegate):
    """Paints the rows of a list."""

    def __init__(self, view: QListView, model: WiresModel) -> None:
        super().__init__(view)
        self._view, self._model = view, model

    def sizeHint(self, _option: "QStyleOptionViewItem", index: Index) -> QSize:
        """Heads are lower than cards."""
        row: Row = index.data(ROW_ROLE)
        return QSize(180, HEAD_HEIGHT if row.is_head else CARD_HEIGHT)

    def paint(self, painter: QPainter, option: "QStyleOptionViewItem", index: Index) -> None:
        """Paints a head or a card."""
        row: Row = index.data(ROW_ROLE)
        box = QRectF(option.rect).adjusted(2, 3, -4, -3)
        painter.save()
        widget = option.widget
        if row.is_head:
            self._paint_head(painter, box, row, widget)
        else:
            chosen = index.row() == self._view.currentIndex().row()
            self._paint_card(painter, box, row, widget, chosen)
        painter.restore()

    def _paint_head(self, painter: QPainter, box: QRectF, row: Row, widget: QWidget) -> None:
        colours = theme()
        upper = QRectF(box.left() + 4, box.top(), box.width() - 8, 20)
        lower = upper.translated(0, 18)
        draw_text(painter, upper, row.capture.name, font_of(widget, 0.95, bold=True), colours.ink)
        small = font_of(widget, 0.85)
        if row.live is not None:
            words, colour = "live", colours.glow
            if not row.live.here:
                words, colour = "away, looking for it", colours.unsound
            used = draw_text(painter, lower, f"{words} · ", font_of(widget, 0.85, True), colour)
            lower.setLeft(lower.left() + used)
            wires = sum(not now.resting for now in row.live.wires)
            draw_text(painter, lower, count(wires, "wire"), small, colours.faint)
            return
        text = count(len(row.capture.wires), "wire")
        if row.capture.notes:
            text += f" · {count(len(row.capture.notes), 'note')}"
        draw_text(painter, lower, text, small, colours.faint)

    def _paint_card(
        self, painter: QPainter, box: QRectF, row: Row, widget: QWidget, chosen: bool
    ) -> None:
        colours = theme()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(colours.accent if chosen else colours.edge, 1.4 if chosen else 1))
        painter.setBrush(colours.panel)
        painter.drawRoundedRect(box, 6, 6)
        if chosen:
            painter.fillRect(
                QRectF(box.left(), box.top() + 5, 4, box.height() - 10), colours.accent
            )
        inner = box.adjusted(14, 6, -8, -4)
        line = QRectF(inner.left(), inner.top(), inner.width(), 19)
        name_box = line
        if row.now is not None:
            name_box = line.adjusted(0, 0, -28, 0)
            self._paint_activity(painter, QPointF(line.right() - 24, line.center().y()), row)
        name_font = font_of(widget, 1.05, bold=True)
        draw_text(painter, name_box, row.short, name_font, colours.ink, elide=BEGINNING)
        self._paint_state(painter, line.translated(0, 19), row, widget)
        if row.wire is not None:
            self._paint_reading(painter, line.translated(0, 39), row, widget)
            _paint_marks(painter, inner, row.wire)

    def _paint_activity(self, painter: QPainter, at: QPointF, row: Row) -> None:
        """The line of the wire: a pulse stands on it for a moment at each ask."""
        colours = theme()
        lit = self._model.lit(row)
        painter.setPen(QPen(colours.glow if lit else colours.edge, 2.4 if lit else 1.6))
        x, y = at.x(), at.y() - 4
        low = y + (9 if lit else 0)
        points = [(0, y), (7, y), (7, low), (15, low), (15, y), (22, y)]
        painter.drawPolyline([QPointF(x + dx, py) for dx, py in points])

    def _paint_state(self, painter: QPainter, box: QRectF, row: Row, widget: QWidget) -> None:
        """The sensor and how it is asked, or what is wrong."""
        colours, font = theme(), font_of(widget, 0.87)
        if row.trouble:
            draw_mark(painter, Verdict.UNSOUND, QPointF(box.left() + 5, box.center().y()), 8)
            words = font_of(widget, 0.87, bold=True)
            draw_text(painter, box.adjusted(14, 0, 0, 0), row.trouble, words, colours.unsound)
            return
        text = row.doing if row.wire is None else f"{row.wire.sheet.name} · {row.doing}"
        draw_text(painter, box, text, font, colours.faint)

    def _paint_reading(self, painter: QPainter, box: QRectF, row: Row, widget: QWidget) -> None:
        """The last reading; of a live wire the last that was given, with its age."""
        colours, font = theme(), font_of(widget, 0.95, bold=True)
        if row.live is None:
            draw_text(painter, box, self._model.reading(row), font, colours.ink)
            return
        lately = self._model.lately(row)
        if not lately.text:
            draw_text(painter, box, "no reading yet", font_of(widget, 0.95), colours.faint)
            return
        old = row.trouble or self._model.passed_s(row) > OLD_S
        ink: QColor = colours.faint if old else colours.ink
        small = font_of(widget, 0.82)
        used = draw_text(painter, box, self._model.age(row), small, colours.faint, RIGHT)
        draw_text(painter, box.adjusted(0, 0, -used - 6, 0), lately.text, font, ink)


def _paint_marks(painter: QPainter, inner: QRectF, wire: Wire) -> None:
    """The verdicts of the last exchanges."""
    y = inner.bottom() - 7
    room = min(LAST, int(inner.width() // MARK_PITCH))
    for number, verdict in enumerate(wire.verdicts[-room:].tolist()):
        x = inner.left() + 6 + MARK_PITCH * number
        draw_mark(painter, Verdict(verdict), QPointF(x, y), 8.5)


class WiresPanel(QListView):
    """Chooses the wire to look at."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._showing = session, False
        self._model = WiresModel(session)
        self.setModel(self._model)
        self.setItemDelegate(CardDelegate(self, self._model))
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMinimumWidth(170)
        self.setAccessibleName("Wires")
        self.selectionModel().currentChanged.connect(self._on_current)
        session.wire_changed.connect(self._show_place)
        session.captures_changed.connect(self._show_place)

    @property
    def rows(self) -> list[Row]:
        """What is listed."""
        return self._model.rows

    def _on_current(self, index: QModelIndex) -> None:
        row: Row | None = index.data(ROW_ROLE) if index.isValid() else None
        if row is not None and row.place is not None and not self._showing:
            self._session.choose_wire(row.place)

    def _show_place(self) -> None:
        for number, row in enumerate(self._model.rows):
            if row.place is not None and row.place == self._session.place:
                index = self._model.index(number)
                if self.currentIndex() != index:
                    self._showing = True
                    self.setCurrentIndex(index)
                    self._showing = False
                    self.scrollTo(index)
