"""The Glance window: large figures with their age, above other windows."""

import math
import time
from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from pivet.bench.glance import GlanceRow, glimpses
from pivet.captures.text import clock_text, wire_names
from pivet.judge.verdict import Verdict
from pivet.judge.wording import age, seconds
from pivet.readings.units import Dimension
from pivet.ui.drawing.painting import draw_mark, draw_text, font_of, font_of_px, width_of
from pivet.ui.drawing.theme import dress, theme
from pivet.ui.session.session import Session
from pivet.ui.window.settings import Settings

RENEW_MS = 200
SIZE = (520, 260)
LEAST = (220, 130)
PAD = 14.0
KEYS = "U unit · Space next · S one or all · F whole screen · Esc close"
NOTHING = "Nothing is read yet"
WIDEST = "-88.88"
"""Figures are made as large as this fits."""


class GlanceWindow(QWidget):
    """A few sensors, to be read across a room.

    Args:
        session: what is read.
        settings: how the window stood last time.
        next_unit: shows the next unit of a dimension, everywhere.

    Signals:
        closed: it was closed.
    """

    closed = Signal()

    def __init__(
        self, session: Session, settings: Settings, next_unit: Callable[[Dimension], None]
    ) -> None:
        super().__init__(None, Qt.WindowType.Window | Qt.WindowType.WindowStaysOnTopHint)
        self.setWindowTitle("Pivet – Glance")
        self.setMinimumSize(*LEAST)
        self.resize(*SIZE)
        self._session, self._settings, self._next_unit = session, settings, next_unit
        self.page, self.one = 0, False
        self.restoreGeometry(settings.bytes_of("glance"))
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.renew)
        self._timer.start(RENEW_MS)
        dress(self)
        self.setToolTip(KEYS)
        session.shown_changed.connect(self.renew)
        self._said: list[GlanceRow] = []
        self.renew()

    def renew(self) -> None:
        """Looks at the sensors again."""
        self._said = self._seen()
        pages = self.pages
        self.page = min(self.page, pages - 1) if pages else 0
        spoken = "; ".join(self._spoken(row) for row in self.shown)
        self.setAccessibleName(spoken or NOTHING)
        self.update()

    def _seen(self) -> list[GlanceRow]:
        session, capture, live = self._session, self._session.capture, self._session.live_now
        if capture is None:
            return []
        found: list[GlanceRow] = []
        now_ns = None if live is None else time.time_ns() - live.zero_ns
        for wire, name in zip(capture.wires, wire_names(capture), strict=True):
            now = None if live is None else live.wire(wire.title)
            if now is not None and now.resting:
                continue
            silent = dict(now.silent) if now is not None else {}
            if live is not None and not live.here:
                silent[""] = "the source is away"
            found += glimpses(wire, name, session.shown, silent, now_ns)
        return found

    @property
    def pages(self) -> int:
        """How many pages there are."""
        return math.ceil(len(self._said) / self._per_page) if self._said else 0

    @property
    def _per_page(self) -> int:
        return 1 if self.one else max(len(self._said), 1)

    @property
    def shown(self) -> list[GlanceRow]:
        """The sensors on this page."""
        first = self.page * self._per_page
        return self._said[first : first + self._per_page]

    def _spoken(self, row: GlanceRow) -> str:
        values = ", ".join(f"{value.text} {value.unit}" for value in row.values)
        return f"{row.name}: {values or row.reason}"

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paints the figures."""
        painter, colours = QPainter(self), theme()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colours.panel)
        rows = self.shown
        if not rows:
            font = font_of(self, 1.6)
            draw_text(painter, QRectF(self.rect()), NOTHING, font, colours.faint, CENTRE)
            return
        columns = self._columns(len(rows))
        lines = math.ceil(len(rows) / columns)
        width, height = self.width() / columns, self.height() / lines
        for at, row in enumerate(rows):
            box = QRectF(at % columns * width, at // columns * height, width, height)
            self._paint_one(painter, box, row)
        if self.pages > 1:
            text = f"{self.page + 1} of {self.pages}"
            foot = QRectF(0, self.height() - 18, self.width() - 8, 16)
            draw_text(painter, foot, text, font_of(self, 0.8), colours.faint, RIGHT)

    def _columns(self, count: int) -> int:
        """So that cells are about twice as wide as high."""
        best = min(
            range(1, count + 1),
            key=lambda n: abs(
                math.log((self.width() / n) / (self.height() / math.ceil(count / n)) / 1.9)
            ),
        )
        return max(best, 1)

    def _paint_one(self, painter: QPainter, box: QRectF, row: GlanceRow) -> None:
        colours = theme()
        pad = min(PAD, box.width() / 20)
        inner = box.adjusted(pad, pad / 2, -pad, -pad / 2)
        painter.setPen(colours.edge)
        painter.drawRoundedRect(box.adjusted(3, 3, -3, -3), 6, 6)
        small = max(min(inner.height() * 0.13, 26.0), 8.0)
        head = QRectF(inner.left(), inner.top() + 2, inner.width(), small * 1.6)
        name_font, age_font = font_of_px(self, small, True), font_of_px(self, small * 0.9, False)
        passed = self._age(row)
        used = width_of(passed, age_font) + 10
        draw_text(painter, head.adjusted(0, 0, -used, 0), row.label, name_font, colours.ink)
        draw_text(painter, head, passed, age_font, colours.faint, RIGHT)
        rest = QRectF(inner.left(), head.bottom(), inner.width(), inner.bottom() - head.bottom())
        if not row.values:
            self._paint_reason(painter, rest, row.reason)
            return
        height = rest.height() / len(row.values)
        for number, value in enumerate(row.values):
            line = QRectF(rest.left(), rest.top() + number * height, rest.width(), height)
            size = _fitting(self, WIDEST, line.width() * 0.74, line.height() * 0.98)
            figure, unit = font_of_px(self, size, True), font_of_px(self, size * 0.36, False)
            width = width_of(value.text, figure)
            draw_text(painter, line, value.text, figure, colours.ink)
            mark = "*" if value.correction else ""
            left = line.left() + width + size * 0.14
            where = QRectF(left, line.top(), line.right() - left, line.height())
            draw_text(painter, where, f"{value.unit}{mark}", unit, colours.faint)

    def _paint_reason(self, painter: QPainter, box: QRectF, reason: str) -> None:
        """What stands in the place of a figure."""
        colours = theme()
        size = min(
            _fitting(self, reason, box.width() * 0.82, box.height() * 0.5), box.height() * 0.34
        )
        edge = max(size * 0.8, 8.0)
        draw_mark(painter, Verdict.UNSOUND, QPointF(box.left() + edge / 2, box.center().y()), edge)
        where = box.adjusted(edge * 1.6, 0, 0, 0)
        draw_text(painter, where, reason, font_of_px(self, size, True), colours.unsound)

    def _age(self, row: GlanceRow) -> str:
        """How old the figures are; of a failed one how long there was none."""
        if row.end_ns is None:
            return ""
        live = self._session.live_now
        if live is None:
            at = clock_text(self._session.capture, row.end_ns)
            return at or seconds(row.end_ns).partition(".")[0]
        passed = age(max((time.time_ns() - live.zero_ns - row.end_ns) / 1e9, 0.0))
        return passed if row.values else f"none for {passed}"

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Unit and page by key."""
        key = Qt.Key(event.key())
        pages = max(self.pages, 1)
        if key is Qt.Key.Key_U:
            shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._next_unit(Dimension.LENGTH if shift else Dimension.TEMPERATURE)
        elif key in (Qt.Key.Key_Space, Qt.Key.Key_Right, Qt.Key.Key_PageDown):
            self.page = (self.page + 1) % pages
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_PageUp):
            self.page = (self.page - 1) % pages
        elif key is Qt.Key.Key_S:
            self.one, self.page = not self.one, 0
        elif key is Qt.Key.Key_F:
            self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)
        elif key is Qt.Key.Key_Escape:
            self.close()
            return
        else:
            super().keyPressEvent(event)
            return
        self.renew()

    def closeEvent(self, event: QCloseEvent) -> None:
        """Remembers where it stood."""
        self._timer.stop()
        self._settings.keep_bytes("glance", self.saveGeometry())
        self.closed.emit()
        super().closeEvent(event)


CENTRE = Qt.AlignmentFlag.AlignCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


def _fitting(widget: QWidget, text: str, width: float, height: float) -> float:
    """The size at which a text is neither wider nor higher than this."""
    wide = width_of(text, font_of_px(widget, 100, True))
    return min(100 * width / max(wide, 1.0), height / 1.18)
