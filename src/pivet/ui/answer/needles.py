"""The windows of an exchange, each with a needle."""

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from pivet.judge.report import Report, WindowUse
from pivet.judge.verdict import Verdict
from pivet.judge.wording import span
from pivet.sheets.model import Window
from pivet.ui.drawing.painting import RIGHT, draw_mark, draw_text, font_of, with_alpha
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import plain_tip
from pivet.ui.session.session import Session

ROW = 25.0
GAUGE = 84.0
BEYOND = 0.14
"""Share of the gauge on either side that stands for "outside"."""


def needle_place(width_us: float, window: Window) -> float:
    """Where a width stands on a gauge, 0..1: the typical width in the middle.

    Both sides have a scale of their own, so a window of 0.8..20 ms around 1 ms is readable.
    """
    inner = 0.5 - BEYOND
    if width_us <= window.typ_us or window.max_us is None:
        room = window.room_us(above=False) or window.typ_us
        place = 0.5 - inner * (window.typ_us - width_us) / room
    else:
        room = window.room_us(above=True) or window.typ_us
        place = 0.5 + inner * (width_us - window.typ_us) / room
    return min(max(place, 0.02), 0.98)


class NeedleList(QWidget):
    """One row a window; a row lights its pulses."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._at: int | None = None
        self._own: dict[str, frozenset[int]] = {}
        self._lit: list[frozenset[int]] = []
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Timing against the sheet")
        session.exchange_changed.connect(self._renew)
        session.wire_changed.connect(self._renew)
        session.lit_changed.connect(self._on_lit)

    def _renew(self) -> None:
        self._at = None
        self._own = {}
        self._lit = self._lit_rows()
        self.updateGeometry()
        self.update()

    def _lit_rows(self) -> list[frozenset[int]]:
        """Which pulses of each row are lit."""
        report, lit = self._session.report, self._session.lit
        rows = range(len(report.windows)) if report is not None else range(0)
        if report is None or not lit:
            return [frozenset() for _ in rows]
        return [self._columns(report, number) & lit for number in rows]

    def _on_lit(self) -> None:
        """Only rows of which other pulses are lit are painted anew."""
        before, self._lit = self._lit, self._lit_rows()
        if len(before) != len(self._lit):
            self.update()
            return
        for number, (old, new) in enumerate(zip(before, self._lit, strict=True)):
            if old != new:
                self.update(0, int(number * ROW) - 3, self.width(), int(ROW) + 6)

    def sizeHint(self) -> QSize:
        """As high as there are windows."""
        report = self._session.report
        return QSize(240, round(ROW * (len(report.windows) if report else 0)) + 4)

    def minimumSizeHint(self) -> QSize:
        """Never less."""
        return QSize(200, self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paints the rows that are asked for."""
        report = self._session.report
        if report is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if len(self._lit) != len(report.windows):
            self._lit = self._lit_rows()
        for number, used in enumerate(report.windows.values()):
            box = QRectF(0, number * ROW, self.width(), ROW)
            if not box.adjusted(0, -2, 0, 2).intersects(QRectF(event.rect())):
                continue
            lit = self._lit[number]
            if lit:
                painter.fillRect(box, with_alpha(theme().live, 120))
            if self.hasFocus() and number == self._at:
                painter.setPen(QPen(theme().accent, 1, Qt.PenStyle.DotLine))
                painter.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5))
            self._paint_row(painter, box, used)
            self._paint_needles(painter, box, report, used, lit)

    def _paint_row(self, painter: QPainter, box: QRectF, used: WindowUse) -> None:
        colours = theme()
        draw_mark(painter, used.verdict, QPointF(box.left() + 8, box.center().y()), 9)
        colour = colours.ink if used.verdict is Verdict.SOUND else colours.verdict(used.verdict)
        left = box.left() + 20
        room = box.width() - 20 - GAUGE - 8
        name = QRectF(left, box.top(), room * 0.5, box.height())
        value = QRectF(left + room * 0.5, box.top(), room * 0.5 - 2, box.height())
        draw_text(painter, name, used.window.label, font_of(self, 0.92), colours.ink)
        draw_text(
            painter,
            value,
            _widths(used),
            font_of(self, 0.9, bold=used.verdict is not Verdict.SOUND),
            colour,
            RIGHT,
        )

    def _paint_needles(
        self,
        painter: QPainter,
        box: QRectF,
        report: Report,
        used: WindowUse,
        lit: frozenset[int],
    ) -> None:
        colours, window = theme(), used.window
        gauge = QRectF(box.right() - GAUGE, box.center().y() - 4, GAUGE - 2, 8)
        inside = gauge.adjusted(BEYOND * gauge.width(), 0, -BEYOND * gauge.width(), 0)
        if window.max_us is None:
            inside.setRight(gauge.right())
        painter.fillRect(gauge, with_alpha(colours.gauge, 90))
        painter.fillRect(inside, colours.gauge)
        if window.assumed:
            painter.fillRect(inside, Qt.BrushStyle.Dense6Pattern)
        x_of = [
            gauge.left() + needle_place(t, window) * gauge.width()
            for t in (used.min_us, used.max_us)
        ]
        colour = colours.verdict(used.verdict)
        painter.setPen(QPen(colour, 3.4 if x_of[1] - x_of[0] < 2 else 2.0))
        for x in x_of:
            painter.drawLine(QPointF(x, gauge.top() - 4), QPointF(x, gauge.bottom() + 4))
        painter.drawLine(QPointF(x_of[0], gauge.center().y()), QPointF(x_of[1], gauge.center().y()))
        for pulse in report.pulses if len(lit) == 1 else ():
            if pulse.column in lit:
                x = gauge.left() + needle_place(pulse.width_us, window) * gauge.width()
                painter.setPen(QPen(colours.ink, 2.2))
                painter.drawLine(QPointF(x, gauge.top() - 6), QPointF(x, gauge.bottom() + 6))

    def _columns(self, report: Report, number: int) -> frozenset[int]:
        if not self._own:
            own: dict[str, set[int]] = {key: set() for key in report.windows}
            for pulse in report.pulses:
                own.setdefault(pulse.window.key, set()).add(pulse.column)
            self._own = {key: frozenset(columns) for key, columns in own.items()}
        return self._own[list(report.windows)[number]]

    def _row_at(self, y: float) -> int | None:
        report = self._session.report
        number = int(y // ROW)
        return number if report is not None and 0 <= number < len(report.windows) else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Lights the pulses of the row."""
        report, number = self._session.report, self._row_at(event.position().y())
        if report is None or number is None:
            self._session.hover(frozenset())
            self.setToolTip("")
            return
        self._session.hover(self._columns(report, number))
        window = list(report.windows.values())[number].window
        origin = "assumed around the typical value" if window.assumed else "from the sheet"
        tip = f"{window.label}: {span(window.min_us, window.max_us)}, "
        self.setToolTip(plain_tip(f"{tip}typically {window.typ_us:g} µs, {origin}"))

    def leaveEvent(self, event: QEvent) -> None:
        """The pointer has gone."""
        self._session.hover(frozenset())
        super().leaveEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Keeps the pulses of the row lit."""
        self._choose(self._row_at(event.position().y()))

    def _choose(self, number: int | None) -> None:
        report = self._session.report
        self._at = number
        if report is not None and number is not None:
            self._session.choose_pulses(self._columns(report, number))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Up and down walk over the rows."""
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        report = self._session.report
        if step is None or report is None or not report.windows:
            super().keyPressEvent(event)
            return
        start = self._at if self._at is not None else (-1 if step > 0 else len(report.windows))
        self._choose(min(max(start + step, 0), len(report.windows) - 1))


def _widths(used: WindowUse) -> str:
    """The measured widths in µs: one, or the shortest and the longest."""
    if used.number == 1 or used.max_us - used.min_us < 0.05:
        return f"{used.max_us:.0f}" if used.max_us >= 1000 else f"{used.max_us:.1f}"
    return f"{used.min_us:.1f}–{used.max_us:.1f}"
