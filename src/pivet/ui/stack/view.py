"""The stack: one exchange, every bit in its own cell on one time scale."""

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from pivet.bench.text import pulse_text
from pivet.decode.humidity import layout
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.judge.wording import seconds, span, us
from pivet.ui.painting import LEFT, RIGHT, draw_mark, draw_panel, draw_text, font_of
from pivet.ui.session import Session
from pivet.ui.stack.cells import paint_bands, paint_cells, paint_missing
from pivet.ui.stack.geometry import BITS_IN_ROW, BYTES, ORDER, Geometry
from pivet.ui.stack.rows import paint_label, paint_sum
from pivet.ui.theme import theme

PREAMBLE = ("ask", "release", "answer_low", "answer_high", "end_low")
CHIP_GAP = 18.0


class StackView(QWidget):
    """Shows the chosen exchange; pulses light up under the pointer and by the arrow keys."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._chips: list[tuple[QRectF, int]] = []
        self._place: tuple[tuple[int, int, str], Geometry] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(QSize(640, 330))
        self.setAccessibleName("Stack of bits")
        for signal in (session.exchange_changed, session.wire_changed, session.lit_changed):
            signal.connect(self.update)

    def geometry_now(self, report: Report) -> Geometry:
        """The layout at the present size."""
        key = (self.width(), self.height(), report.sheet.id)
        if self._place is None or self._place[0] != key:
            self._place = (key, Geometry(self.width(), self.height(), report.sheet))
        return self._place[1]

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paints title, preamble, rows and readout."""
        painter = QPainter(self)
        draw_panel(painter, QRectF(self.rect()), self.hasFocus())
        report = self._session.report
        if report is None:
            draw_text(
                painter,
                QRectF(self.rect()),
                "No exchange on this wire",
                font_of(self, 1.1),
                theme().faint,
                Qt.AlignmentFlag.AlignCenter,
            )
            return
        place = self.geometry_now(report)
        self._paint_title(painter, place, report)
        self._paint_preamble(painter, place, report)
        bits = {pulse.column: pulse for pulse in report.pulses if pulse.bit is not None}
        font = font_of(self, 0.9)
        paint_bands(painter, place, report.sheet)
        for byte in range(BYTES):
            paint_label(painter, place, report, byte, self)
            paint_sum(painter, place, report, byte, self)
        paint_cells(painter, place, report, bits, self._session.lit, font)
        for bit in range(report.bit_count, layout.BITS):
            paint_missing(painter, place, bits, bit, font)
        self._paint_readout(painter, place, report)

    def _paint_title(self, painter: QPainter, place: Geometry, report: Report) -> None:
        colours, box = theme(), place.title
        title = f"Exchange {report.number} · {seconds(report.start_ns)}"
        used = draw_text(painter, box, title, font_of(self, 1.15, bold=True), colours.ink)
        small = font_of(self, 0.85)
        right = box.right()
        windows = report.sheet.windows
        for key, colour in (
            ("one_high", colours.one),
            ("zero_high", colours.zero),
            ("bit_low", colours.low),
        ):
            window = windows[key]
            text = f"{window.label} {span(window.min_us, window.max_us)}"
            text += " (assumed)" if window.assumed else ""
            width = QFontMetricsF(small).horizontalAdvance(text) + 14
            left = right - width
            if left < box.left() + used + 20:
                break
            painter.fillRect(QRectF(left, box.center().y() - 6, 8, 12), colour)
            draw_text(
                painter,
                QRectF(left + 12, box.top(), width - 12, box.height()),
                text,
                small,
                colours.faint,
            )
            right = left - 12

    def _paint_preamble(self, painter: QPainter, place: Geometry, report: Report) -> None:
        self._chips = []
        colours, font = theme(), font_of(self, 0.92)
        metrics = QFontMetricsF(font)
        chips = [
            (pulse, f"{pulse.window.label} {'≥ ' if pulse.bound else ''}{us(pulse.width_us)}")
            for pulse in report.pulses
            if pulse.window.key in PREAMBLE
        ]
        widths = [metrics.horizontalAdvance(text) + 22 for _, text in chips]
        spare = place.preamble.width() - sum(widths)
        gap = min(max(spare / max(len(chips) - 1, 1), 1.0), CHIP_GAP)
        left = place.preamble.left()
        for (pulse, text), width in zip(chips, widths, strict=True):
            box = QRectF(left, place.preamble.top() + 3, width, place.preamble.height() - 8)
            if pulse.column in self._session.lit:
                painter.fillRect(box.adjusted(-4, 0, 4, 0), colours.live)
            draw_mark(painter, pulse.verdict, QPointF(left + 6, box.center().y()), 9)
            sound = pulse.verdict is Verdict.SOUND
            colour = colours.ink if sound else colours.verdict(pulse.verdict)
            draw_text(painter, box.adjusted(16, 0, 8, 0), text, font, colour)
            self._chips.append((box, pulse.column))
            left += width + gap

    def _paint_readout(self, painter: QPainter, place: Geometry, report: Report) -> None:
        text = pulse_text(report, self._session.lit)
        colours = theme()
        hint = "Point at a bit, a byte or a pulse: it lights up everywhere, with its margin."
        draw_text(
            painter,
            place.readout,
            text or hint,
            font_of(self, 0.95, bold=bool(text)),
            colours.ink if text else colours.faint,
            LEFT,
        )
        step = us((self._session.wire.resolution_ns if self._session.wire else 0) / 1000)
        if not text:
            draw_text(
                painter,
                place.readout,
                f"widths ± {step}",
                font_of(self, 0.85),
                colours.faint,
                RIGHT,
            )

    def _columns_at(self, point: QPointF) -> frozenset[int]:
        for box, column in self._chips:
            if box.contains(point):
                return frozenset({column})
        report = self._session.report
        if report is None:
            return frozenset()
        there = {pulse.column for pulse in report.pulses}
        return self.geometry_now(report).columns_at(point) & there

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Lights what the pointer is on."""
        self._session.hover(self._columns_at(event.position()))

    def leaveEvent(self, event: QEvent) -> None:
        """The pointer has gone."""
        self._session.hover(frozenset())
        super().leaveEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Chooses what the pointer is on."""
        if event.button() is Qt.MouseButton.LeftButton:
            self._session.choose_pulses(self._columns_at(event.position()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrow keys walk from pulse to pulse, up and down by a byte."""
        steps = {
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Up: -2 * BITS_IN_ROW,
            Qt.Key.Key_Down: 2 * BITS_IN_ROW,
        }
        step = steps.get(Qt.Key(event.key()))
        report = self._session.report
        if step is None or report is None or event.modifiers():
            super().keyPressEvent(event)
            return
        self._session.choose_pulses(walk(report.pulses, self._session.chosen, step))


def walk(pulses: tuple[Pulse, ...], chosen: frozenset[int], step: int) -> frozenset[int]:
    """The pulse some steps further than the chosen ones; stays at the ends."""
    there = [column for column in ORDER if any(pulse.column == column for pulse in pulses)]
    if not there:
        return frozenset()
    known = [number for number, column in enumerate(there) if column in chosen]
    if not known:
        return frozenset({there[0] if step > 0 else there[-1]})
    start = known[-1] if step > 0 else known[0]
    return frozenset({there[min(max(start + step, 0), len(there) - 1)]})
