"""The list of captures and their wires, each with its last reading and last verdicts."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QPersistentModelIndex,
    QPointF,
    QRectF,
    QSize,
    Qt,
)
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QListView, QStyledItemDelegate, QWidget

from pivet.bench.capture import Capture
from pivet.bench.text import short_names
from pivet.bench.wire import Wire
from pivet.judge.verdict import Verdict
from pivet.judge.wording import count
from pivet.readings.track import Track
from pivet.ui.painting import draw_mark, draw_text, font_of
from pivet.ui.session import Place, Session
from pivet.ui.theme import theme

if TYPE_CHECKING:  # creating the types of Qt's styles would cost a tenth of the start
    from PySide6.QtWidgets import QStyleOptionViewItem

BEGINNING = Qt.TextElideMode.ElideLeft
"""Of a dotted name the last part says most."""

LAST = 12
MOST_VALUES = 2
MOST_DEVICES = 5
MARK_PITCH = 13.5
CARD_HEIGHT = 88
HEAD_HEIGHT = 44
ROW_ROLE = Qt.ItemDataRole.UserRole
Index = QModelIndex | QPersistentModelIndex


@dataclass(frozen=True, slots=True, eq=False)
class Row:
    """A line of the list: a capture's head (``place`` is None) or one of its wires.

    ``short`` is the wire's name without what all wires of the capture share.
    """

    capture: Capture
    number: int
    place: Place | None = None
    wire: Wire | None = None
    short: str = ""

    @property
    def spoken(self) -> str:
        """The row in words, for screen readers and tests."""
        if self.wire is None:
            return self.capture.name
        return f"{self.wire.label}, {self.wire.sheet.name}, {last_reading(self.wire)}"


def last_reading(wire: Wire) -> str:
    """What was measured last, or why the last exchange gave nothing."""
    if not len(wire):
        return "no exchange"
    devices = [track for track in wire.tracks if track.rom]
    if devices:
        return _last_of_each(devices)
    report = wire.report(len(wire) - 1)
    if report.readings:
        return "  ".join(
            f"{row.quantity + ' ' if row.derived else ''}{row.text} {row.unit}"
            for row in report.readings[:MOST_VALUES]
        )
    return f"– {report.headline.partition(': ')[2] or report.headline}"


def _last_of_each(devices: list[Track]) -> str:
    """The last value of each device that still gives one."""
    values = [
        f"{track.values[-1]:.1f}" for track in devices if track.given.size and track.given[-1]
    ]
    if not values:
        return "– no device answers"
    return f"{' · '.join(values[:MOST_DEVICES])} {devices[0].unit}"


class WiresModel(QAbstractListModel):
    """The rows of the list."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.rows: list[Row] = []
        session.captures_changed.connect(self._renew)

    def _renew(self) -> None:
        self.beginResetModel()
        self.rows = []
        for number, capture in enumerate(self._session.captures):
            self.rows.append(Row(capture, number))
            shorts = short_names([wire.label for wire in capture.wires])
            for at, (wire, short) in enumerate(zip(capture.wires, shorts, strict=True)):
                self.rows.append(Row(capture, number, (number, at), wire, short))
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008  Qt's signature
        """Number of rows."""
        return 0 if parent.isValid() else len(self.rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """The row, or its words."""
        row = self.rows[index.row()]
        if role == ROW_ROLE:
            return row
        spoken = (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole)
        if role in spoken:
            return row.spoken
        if role == Qt.ItemDataRole.ToolTipRole:
            if row.wire is None:
                return "\n".join((str(row.capture.path), *row.capture.notes))
            return "\n".join(name for line in row.wire.lines for name in (line.name, *line.aliases))
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Heads cannot be chosen."""
        if self.rows[index.row()].wire is None:
            return Qt.ItemFlag.ItemIsEnabled
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable


class CardDelegate(QStyledItemDelegate):
    """Paints the rows of a list."""

    def __init__(self, view: QListView) -> None:
        super().__init__(view)
        self._view = view

    def sizeHint(self, _option: "QStyleOptionViewItem", index: Index) -> QSize:
        """Heads are lower than cards."""
        row: Row = index.data(ROW_ROLE)
        return QSize(180, HEAD_HEIGHT if row.wire is None else CARD_HEIGHT)

    def paint(self, painter: QPainter, option: "QStyleOptionViewItem", index: Index) -> None:
        """Paints a head or a card."""
        row: Row = index.data(ROW_ROLE)
        box = QRectF(option.rect).adjusted(2, 3, -4, -3)
        painter.save()
        widget = option.widget
        if row.wire is None:
            self._paint_head(painter, box, row, widget)
        else:
            chosen = index.row() == self._view.currentIndex().row()
            self._paint_card(painter, box, row.wire, row.short, widget, chosen)
        painter.restore()

    def _paint_head(self, painter: QPainter, box: QRectF, row: Row, widget: QWidget) -> None:
        colours = theme()
        upper = QRectF(box.left() + 4, box.top(), box.width() - 8, 20)
        lower = upper.translated(0, 18)
        draw_text(painter, upper, row.capture.name, font_of(widget, 0.95, bold=True), colours.ink)
        wires = count(len(row.capture.wires), "wire")
        if row.capture.notes:
            wires += f" · {count(len(row.capture.notes), 'note')}"
        draw_text(painter, lower, wires, font_of(widget, 0.85), colours.faint)

    def _paint_card(
        self,
        painter: QPainter,
        box: QRectF,
        wire: Wire,
        short: str,
        widget: QWidget,
        chosen: bool,
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
        name_font = font_of(widget, 1.05, bold=True)
        draw_text(painter, line, short, name_font, colours.ink, elide=BEGINNING)
        how = "recognised" if wire.recognised else "chosen"
        draw_text(
            painter,
            line.translated(0, 19),
            f"{wire.sheet.name} · {how}",
            font_of(widget, 0.87),
            colours.faint,
        )
        draw_text(
            painter,
            line.translated(0, 39),
            last_reading(wire),
            font_of(widget, 0.95, bold=True),
            colours.ink,
        )
        y = inner.bottom() - 7
        room = min(LAST, int(inner.width() // MARK_PITCH))
        for number, verdict in enumerate(wire.verdicts[-room:].tolist()):
            x = inner.left() + 6 + MARK_PITCH * number
            draw_mark(painter, Verdict(verdict), QPointF(x, y), 8.5)


class WiresPanel(QListView):
    """Chooses the wire to look at."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._model = WiresModel(session)
        self.setModel(self._model)
        self.setItemDelegate(CardDelegate(self))
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMinimumWidth(170)
        self.setAccessibleName("Wires")
        self.selectionModel().currentChanged.connect(self._on_current)
        session.wire_changed.connect(self._show_place)
        session.captures_changed.connect(self._show_place)

    def _on_current(self, index: QModelIndex) -> None:
        row: Row | None = index.data(ROW_ROLE) if index.isValid() else None
        if row is not None and row.place is not None:
            self._session.choose_wire(row.place)

    def _show_place(self) -> None:
        for number, row in enumerate(self._model.rows):
            if row.place is not None and row.place == self._session.place:
                index = self._model.index(number)
                if self.currentIndex() != index:
                    self.setCurrentIndex(index)
                self.scrollTo(index)
