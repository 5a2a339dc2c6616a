"""Echo measurements in the stack: the chosen shot among its neighbours."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from pivet.decode.echo import EchoExchanges
from pivet.decode.interface import ABSENT
from pivet.insight.drawn.echo import EchoScale, distance_text, round_text
from pivet.judge.echo.judged import JudgedShots, echo_window
from pivet.judge.echo.pulses import ECHO
from pivet.judge.verdict import Verdict
from pivet.judge.wording import seconds, us
from pivet.readings.sound import distance_m
from pivet.ui.drawing.painting import (
    CENTER,
    LEFT,
    RIGHT,
    draw_mark,
    draw_text,
    font_of,
    pulse_pen,
    with_alpha,
)
from pivet.ui.drawing.theme import theme
from pivet.ui.stack.rows import NOTHING, Chips, Columns, Key, Rows, RowsToPaint

CHIPS_HEIGHT = 28.0
AXIS = 20.0
LABEL = 118.0
VALUE = 92.0
ROW = 27.0


class EchoRows(Rows):
    """Successive measurements, aligned at the rise of the echo, in µs and as distances."""

    name = "Stack of measurements"
    hint = "Rows are shots, the chosen one in the middle: click another, or use the arrow keys."

    def __init__(self) -> None:
        self._chips = Chips()

    def legend(self, shown: RowsToPaint) -> list[Key]:
        """The range, and the median."""
        speed = float(_shots(shown)[1].speed[shown.index])
        window = echo_window(shown.report.sheet, speed)
        rule = shown.report.sheet.echo
        text = f"range {us(window.min_us)} to {us(window.max_us or 0)}"
        if rule is not None:
            near, far = (
                round_text(limit, shown.units) for limit in (rule.nearest_m, rule.farthest_m)
            )
            text += f", {near} to {far}"
        return [Key(text, theme().one)]

    def _grid(self, shown: RowsToPaint) -> QRectF:
        """Where the rows stand."""
        body = shown.body
        return body.adjusted(0, CHIPS_HEIGHT + AXIS, 0, -AXIS)

    def _visible(self, shown: RowsToPaint) -> range:
        """Numbers of the shots that are shown, the chosen one in the middle."""
        count = max(int(self._grid(shown).height() // ROW), 1)
        total = len(shown.wire)
        first = min(max(shown.index - count // 2, 0), max(total - count, 0))
        return range(first, min(first + count, total))

    def _scale(self, shown: RowsToPaint) -> EchoScale:
        grid = self._grid(shown)
        exchanges, _ = _shots(shown)
        numbers = self._visible(shown)
        flights = exchanges.flight_ns[numbers.start : numbers.stop]
        there = flights[flights != ABSENT]
        longest = float(there.max()) / 1000 if there.size else 1000.0
        return EchoScale(
            grid.left() + LABEL, grid.width() - LABEL - VALUE, longest, shown.report.sheet
        )

    def paint(self, painter: QPainter, shown: RowsToPaint) -> None:
        """Chips of the chosen shot, both scales, the rows."""
        grid = self._grid(shown)
        line = shown.area._replace(height=CHIPS_HEIGHT)
        self._chips.paint(painter, shown, list(shown.report.pulses), line)
        scale = self._scale(shown)
        _, judged = _shots(shown)
        speed = float(judged.speed[shown.index])
        self._paint_range(painter, shown, grid, scale, speed)
        self._paint_axes(painter, shown, grid, scale, speed)
        for place, number in enumerate(self._visible(shown)):
            box = QRectF(grid.left(), grid.top() + place * ROW, grid.width(), ROW)
            self._paint_shot(painter, shown, box, number, scale)
        self._paint_median(painter, shown, grid, scale)

    def _paint_range(
        self, painter: QPainter, shown: RowsToPaint, grid: QRectF, scale: EchoScale, speed: float
    ) -> None:
        window = echo_window(shown.report.sheet, speed)
        left, right = scale.x_of(window.min_us), scale.x_of(window.max_us or window.typ_us)
        painter.fillRect(
            QRectF(left, grid.top(), right - left, grid.height()), with_alpha(theme().one, 48)
        )

    def _paint_axes(
        self, painter: QPainter, shown: RowsToPaint, grid: QRectF, scale: EchoScale, speed: float
    ) -> None:
        """Distances above, time below."""
        colours, font = theme(), font_of(shown.widget, 0.8)
        for value, text in scale.distance_ticks(speed, shown.units):
            x = scale.x_of(value)
            painter.setPen(QPen(with_alpha(colours.edge, 200), 1))
            painter.drawLine(QPointF(x, grid.top() - 3), QPointF(x, grid.bottom()))
            box = QRectF(x - 40, grid.top() - AXIS, 80, AXIS - 3)
            draw_text(painter, box, text, font, colours.accent, CENTER)
        for value, text in scale.time_ticks():
            x = scale.x_of(value)
            painter.setPen(QPen(colours.faint, 1))
            painter.drawLine(QPointF(x, grid.bottom()), QPointF(x, grid.bottom() + 4))
            box = QRectF(x - 40, grid.bottom() + 3, 80, AXIS - 3)
            draw_text(painter, box, text, font, colours.faint, CENTER)
        corner = QRectF(grid.left(), grid.top() - AXIS, LABEL - 40, AXIS - 3)
        air_c = float(_shots(shown)[1].air_c[shown.index])
        air = f"at {shown.units.words('temperature', air_c, 1)}"
        draw_text(painter, corner, air, font, colours.accent, LEFT)

    def _paint_shot(
        self, painter: QPainter, shown: RowsToPaint, box: QRectF, number: int, scale: EchoScale
    ) -> None:
        colours, (exchanges, judged) = theme(), _shots(shown)
        own = number == shown.index
        if own:
            lit = ECHO in shown.lit
            painter.fillRect(box, with_alpha(colours.live, 190 if lit else 90))
        verdict = Verdict(int(judged.verdict[number]))
        y = box.center().y()
        draw_mark(painter, verdict, QPointF(box.left() + 8, y), 9)
        name = QRectF(box.left() + 18, box.top(), LABEL - 30, ROW)
        start = seconds(int(exchanges.start_ns[number])).rpartition(".")[0]
        text = f"{number} · {start}"
        draw_text(painter, name, text, font_of(shown.widget, 0.85, bold=own), colours.ink)
        flight = int(exchanges.flight_ns[number])
        value = QRectF(box.right() - VALUE, box.top(), VALUE - 4, ROW)
        if flight == ABSENT:
            line = QRectF(scale.left + 6, box.top(), 200, ROW)
            font = font_of(shown.widget, 0.85)
            draw_text(painter, line, "no echo", font, colours.verdict(verdict), LEFT)
            return
        self._paint_echo(painter, box, flight / 1000, verdict, scale)
        given = bool(judged.given[number])
        distance = float(judged.distance[number])
        colour = colours.ink if given else colours.verdict(verdict)
        shown_text = distance_text(distance, shown.units)
        if not given:
            shown_text = f"({shown_text})"
        draw_text(painter, value, shown_text, font_of(shown.widget, 0.9, bold=own), colour, RIGHT)

    def _paint_echo(
        self, painter: QPainter, box: QRectF, width_us: float, verdict: Verdict, scale: EchoScale
    ) -> None:
        top, bottom = box.top() + 6, box.bottom() - 6
        rise, fall = scale.x_of(0.0), scale.x_of(width_us)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(pulse_pen(verdict))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        points = [
            QPointF(rise - 6, bottom),
            QPointF(rise, bottom),
            QPointF(rise, top),
            QPointF(fall, top),
        ]
        if width_us <= scale.span_us:
            points += [QPointF(fall, bottom), QPointF(min(fall + 8, scale.right), bottom)]
        painter.drawPolyline(QPolygonF(points))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _paint_median(
        self, painter: QPainter, shown: RowsToPaint, grid: QRectF, scale: EchoScale
    ) -> None:
        """A line at the median of the last shots."""
        _, judged = _shots(shown)
        number = shown.index
        shot = int(judged.shot_of[number])
        if shot < 0:
            return
        median, speed = float(judged.shots.median[shot]), float(judged.speed[number])
        x = scale.x_of(2e6 * median / speed)
        painter.setPen(QPen(theme().accent, 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x, grid.top()), QPointF(x, grid.bottom()))

    def columns_at(self, point: QPointF, shown: RowsToPaint) -> Columns:
        """A chip, or the echo of the chosen shot."""
        chip = self._chips.column_at(point)
        if chip is not None:
            return frozenset({chip})
        there = any(pulse.column == ECHO for pulse in shown.report.pulses)
        own = self._number_at(point, shown) == shown.index
        return frozenset({ECHO}) if own and there else NOTHING

    def _number_at(self, point: QPointF, shown: RowsToPaint) -> int | None:
        grid, numbers = self._grid(shown), self._visible(shown)
        if not grid.contains(point):
            return None
        place = int((point.y() - grid.top()) // ROW)
        return numbers[place] if place < len(numbers) else None

    def exchange_at(self, point: QPointF, shown: RowsToPaint) -> int | None:
        """The shot under a point."""
        return self._number_at(point, shown)

    def readout_at(self, point: QPointF, shown: RowsToPaint) -> str:
        """Time and distance under the pointer."""
        grid, scale = self._grid(shown), self._scale(shown)
        if not grid.contains(point) or not scale.left <= point.x() <= scale.right:
            return ""
        t_us = max(scale.t_of(point.x()), 0.0)
        _, judged = _shots(shown)
        number = self._number_at(point, shown)
        at = number if number is not None else shown.index
        distance = float(distance_m(np.array([round(t_us * 1000)]), judged.speed[at : at + 1])[0])
        return f"{us(t_us)} after the rise · {distance_text(distance, shown.units)}"

    def steps_exchanges(self) -> bool:
        """Up and down choose the shots above and below."""
        return True


def _shots(shown: RowsToPaint) -> tuple[EchoExchanges, JudgedShots]:
    """The columns of the wire, which is one of this family."""
    return shown.wire.columns(EchoExchanges, JudgedShots)
