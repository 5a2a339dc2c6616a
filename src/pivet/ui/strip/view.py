"""The strip: the exchange on the wire, true to time, with two cursors."""

from PySide6.QtCore import QEvent, QLineF, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from pivet.captures.text import short_names
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report, Stretch
from pivet.judge.verdict import Verdict
from pivet.judge.wording import us
from pivet.person.display import Display
from pivet.ui.drawing.painting import (
    CENTER,
    RIGHT,
    draw_panel,
    draw_text,
    font_of,
    polygon_of,
    width_of,
    with_alpha,
)
from pivet.ui.drawing.theme import theme
from pivet.ui.session.session import Session
from pivet.ui.strip.scale import Outline, TimeScale, outline, snapped, tick_text

PAD = 14.0
TITLE = 26.0
WAVE_BOTTOM = 62.0
ZOOM = 1.25
LANE_GAP = 14.0
FEW_STEPS = 4
"""Lines are smoothed only where at least this many pixels lie between two steps."""
SNAP_PX = 9.0
GRIP_PX = 6.0
MARGIN = 0.05
LEAST_FITTED_NS = 100_000
ASK_SHARE = 0.22
"""A long ask is cut to this share of the rest when an exchange is fitted."""


class StripView(QWidget):
    """Shows the wire around the chosen exchange.

    Wheel zooms, dragging pans, Shift and drag measures between two cursors that snap to
    edges, a double click measures one pulse.
    """

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._scale: TimeScale | None = None
        self._cursors: list[int] = []
        self._dragged: QPointF | None = None
        self._moved = False
        self._held: int | None = None
        self._named: tuple[Report | None, list[Stretch]] = (None, [])
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setMinimumHeight(150)
        self.setAccessibleName("Exchange on the wire")
        session.wire_changed.connect(self._on_wire)
        session.exchange_changed.connect(self.fit)
        session.shown_changed.connect(self.update)
        session.lit_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """Wide and low."""
        return QSize(600, 172)

    @property
    def scale(self) -> TimeScale | None:
        """The stretch shown; None without a wire."""
        return self._scale

    @property
    def cursors(self) -> list[int]:
        """Times of the cursors, ns; none, or two."""
        return list(self._cursors)

    def _on_wire(self) -> None:
        self._cursors = []
        self._scale = None
        if self._session.report is None:
            self.fit()

    def fit(self) -> None:
        """Shows the chosen exchange."""
        wire, report = self._session.wire, self._session.report
        if wire is None:
            self._scale = None
        else:
            box = self._box()
            first, last = float(wire.start_ns), float(max(wire.end_ns, wire.start_ns + 1000))
            scale = TimeScale(first, last, first, last, box.left(), box.width())
            self._scale = scale if report is None else scale.shown(*_fitting(report))
        self.update()

    def show_all(self) -> None:
        """Shows the whole capture."""
        if self._scale is not None:
            self._scale = self._scale.shown(self._scale.first_ns, self._scale.last_ns)
            self.update()

    def zoom(self, notches: float, x: float | None = None) -> None:
        """Zooms in (above 0) or out around a pixel, by default the middle."""
        if self._scale is not None:
            at = self._scale.left + self._scale.width / 2 if x is None else x
            self._scale = self._scale.zoomed(ZOOM**-notches, at)
            self.update()

    def measure(self, start_ns: int, end_ns: int) -> None:
        """Sets both cursors."""
        self._cursors = [start_ns, end_ns]
        self.update()

    def measure_lit(self) -> bool:
        """Sets the cursors at the ends of the lit pulses, if there are any."""
        pulses = self._lit_pulses()
        if pulses:
            self.measure(pulses[0].start_ns, pulses[-1].end_ns)
        return bool(pulses)

    def clear_cursors(self) -> bool:
        """Takes the cursors away; tells whether there were any."""
        had, self._cursors = bool(self._cursors), []
        self.update()
        return had

    def _lit_pulses(self) -> list[Pulse]:
        report = self._session.report
        lit = self._session.lit
        return [pulse for pulse in report.pulses if pulse.column in lit] if report else []

    def _box(self) -> QRectF:
        top = TITLE + 16
        return QRectF(PAD, top, self.width() - 2 * PAD, self.height() - top - WAVE_BOTTOM)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keeps the stretch that is shown."""
        if self._scale is not None:
            box, old = self._box(), self._scale
            self._scale = TimeScale(
                old.start_ns, old.end_ns, old.first_ns, old.last_ns, box.left(), box.width()
            )
        super().resizeEvent(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paints the wire, its labels, the time scale and the cursors."""
        painter = QPainter(self)
        draw_panel(painter, QRectF(self.rect()), self.hasFocus())
        wire, scale = self._session.wire, self._scale
        if wire is None or scale is None:
            return
        self._paint_title(painter, scale)
        painter.setClipRect(QRectF(PAD, 0, self.width() - 2 * PAD, self.height()))
        self._paint_lit(painter, scale)
        self._paint_ticks(painter, scale)
        for number, line in enumerate(wire.lines):
            course = outline(line.edges_ns, int(line.initial), scale)
            self._paint_line(painter, course, self._lane(number))
        if len(wire.lines) > 1:
            self._paint_names(painter)
        self._paint_strays(painter, scale)
        report = self._session.report
        if report is not None:
            in_units = self._in_units(report)
            for label in self._stretches(report):
                self._paint_label(painter, scale, label, in_units.get(label.text, label.text))
        self._paint_cursors(painter, scale)

    def _paint_title(self, painter: QPainter, scale: TimeScale) -> None:
        box = QRectF(PAD, 6, self.width() - 2 * PAD, TITLE - 6)
        wire = self._session.wire
        used = draw_text(painter, box, "On the wire", font_of(self, 1.0, bold=True), theme().ink)
        step = us(wire.resolution_ns / 1000) if wire else ""
        text = f"{us(scale.span_ns / 1000)} shown · step {step}"
        draw_text(painter, box, text, font_of(self, 0.9), theme().faint, RIGHT)
        hint = box.adjusted(used + 20, 0, -200, 0)
        words = "wheel: zoom · drag: move · Shift+drag: measure"
        draw_text(painter, hint, words, font_of(self, 0.85), theme().faint)

    def _lane(self, number: int) -> QRectF:
        """Where one line of the wire is drawn."""
        box = self._box()
        wire = self._session.wire
        count = len(wire.lines) if wire is not None else 1
        height = (box.height() - LANE_GAP * (count - 1)) / count
        return QRectF(box.left(), box.top() + number * (height + LANE_GAP), box.width(), height)

    def _paint_lit(self, painter: QPainter, scale: TimeScale) -> None:
        for pulse in self._lit_pulses():
            box = self._lane(pulse.line)
            left, right = scale.x_of(pulse.start_ns), scale.x_of(pulse.end_ns)
            painter.fillRect(
                QRectF(left, box.top() - 6, max(right - left, 2), box.height() + 12),
                with_alpha(theme().live, 190),
            )

    def _paint_ticks(self, painter: QPainter, scale: TimeScale) -> None:
        report = self._session.report
        zero = report.start_ns if report else 0
        near = scale.counted_from(zero)
        times, step = near.ticks()
        y, font = self.height() - 18.0, font_of(self, 0.8)
        for t_ns in times:
            x = near.x_of(t_ns)
            painter.setPen(QPen(theme().edge, 1))
            painter.drawLine(QPointF(x, self._box().top() - 6), QPointF(x, y))
            text = tick_text(t_ns, step, zero)
            half = width_of(text, font) / 2
            middle = min(max(x, self._box().left() + half), self._box().right() - half)
            draw_text(painter, QRectF(middle - 50, y, 100, 16), text, font, theme().faint, CENTER)

    def _stretches(self, report: Report) -> list[Stretch]:
        """Named parts of the exchange, kept while it is shown."""
        if self._named[0] is not report:
            self._named = (report, report.stretches)
        return self._named[1]

    def _paint_names(self, painter: QPainter) -> None:
        """Which line is which, where a wire has several."""
        wire = self._session.wire
        names = short_names([line.name for line in wire.lines]) if wire else []
        for number, name in enumerate(names):
            lane = self._lane(number)
            box = QRectF(lane.right() - 162, lane.top() - 2, 160, 14)
            draw_text(painter, box, name, font_of(self, 0.8), theme().faint, RIGHT)

    def _paint_line(self, painter: QPainter, course: Outline, box: QRectF) -> None:
        smooth = FEW_STEPS * course.steps.size < box.width()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, smooth)
        pen = QPen(theme().trace, 1.4 if smooth else 1.0)
        # A hairline: Qt draws a wide run of many points a hundred times slower.
        pen.setCosmetic(not smooth)
        painter.setPen(pen)
        top, bottom = box.top(), box.bottom()
        if course.whole and not smooth:
            painter.drawPolyline(polygon_of(course.points(top, bottom)))
            return
        pieces = [
            QLineF(a, top if high else bottom, b, top if high else bottom)
            for a, b, high in course.levels.tolist()
        ]
        painter.drawLines(pieces)
        painter.drawLines([QLineF(x, top, x, bottom) for x in course.steps.tolist()])

    def _paint_strays(self, painter: QPainter, scale: TimeScale) -> None:
        """Pulses that are not sound, over the line in the colour of their verdict."""
        report = self._session.report
        if report is None:
            return
        for pulse in report.pulses:
            if pulse.verdict in (Verdict.SOUND, Verdict.NEAR):
                continue
            left, right = scale.x_of(pulse.start_ns), scale.x_of(pulse.end_ns)
            box = self._lane(pulse.line)
            y = box.top() if pulse.high else box.bottom()
            painter.setPen(QPen(theme().verdict(pulse.verdict), 3))
            painter.drawLine(QPointF(left, y), QPointF(max(right, left + 1), y))

    def _paint_label(self, painter: QPainter, scale: TimeScale, label: Stretch, words: str) -> None:
        left, right = scale.x_of(label.start_ns), scale.x_of(label.end_ns)
        left, right = max(left, PAD), min(right, self.width() - PAD)
        if right - left < 14:
            return
        y = self._box().bottom() + 12
        painter.setPen(QPen(theme().accent, 1))
        painter.drawLine(QPointF(left + 2, y), QPointF(right - 2, y))
        painter.drawLine(QPointF(left + 2, y), QPointF(left + 2, y - 4))
        painter.drawLine(QPointF(right - 2, y), QPointF(right - 2, y - 4))
        box = QRectF(left + 2, y + 2, right - left - 4, 20)
        font = font_of(self, 0.9)
        for text in (words, label.short):
            if width_of(text, font) <= box.width():
                draw_text(painter, box, text, font, theme().accent, CENTER)
                break

    def _in_units(self, report: Report) -> dict[str, str]:
        """What the bytes say, in the units that are chosen: never corrected."""
        plain = Display(self._session.shown.units)
        found = {}
        for value in report.readings:
            shown = plain.reading("", value)
            found[f"{value.text} {value.unit}"] = f"{shown.text} {shown.unit}"
        return found

    def _paint_cursors(self, painter: QPainter, scale: TimeScale) -> None:
        if not self._cursors:
            return
        colours = theme()
        painter.setPen(QPen(colours.near, 1.6))
        places = [scale.x_of(t_ns) for t_ns in self._cursors]
        for x in places:
            painter.drawLine(QPointF(x, TITLE), QPointF(x, self.height() - 20))
        y = TITLE + 7
        painter.drawLine(QPointF(places[0], y), QPointF(places[1], y))
        between = abs(self._cursors[1] - self._cursors[0])
        text = f"{us(between / 1000)}"
        font = font_of(self, 0.95, bold=True)
        painter.setFont(font)
        width = painter.fontMetrics().horizontalAdvance(text) + 12
        middle = min(max(sum(places) / 2, PAD + width / 2), self.width() - PAD - width / 2)
        plate = QRectF(middle - width / 2, y - 9, width, 18)
        painter.fillRect(plate, colours.panel)
        draw_text(painter, plate, text, font, colours.near, CENTER)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zooms around the pointer; sideways it pans."""
        turned = event.angleDelta()
        if self._scale is None:
            return
        if turned.x() and not turned.y():
            self._scale = self._scale.moved(turned.x())
            self.update()
        else:
            self.zoom(turned.y() / 120, event.position().x())
        event.accept()

    def _snap(self, x: float) -> int:
        wire, scale = self._session.wire, self._scale
        if wire is None or scale is None:
            return 0
        reach = SNAP_PX / max(scale.width, 1) * scale.span_ns
        t_ns = scale.t_of(x)
        found = [snapped(line.edges_ns, t_ns, reach) for line in wire.lines]
        there = [at for line, at in zip(wire.lines, found, strict=True) if at in line.edges_ns]
        return min(there or found, key=lambda at: abs(at - t_ns))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begins to pan, to measure, or to move a cursor."""
        if event.button() is not Qt.MouseButton.LeftButton or self._scale is None:
            return
        x = event.position().x()
        self._dragged, self._moved = event.position(), False
        grips = [abs(self._scale.x_of(t_ns) - x) for t_ns in self._cursors]
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._cursors, self._held = [self._snap(x)] * 2, 1
        elif grips and min(grips) <= GRIP_PX:
            self._held = grips.index(min(grips))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Pans, moves a cursor, or lights the pulse under the pointer."""
        x = event.position().x()
        if self._scale is None:
            return
        if self._held is not None:
            self._cursors[self._held] = self._snap(x)
            self._moved = True
            self.update()
        elif self._dragged is not None:
            by = x - self._dragged.x()
            if self._moved or abs(by) > 3:
                self._moved = True
                self._scale = self._scale.moved(by)
                self._dragged = event.position()
                self.update()
        else:
            self._session.hover(self._columns_at(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A click without a drag chooses the pulse, or the exchange that stands there."""
        if self._dragged is not None and not self._moved and self._held is None:
            self._click(event.position())
        self._dragged, self._held = None, None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Measures the pulse under the pointer."""
        self._session.choose_pulses(self._columns_at(event.position()))
        self.measure_lit()

    def _click(self, point: QPointF) -> None:
        columns = self._columns_at(point)
        wire, report, scale = self._session.wire, self._session.report, self._scale
        if wire is None or scale is None:
            return
        t_ns = scale.t_of(point.x())
        if not columns and report and not report.start_ns <= t_ns <= report.end_ns:
            found = wire.nearest(round(t_ns))
            inside = found is not None and (
                wire.exchanges.start_ns[found] <= t_ns <= wire.exchanges.end_ns[found]
            )
            if found is not None and inside and found != self._session.index:
                self._session.choose_exchange(found)
                return
        self._session.choose_pulses(columns)

    def _columns_at(self, point: QPointF) -> frozenset[int]:
        report, scale = self._session.report, self._scale
        if report is None or scale is None or point.y() < TITLE:
            return frozenset()
        t_ns = scale.t_of(point.x())
        for label in self._stretches(report):
            below = point.y() > self._box().bottom() + 6
            if below and label.start_ns <= t_ns < label.end_ns:
                return frozenset(label.columns)
        for pulse in report.pulses:
            if pulse.start_ns <= t_ns < pulse.end_ns:
                return frozenset({pulse.column})
        return frozenset()

    def leaveEvent(self, event: QEvent) -> None:
        """The pointer has gone."""
        self._session.hover(frozenset())
        super().leaveEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrow keys pan and zoom."""
        key = Qt.Key(event.key())
        if self._scale is None or event.modifiers():
            super().keyPressEvent(event)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            step = self._scale.width / 8
            self._scale = self._scale.moved(step if key is Qt.Key.Key_Left else -step)
            self.update()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.zoom(1 if key is Qt.Key.Key_Up else -1)
        else:
            super().keyPressEvent(event)


def _fitting(report: Report) -> tuple[float, float]:
    """The stretch that shows an exchange: all of it, but of a long ask only the end; ns."""
    first, last = report.start_ns, report.end_ns
    if len(report.pulses) > 1:
        body = report.pulses[1].start_ns
        answer = max(last - body, LEAST_FITTED_NS)
        return max(first - MARGIN * answer, body - ASK_SHARE * answer), last + MARGIN * answer
    span = max(last - first, LEAST_FITTED_NS)
    return first - MARGIN * span, first + (1 + MARGIN) * span
