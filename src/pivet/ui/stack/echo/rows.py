"""Echo measurements in the stack: the chosen shot among its neighbours."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from pivet.decode.echo import EchoExchanges
from pivet.decode.interface import ABSENT
from pivet.insight.drawn.echo import (
    CHIPS_HEIGHT,
    ShotsLayout,
    distance_text,
    distance_words,
    median_us,
    round_text,
    shot_words,
)
from pivet.judge.echo.judged import JudgedShots, echo_window
from pivet.judge.echo.pulses import ECHO
from pivet.judge.verdict import Verdict
from pivet.judge.wording import us
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

    def _layout(self, shown: RowsToPaint) -> ShotsLayout:
        exchanges, _ = _shots(shown)
        return ShotsLayout(shown.area, exchanges.flight_ns, shown.index, shown.report.sheet)

    def paint(self, painter: QPainter, shown: RowsToPaint) -> None:
        """Chips of the chosen shot, both scales, the rows."""
        place = self._layout(shown)
        line = shown.area._replace(height=CHIPS_HEIGHT)
        self._chips.paint(painter, shown, list(shown.report.pulses), line)
        _, judged = _shots(shown)
        speed = float(judged.speed[shown.index])
        window = echo_window(shown.report.sheet, speed)
        inside = place.between(window.min_us, window.max_us or window.typ_us)
        painter.fillRect(QRectF(*inside), with_alpha(theme().one, 48))
        self._paint_axes(painter, shown, place, speed)
        for number in place.numbers:
            self._paint_shot(painter, shown, place, number)
        middle = median_us(judged, shown.index)
        if middle is not None:
            x = place.scale.x_of(middle)
            painter.setPen(QPen(theme().accent, 1.4, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x, place.grid.top), QPointF(x, place.grid.bottom))

    def _paint_axes(
        self, painter: QPainter, shown: RowsToPaint, place: ShotsLayout, speed: float
    ) -> None:
        """Distances above, time below."""
        colours, font, grid = theme(), font_of(shown.widget, 0.8), place.grid
        for value, text in place.scale.distance_ticks(speed, shown.units):
            x = place.scale.x_of(value)
            painter.setPen(QPen(with_alpha(colours.edge, 200), 1))
            painter.drawLine(QPointF(x, grid.top - 3), QPointF(x, grid.bottom))
            draw_text(painter, QRectF(*place.above(x)), text, font, colours.accent, CENTER)
        for value, text in place.scale.time_ticks():
            x = place.scale.x_of(value)
            painter.setPen(QPen(colours.faint, 1))
            painter.drawLine(QPointF(x, grid.bottom), QPointF(x, grid.bottom + 4))
            draw_text(painter, QRectF(*place.below(x)), text, font, colours.faint, CENTER)
        corner = place.above(grid.left + 40)
        air_c = float(_shots(shown)[1].air_c[shown.index])
        air = f"at {shown.units.words('temperature', air_c, 1)}"
        draw_text(painter, QRectF(*corner), air, font, colours.accent, LEFT)

    def _paint_shot(
        self, painter: QPainter, shown: RowsToPaint, place: ShotsLayout, number: int
    ) -> None:
        colours, (exchanges, judged) = theme(), _shots(shown)
        own, box = number == shown.index, place.row(number)
        if own:
            lit = ECHO in shown.lit
            painter.fillRect(QRectF(*box), with_alpha(colours.live, 190 if lit else 90))
        verdict = Verdict(int(judged.verdict[number]))
        draw_mark(painter, verdict, QPointF(box.left + 8, box.middle), 9)
        name, font = QRectF(*place.name(number)), font_of(shown.widget, 0.85, bold=own)
        draw_text(painter, name, shot_words(exchanges, number), font, colours.ink)
        flight = int(exchanges.flight_ns[number])
        if flight == ABSENT:
            line = QRectF(place.scale.left + 6, box.top, 200, box.height)
            font = font_of(shown.widget, 0.85)
            draw_text(painter, line, "no echo", font, colours.verdict(verdict), LEFT)
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(pulse_pen(verdict))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline([QPointF(x, y) for x, y in place.line(number, flight / 1000)])
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        colour = colours.ink if judged.given[number] else colours.verdict(verdict)
        text, font = distance_words(judged, number, shown.units), font_of(shown.widget, 0.9, own)
        draw_text(painter, QRectF(*place.value(number)), text, font, colour, RIGHT)

    def columns_at(self, point: QPointF, shown: RowsToPaint) -> Columns:
        """A chip, or the echo of the chosen shot."""
        chip = self._chips.column_at(point)
        if chip is not None:
            return frozenset({chip})
        there = any(pulse.column == ECHO for pulse in shown.report.pulses)
        own = self.exchange_at(point, shown) == shown.index
        return frozenset({ECHO}) if own and there else NOTHING

    def exchange_at(self, point: QPointF, shown: RowsToPaint) -> int | None:
        """The shot under a point."""
        return self._layout(shown).number_at(point.x(), point.y())

    def readout_at(self, point: QPointF, shown: RowsToPaint) -> str:
        """Time and distance under the pointer."""
        place, (x, y) = self._layout(shown), point.toTuple()
        scale = place.scale
        if not place.grid.holds(x, y) or not scale.left <= x <= scale.right:
            return ""
        t_us = max(scale.t_of(x), 0.0)
        _, judged = _shots(shown)
        number = place.number_at(x, y)
        at = number if number is not None else shown.index
        distance = float(distance_m(np.array([round(t_us * 1000)]), judged.speed[at : at + 1])[0])
        return f"{us(t_us)} after the rise · {distance_text(distance, shown.units)}"

    def steps_exchanges(self) -> bool:
        """Up and down choose the shots above and below."""
        return True


def _shots(shown: RowsToPaint) -> tuple[EchoExchanges, JudgedShots]:
    """The columns of the wire, which is one of this family."""
    return shown.wire.columns(EchoExchanges, JudgedShots)
