"""The stack: one exchange with every pulse on one time scale; each family brings its rows."""

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from pivet.captures.text import clock_text, pulse_text
from pivet.judge.pulses import Pulse
from pivet.judge.wording import seconds, us
from pivet.ui.drawing.painting import CENTER, RIGHT, draw_panel, draw_text, font_of
from pivet.ui.drawing.theme import theme
from pivet.ui.session.session import Session
from pivet.ui.stack.registry import make_rows
from pivet.ui.stack.rows import (
    NOTHING,
    PAD,
    READOUT_HEIGHT,
    TITLE_HEIGHT,
    Columns,
    Rows,
    RowsToPaint,
)

NOTCH_PX = 48.0


class StackView(QWidget):
    """Shows the chosen exchange; pulses light up under the pointer and by the arrow keys."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._rows: dict[str, Rows] = {}
        self._top = 0.0
        self._said = ""
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(QSize(640, 310))
        self.setAccessibleName("Stack")
        for signal in (session.exchange_changed, session.wire_changed):
            signal.connect(self._on_exchange)
        session.lit_changed.connect(self.update)
        session.roles_changed.connect(self.update)
        session.shown_changed.connect(self.update)

    def _on_exchange(self) -> None:
        self._top, self._said = 0.0, ""
        rows = self.rows
        if rows is not None:
            self.setAccessibleName(rows.name)
        self.update()

    @property
    def rows(self) -> Rows | None:
        """What the family of the chosen wire brings."""
        wire = self._session.wire
        if wire is None:
            return None
        key = wire.family.key
        if key not in self._rows:
            self._rows[key] = make_rows(key)
        return self._rows[key]

    @property
    def shown(self) -> RowsToPaint | None:
        """What is to be painted; None without an exchange."""
        wire, report = self._session.wire, self._session.report
        if wire is None or report is None:
            return None
        lit = self._session.lit
        names = self._session.roles.names
        size = self.width(), self.height()
        units = self._session.shown.units
        return RowsToPaint(wire, report, lit, self, *size, self._top, names, units)

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paints title, rows and readout."""
        painter = QPainter(self)
        draw_panel(painter, QRectF(self.rect()), self.hasFocus())
        rows, shown = self.rows, self.shown
        if rows is None or shown is None:
            words = "No exchange on this wire"
            font = font_of(self, 1.1)
            draw_text(painter, QRectF(self.rect()), words, font, theme().faint, CENTER)
            return
        self._paint_title(painter, rows, shown)
        painter.save()
        painter.setClipRect(shown.body.adjusted(-PAD + 2, 0, PAD - 2, 0))
        rows.paint(painter, shown)
        painter.restore()
        self._paint_readout(painter, rows, shown)

    def _paint_title(self, painter: QPainter, rows: Rows, shown: RowsToPaint) -> None:
        colours = theme()
        box = QRectF(PAD, 8, self.width() - 2 * PAD, TITLE_HEIGHT - 8)
        start_ns = shown.report.start_ns
        title = f"Exchange {shown.report.number} · {seconds(start_ns)}"
        clock = clock_text(self._session.capture, start_ns)
        title += f" · {clock}" if clock else ""
        used = draw_text(painter, box, title, font_of(self, 1.15, bold=True), colours.ink)
        small = font_of(self, 0.85)
        right = box.right()
        for key in rows.legend(shown):
            width = QFontMetricsF(small).horizontalAdvance(key.text) + 14
            left = right - width
            if left < box.left() + used + 20:
                break
            painter.fillRect(QRectF(left, box.center().y() - 6, 8, 12), key.colour)
            words = QRectF(left + 12, box.top(), width - 12, box.height())
            draw_text(painter, words, key.text, small, colours.faint)
            right = left - 12

    def _paint_readout(self, painter: QPainter, rows: Rows, shown: RowsToPaint) -> None:
        text = self._said or pulse_text(shown.report, shown.lit)
        colours = theme()
        top = self.height() - READOUT_HEIGHT
        box = QRectF(PAD, top, self.width() - 2 * PAD, READOUT_HEIGHT - 4)
        font = font_of(self, 0.95, bold=bool(text))
        draw_text(painter, box, text or rows.hint, font, colours.ink if text else colours.faint)
        if not text:
            step = f"widths ± {us(shown.wire.resolution_ns / 1000)}"
            draw_text(painter, box, step, font_of(self, 0.85), colours.faint, RIGHT)

    def _columns_at(self, point: QPointF) -> Columns:
        rows, shown = self.rows, self.shown
        if rows is None or shown is None:
            return NOTHING
        return rows.columns_at(point, shown)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Lights what the pointer is on."""
        self._session.hover(self._columns_at(event.position()))
        rows, shown = self.rows, self.shown
        said = rows.readout_at(event.position(), shown) if rows and shown else ""
        if said != self._said:
            self._said = said
            self.update()

    def leaveEvent(self, event: QEvent) -> None:
        """The pointer has gone."""
        self._said = ""
        self._session.hover(NOTHING)
        super().leaveEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Chooses what the pointer is on: another exchange, or pulses."""
        if event.button() is not Qt.MouseButton.LeftButton:
            return
        rows, shown = self.rows, self.shown
        other = rows.exchange_at(event.position(), shown) if rows and shown else None
        if other is not None and other != self._session.index:
            self._session.choose_exchange(other)
        else:
            self._session.choose_pulses(self._columns_at(event.position()))

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Scrolls rows that do not fit, or steps from exchange to exchange."""
        turned = event.angleDelta().y() / 120
        rows = self.rows
        if rows is not None and rows.steps_exchanges():
            self._session.step(-round(turned))
        else:
            self._scroll_to(self._top - turned * NOTCH_PX)
        event.accept()

    def _scroll_to(self, top: float) -> None:
        rows, shown = self.rows, self.shown
        most = rows.overflow(shown) if rows and shown else 0.0
        self._top = min(max(top, 0.0), most)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrow keys walk from pulse to pulse, up and down by a row."""
        rows, report = self.rows, self._session.report
        key = Qt.Key(event.key())
        arrows = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down)
        if rows is None or report is None or event.modifiers() or key not in arrows:
            super().keyPressEvent(event)
            return
        sideways = key in (Qt.Key.Key_Left, Qt.Key.Key_Right)
        back = key in (Qt.Key.Key_Left, Qt.Key.Key_Up)
        sign = -1 if back else 1
        if not sideways and rows.steps_exchanges():
            self._session.step(sign)
            return
        step = sign if sideways else sign * rows.row_step(report)
        self._session.choose_pulses(walk(report.pulses, self._session.chosen, step))


def walk(pulses: tuple[Pulse, ...], chosen: Columns, step: int) -> Columns:
    """The pulse some steps further than the chosen ones; stays at the ends."""
    there = [pulse.column for pulse in pulses]
    if not there:
        return NOTHING
    known = [number for number, column in enumerate(there) if column in chosen]
    if not known:
        return frozenset({there[0] if step > 0 else there[-1]})
    start = known[-1] if step > 0 else known[0]
    return frozenset({there[min(max(start + step, 0), len(there) - 1)]})
