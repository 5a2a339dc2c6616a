"""Painting reset and presence on a scale of their own."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from pivet.decode.onewire import Speaker
from pivet.judge.onewire.detail import Transaction
from pivet.judge.onewire.pulses import PRESENCE, RESET, WAIT
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.judge.wording import us
from pivet.sheets.model import Sheet
from pivet.sheets.onewire import rom_name
from pivet.ui.drawing.painting import LEFT, draw_mark, draw_text, font_of, with_alpha
from pivet.ui.drawing.theme import theme
from pivet.ui.stack.onewire.cells import paint_speaker

SPAN_US, FAST_SPAN_US = 1250.0, 128.0
WAVE_SHARE = 0.6
LEAD_US = 0.03
"""Share of the span that is shown before the reset."""


class Head:
    """Reset and presence with their windows, and what the transaction is about."""

    def __init__(self) -> None:
        self._places: list[tuple[QRectF, int]] = []

    def paint(
        self,
        painter: QPainter,
        box: QRectF,
        report: Report,
        detail: Transaction,
        lit: frozenset[int],
        widget: QWidget,
    ) -> None:
        """Paints the wave at the left, the words at the right."""
        wave = QRectF(box.left(), box.top() + 8, box.width() * WAVE_SHARE, box.height() - 38)
        head = {pulse.column: pulse for pulse in report.pulses if pulse.column < 0}
        total = FAST_SPAN_US if detail.fast else SPAN_US
        scale = wave.width() / total
        zero = wave.left() + LEAD_US * wave.width()
        self._places = []
        self._paint_bands(painter, wave, zero, scale, head, report.sheet, detail.fast)
        self._paint_wave(painter, wave, zero, scale, head, lit)
        self._paint_names(painter, wave, head, widget)
        words = QRectF(wave.right() + 16, box.top() + 4, box.right() - wave.right() - 16, 22)
        _paint_words(painter, words, detail, widget)

    def column_at(self, point: QPointF) -> int | None:
        """The pulse under a point."""
        return next((column for box, column in self._places if box.contains(point)), None)

    def _paint_bands(
        self,
        painter: QPainter,
        wave: QRectF,
        zero: float,
        scale: float,
        head: dict[int, Pulse],
        sheet: Sheet,
        fast: bool,
    ) -> None:
        """Where the reset may end, where presence may begin and end."""
        if RESET not in head:
            return
        key = "fast_" if fast else ""
        colours = theme()
        release = head[RESET].width_us
        begin = release + (head[WAIT].width_us if WAIT in head else 0.0)
        rows = [(sheet.windows[key + "reset"], 0.0, colours.zero)]
        rows.append((sheet.windows[key + "presence_wait"], release, colours.low))
        if PRESENCE in head:
            rows.append((sheet.windows[key + "presence"], begin, colours.one))
        for window, start, colour in rows:
            left = zero + (start + window.min_us) * scale
            right = zero + (start + (window.max_us or window.typ_us)) * scale
            right = min(right, wave.right())
            painter.fillRect(
                QRectF(left, wave.top() - 3, max(right - left, 1.5), wave.height() + 6),
                with_alpha(colour, 170),
            )

    def _paint_wave(
        self,
        painter: QPainter,
        wave: QRectF,
        zero: float,
        scale: float,
        head: dict[int, Pulse],
        lit: frozenset[int],
    ) -> None:
        colours = theme()
        x, top, bottom = zero, wave.top(), wave.bottom()
        points = [QPointF(wave.left(), top), QPointF(x, top)]
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for column in (RESET, WAIT, PRESENCE):
            pulse = head.get(column)
            if pulse is None:
                continue
            end = min(x + pulse.width_us * scale, wave.right())
            if column in lit:
                painter.fillRect(
                    QRectF(x, top - 4, max(end - x, 2), wave.height() + 8),
                    with_alpha(colours.live, 190),
                )
            y = top if pulse.high else bottom
            points += [QPointF(x, y), QPointF(end, y)]
            self._places.append((QRectF(x, top - 4, max(end - x, 2), wave.height() + 8), column))
            x = end
        points += [QPointF(x, top), QPointF(wave.right(), top)]
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colours.trace, 1.6))
        painter.drawPolyline(QPolygonF(points))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _paint_names(
        self, painter: QPainter, wave: QRectF, head: dict[int, Pulse], widget: QWidget
    ) -> None:
        """Under the wave: each part with its verdict and length."""
        colours, left = theme(), wave.left()
        names = {RESET: "reset", WAIT: "wait", PRESENCE: "presence"}
        for column, name in names.items():
            pulse = head.get(column)
            if pulse is None:
                text, verdict = f"no {name}", Verdict.UNSOUND
                if column == WAIT:
                    continue
            else:
                text = f"{name} {'≥ ' if pulse.bound else ''}{us(pulse.width_us)}"
                verdict = pulse.verdict
            draw_mark(painter, verdict, QPointF(left + 6, wave.bottom() + 17), 9)
            colour = colours.ink if verdict is Verdict.SOUND else colours.verdict(verdict)
            box = QRectF(left + 16, wave.bottom() + 8, 130, 18)
            used = draw_text(painter, box, text, font_of(widget, 0.92), colour)
            if pulse is not None:
                self._places.append((QRectF(left, box.top(), used + 16, 18), column))
            left += used + 34


def _paint_words(painter: QPainter, line: QRectF, detail: Transaction, widget: QWidget) -> None:
    """Who is meant, and at which speed."""
    colours = theme()
    who = detail.role or detail.rom or ""
    command = rom_name(detail.command) if detail.command is not None else "no command"
    draw_text(painter, line, who or command, font_of(widget, 1.05, bold=True), colours.ink, LEFT)
    second = detail.rom if detail.role and detail.rom else command if who else ""
    rows = [second, f"{detail.speed} speed"]
    if detail.turns_fast:
        rows[1] = "turns to overdrive speed"
    at = line
    for text in rows:
        if text:
            at = at.translated(0, 18)
            draw_text(painter, at, text, font_of(widget, 0.88), colours.faint, LEFT)
    left = line.left()
    for speaker, text in ((Speaker.HOST, "host speaks"), (Speaker.DEVICE, "device speaks")):
        at = QRectF(left + 14, line.top() + 54, 120, 18)
        paint_speaker(painter, QPointF(left + 4, at.center().y()), speaker)
        left += 30 + draw_text(painter, at, text, font_of(widget, 0.88), colours.faint, LEFT)
