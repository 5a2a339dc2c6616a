"""Painting one cell of the stack: the low, the rising edge, the high, and the bands."""

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QFont, QPainter, QPen

from pivet.decode.humidity import layout
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.sheets.model import Sheet
from pivet.ui.drawing.painting import LEFT, RIGHT, draw_text, pulse_pen, with_alpha
from pivet.ui.drawing.theme import theme
from pivet.ui.stack.humidity.geometry import BYTES, TAIL_US, Geometry

LEAD_PX = 3.0
TEXT_HEIGHT = 18.0


Kind = tuple[Verdict, bool]
"""How a piece of line is drawn: the verdict of its pulse, and whether it is lit."""


def paint_bands(painter: QPainter, place: Geometry, sheet: Sheet) -> None:
    """The allowed windows behind the cells, and the lines between the rows."""
    colours, windows = theme(), sheet.windows
    painter.setPen(QPen(with_alpha(colours.edge, 160), 1))
    for byte in range(BYTES):
        row = place.row(byte)
        painter.drawLine(row.bottomLeft(), row.bottomRight())
    painter.setPen(Qt.PenStyle.NoPen)
    for key, colour in (
        ("zero_high", colours.zero),
        ("one_high", colours.one),
        ("bit_low", colours.low),
    ):
        painter.setBrush(colour)
        painter.drawRects(place.bands[key])
        if windows[key].assumed:
            painter.setBrush(QBrush(colours.faint, Qt.BrushStyle.Dense7Pattern))
            painter.drawRects(place.bands[key])
    painter.setBrush(Qt.BrushStyle.NoBrush)


def paint_cells(
    painter: QPainter,
    place: Geometry,
    report: Report,
    count: int,
    bits: dict[int, Pulse],
    lit: frozenset[int],
    font: QFont,
) -> None:
    """All whole bits: light, line, marks, numbers."""
    pieces: dict[Kind, list[QLineF]] = {}
    pairs = [
        (bit, bits[layout.low_column(bit)], bits[layout.high_column(bit)]) for bit in range(count)
    ]
    for bit, low, high in pairs:
        _paint_light(painter, place, bit, low, high, lit)
        _add_pieces(pieces, place, bit, low, high, lit)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for kind in sorted(pieces):
        painter.setPen(pulse_pen(*kind))
        painter.drawLines(pieces[kind])
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    _paint_spikes(painter, place, report, bits)
    bold = QFont(font)
    bold.setBold(True)
    for bit, low, high in pairs:
        _paint_cut_ends(painter, place, bit, low, high)
        _paint_numbers(painter, place, bit, low, high, lit, font, bold)


def _paint_light(
    painter: QPainter, place: Geometry, bit: int, low: Pulse, high: Pulse, lit: frozenset[int]
) -> None:
    if low.column not in lit and high.column not in lit:
        return
    wave, rise = place.wave(bit), place.x_of(bit, 0.0)
    for pulse, left, right in (
        (low, place.x_of(bit, -low.width_us), rise),
        (high, rise, place.x_of(bit, high.width_us)),
    ):
        if pulse.column in lit:
            box = QRectF(left, wave.top() - 4, max(right - left, 2), wave.height() + 8)
            painter.fillRect(box, with_alpha(theme().live, 190))
            painter.setPen(QPen(theme().accent, 1))
            painter.drawRect(box)


def _add_pieces(
    pieces: dict[Kind, list[QLineF]],
    place: Geometry,
    bit: int,
    low: Pulse,
    high: Pulse,
    lit: frozenset[int],
) -> None:
    """The line through one cell: a bit of idle, the fall, the low, the rise, the high, the fall."""
    cell, wave = place.cell(bit), place.wave(bit)
    top, bottom = wave.top(), wave.bottom()
    fall, rise = place.x_of(bit, -low.width_us), place.x_of(bit, 0.0)
    end = place.x_of(bit, high.width_us)
    tail = min(end + TAIL_US * place.px_per_us, cell.right())
    start = max(fall - LEAD_PX, cell.left() - LEAD_PX)
    pieces.setdefault((low.verdict, low.column in lit), []).extend(
        (
            QLineF(start, top, fall, top),
            QLineF(fall, top, fall, bottom),
            QLineF(fall, bottom, rise, bottom),
        )
    )
    pieces.setdefault((high.verdict, high.column in lit), []).extend(
        (
            QLineF(rise, bottom, rise, top),
            QLineF(rise, top, end, top),
            QLineF(end, top, end, bottom),
            QLineF(end, bottom, tail, bottom),
        )
    )


def _paint_spikes(
    painter: QPainter, place: Geometry, report: Report, bits: dict[int, Pulse]
) -> None:
    """A notch where a spike was taken out."""
    for finding in report.findings:
        if finding.code != "spike-removed":
            continue
        for column in finding.columns:
            bit = bits[column].bit if column in bits else None
            high = bits.get(layout.high_column(bit)) if bit is not None else None
            if bit is None or high is None:
                continue
            wave, x = place.wave(bit), place.x_of(bit, (finding.at_ns - high.start_ns) / 1000)
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


def _paint_numbers(
    painter: QPainter,
    place: Geometry,
    bit: int,
    low: Pulse,
    high: Pulse,
    lit: frozenset[int],
    font: QFont,
    bold: QFont,
) -> None:
    """Under the cell: the low's width if it matters, the bit, the high's width."""
    colours, cell = theme(), place.cell(bit)
    rise, top = place.x_of(bit, 0.0), cell.bottom() - TEXT_HEIGHT - 2
    painter.setFont(bold)
    painter.setPen(colours.unsound if high.verdict is Verdict.UNSOUND else colours.ink)
    value = "1" if high.window.key == "one_high" else "0"
    painter.drawText(QRectF(rise + 1, top, 14, TEXT_HEIGHT), int(LEFT), value)
    if low.verdict is not Verdict.SOUND or low.column in lit:
        box = QRectF(cell.left(), top, rise - cell.left() - 1, TEXT_HEIGHT)
        _paint_width(painter, box, low, low.column in lit, bold, LEFT)
    quiet = high.verdict is Verdict.SOUND and high.column not in lit
    box = QRectF(rise + 14, top, cell.right() - rise - 14, TEXT_HEIGHT)
    _paint_width(painter, box, high, high.column in lit, font if quiet else bold, RIGHT)


def _paint_width(
    painter: QPainter, box: QRectF, pulse: Pulse, lit: bool, font: QFont, align: Qt.AlignmentFlag
) -> None:
    colours = theme()
    if pulse.verdict is Verdict.SOUND:
        painter.setPen(colours.ink if lit else colours.faint)
    else:
        painter.setPen(colours.verdict(pulse.verdict))
    painter.setFont(font)
    painter.drawText(box, int(align | Qt.TextFlag.TextDontClip), f"{pulse.width_us:.0f}")


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
