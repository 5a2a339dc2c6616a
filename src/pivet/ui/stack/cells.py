"""Painting one cell of the stack: the low, the rising edge, the high, and the bands."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen

from pivet.decode.humidity import layout
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.sheets.model import Sheet, Window
from pivet.ui.painting import LEFT, RIGHT, draw_text, with_alpha
from pivet.ui.stack.geometry import BITS_IN_ROW, TAIL_US, Geometry
from pivet.ui.theme import theme

LEAD_PX = 3.0
TEXT_HEIGHT = 18.0


def paint_bands(painter: QPainter, place: Geometry, sheet: Sheet, byte: int) -> None:
    """The allowed windows behind the cells of a row."""
    colours, windows = theme(), sheet.windows
    painter.setPen(QPen(with_alpha(colours.edge, 160), 1))
    row = place.row(byte)
    painter.drawLine(row.bottomLeft(), row.bottomRight())
    for bit in range(byte * BITS_IN_ROW, (byte + 1) * BITS_IN_ROW):
        wave = place.wave(bit)
        _band(painter, place, bit, wave, windows["zero_high"], colours.zero, 1)
        _band(painter, place, bit, wave, windows["one_high"], colours.one, 1)
        _band(painter, place, bit, wave, windows["bit_low"], colours.low, -1)


def _band(
    painter: QPainter,
    place: Geometry,
    bit: int,
    wave: QRectF,
    window: Window,
    colour: QColor,
    side: int,
) -> None:
    ends = sorted(
        place.x_of(bit, side * limit)
        for limit in (window.min_us, window.max_us if window.max_us is not None else window.typ_us)
    )
    box = QRectF(ends[0], wave.top() - 4, max(ends[1] - ends[0], 1.5), wave.height() + 8)
    painter.fillRect(box, colour)
    if window.assumed:
        painter.fillRect(box, _hatch())


def _hatch() -> Qt.BrushStyle:
    return Qt.BrushStyle.Dense7Pattern


def paint_cell(
    painter: QPainter,
    place: Geometry,
    report: Report,
    bits: dict[int, Pulse],
    bit: int,
    lit: frozenset[int],
    font: QFont,
) -> None:
    """One whole bit."""
    low, high = bits[layout.low_column(bit)], bits[layout.high_column(bit)]
    wave, rise = place.wave(bit), place.x_of(bit, 0.0)
    fall, end = place.x_of(bit, -low.width_us), place.x_of(bit, high.width_us)
    top, bottom = wave.top(), wave.bottom()
    for pulse, left, right in ((low, fall, rise), (high, rise, end)):
        if pulse.column in lit:
            box = QRectF(left, top - 4, max(right - left, 2), bottom - top + 8)
            painter.fillRect(box, with_alpha(theme().live, 190))
            painter.setPen(QPen(theme().accent, 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    start = max(fall - LEAD_PX, place.cell(bit).left() - LEAD_PX)
    painter.setPen(_pen(low, lit))
    painter.drawPolyline(
        [QPointF(start, top), QPointF(fall, top), QPointF(fall, bottom), QPointF(rise, bottom)]
    )
    tail = min(end + TAIL_US * place.px_per_us, place.cell(bit).right())
    painter.setPen(_pen(high, lit))
    painter.drawPolyline(
        [
            QPointF(rise, bottom),
            QPointF(rise, top),
            QPointF(end, top),
            QPointF(end, bottom),
            QPointF(tail, bottom),
        ]
    )
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    _paint_spikes(painter, place, report, bit, low, high)
    _paint_cut_ends(painter, place, bit, low, high)
    _paint_widths(painter, place, bit, low, high, lit, font)


def _pen(pulse: Pulse, lit: frozenset[int]) -> QPen:
    colours = theme()
    sound = pulse.verdict is Verdict.SOUND
    pen = QPen(colours.trace if sound else colours.verdict(pulse.verdict))
    pen.setWidthF(2.4 if pulse.column in lit or pulse.verdict is Verdict.UNSOUND else 1.6)
    pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
    if pulse.verdict is Verdict.UNKNOWN:
        pen.setStyle(Qt.PenStyle.DashLine)
    return pen


def _paint_spikes(
    painter: QPainter, place: Geometry, report: Report, bit: int, low: Pulse, high: Pulse
) -> None:
    """A notch where a spike was taken out."""
    wave = place.wave(bit)
    for finding in report.findings:
        if finding.code == "spike-removed" and {low.column, high.column} & set(finding.columns):
            t_us = (finding.at_ns - high.start_ns) / 1000
            x = place.x_of(bit, t_us)
            painter.setPen(QPen(theme().near, 2))
            painter.drawLine(QPointF(x, wave.top() - 6), QPointF(x, wave.center().y()))


def _paint_cut_ends(painter: QPainter, place: Geometry, bit: int, low: Pulse, high: Pulse) -> None:
    """An arrow where a pulse goes on beyond its cell."""
    wave = place.wave(bit)
    painter.setPen(QPen(theme().unsound, 2))
    if low.width_us > place.before_us:
        x, y = place.cell(bit).left() + 1, wave.bottom()
        painter.drawPolyline([QPointF(x + 5, y - 4), QPointF(x, y), QPointF(x + 5, y + 4)])
    if high.width_us > place.after_us + TAIL_US:
        x, y = place.cell(bit).right() - 1, wave.top()
        painter.drawPolyline([QPointF(x - 5, y - 4), QPointF(x, y), QPointF(x - 5, y + 4)])


def _paint_widths(
    painter: QPainter,
    place: Geometry,
    bit: int,
    low: Pulse,
    high: Pulse,
    lit: frozenset[int],
    font: QFont,
) -> None:
    """Under the cell: the low's width if it matters, the bit, the high's width."""
    colours, cell = theme(), place.cell(bit)
    rise = place.x_of(bit, 0.0)
    line = QRectF(cell.left(), cell.bottom() - TEXT_HEIGHT - 2, cell.width(), TEXT_HEIGHT)
    bold = QFont(font)
    bold.setBold(True)
    strays = high.verdict is Verdict.UNSOUND
    value = "1" if high.window.key == "one_high" else "0"
    draw_text(
        painter,
        QRectF(rise + 1, line.top(), 14, TEXT_HEIGHT),
        value,
        bold,
        colours.unsound if strays else colours.ink,
    )
    for pulse, box, align in (
        (low, QRectF(line.left(), line.top(), rise - line.left() - 1, TEXT_HEIGHT), LEFT),
        (high, QRectF(rise + 14, line.top(), line.right() - rise - 14, TEXT_HEIGHT), RIGHT),
    ):
        quiet = pulse.verdict is Verdict.SOUND and pulse.column not in lit
        if pulse is low and quiet:
            continue
        colour = (
            colours.faint if pulse.verdict is Verdict.SOUND else (colours.verdict(pulse.verdict))
        )
        if pulse.column in lit and pulse.verdict is Verdict.SOUND:
            colour = colours.ink
        draw_text(painter, box, f"{pulse.width_us:.0f}", font if quiet else bold, colour, align)


def paint_missing(
    painter: QPainter, place: Geometry, bits: dict[int, Pulse], bit: int, font: QFont
) -> None:
    """A bit that never came, or of which only the low came."""
    wave = place.wave(bit)
    pen = QPen(theme().edge, 1, Qt.PenStyle.DotLine)
    painter.setPen(pen)
    painter.drawLine(
        QPointF(wave.left(), wave.center().y()), QPointF(wave.right(), wave.center().y())
    )
    low = bits.get(layout.low_column(bit))
    if low is not None:
        rise, fall = place.x_of(bit, 0.0), place.x_of(bit, -low.width_us)
        painter.setPen(QPen(theme().unsound, 2))
        painter.drawPolyline(
            [
                QPointF(fall - LEAD_PX, wave.top()),
                QPointF(fall, wave.top()),
                QPointF(fall, wave.bottom()),
                QPointF(rise, wave.bottom()),
                QPointF(rise, wave.top()),
                QPointF(wave.right(), wave.top()),
            ]
        )
        line = QRectF(rise, place.cell(bit).bottom() - TEXT_HEIGHT - 2, 60, TEXT_HEIGHT)
        draw_text(painter, line, "cut", font, theme().unsound)
