"""Painting one cell of the stack: the low, the rising edge, the high, and the bands."""

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QFont, QPainter, QPen

from pivet.decode.humidity import layout
from pivet.insight.drawn.humidity import BANDS, FrameLayout
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.sheets.model import Sheet
from pivet.ui.drawing.painting import LEFT, RIGHT, draw_text, pieces, pulse_pen, with_alpha
from pivet.ui.drawing.theme import theme
from pivet.ui.many.shapes import colour_of

Kind = tuple[Verdict, bool]
"""How a piece of line is drawn: the verdict of its pulse, and whether it is lit."""


def paint_bands(painter: QPainter, place: FrameLayout, sheet: Sheet) -> None:
    """The allowed windows behind the cells, and the lines between the rows."""
    colours = theme()
    painter.setPen(QPen(with_alpha(colours.edge, 160), 1))
    painter.drawLines([QLineF(row.left, row.bottom, row.right, row.bottom) for row in place.rows])
    painter.setPen(Qt.PenStyle.NoPen)
    for key, kind in BANDS:
        bands = [QRectF(*band) for band in place.bands[key]]
        painter.setBrush(colour_of(kind))
        painter.drawRects(bands)
        if sheet.windows[key].assumed:
            painter.setBrush(QBrush(colours.faint, Qt.BrushStyle.Dense7Pattern))
            painter.drawRects(bands)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def paint_cells(
    painter: QPainter,
    place: FrameLayout,
    report: Report,
    count: int,
    bits: dict[int, Pulse],
    lit: frozenset[int],
    font: QFont,
) -> None:
    """All whole bits: light, line, marks, numbers."""
    lines: dict[Kind, list[QLineF]] = {}
    pairs = [
        (bit, bits[layout.low_column(bit)], bits[layout.high_column(bit)]) for bit in range(count)
    ]
    for bit, low, high in pairs:
        _paint_light(painter, place, bit, low, high, lit)
        for pulse, line in (
            (low, place.low_line(bit, low.width_us)),
            (high, place.high_line(bit, high.width_us)),
        ):
            lines.setdefault((pulse.verdict, pulse.column in lit), []).extend(pieces(line))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for kind in sorted(lines):
        painter.setPen(pulse_pen(*kind))
        painter.drawLines(lines[kind])
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    _paint_spikes(painter, place, report, bits)
    bold = QFont(font)
    bold.setBold(True)
    for bit, low, high in pairs:
        _paint_cut_ends(painter, place, bit, low, high)
        _paint_numbers(painter, place, bit, low, high, lit, font, bold)


def _paint_light(
    painter: QPainter, place: FrameLayout, bit: int, low: Pulse, high: Pulse, lit: frozenset[int]
) -> None:
    if low.column not in lit and high.column not in lit:
        return
    wave, rise = place.waves[bit], place.x_of(bit, 0.0)
    for pulse, left, right in (
        (low, place.x_of(bit, -low.width_us), rise),
        (high, rise, place.x_of(bit, high.width_us)),
    ):
        if pulse.column in lit:
            box = QRectF(left, wave.top - 4, max(right - left, 2), wave.height + 8)
            painter.fillRect(box, with_alpha(theme().live, 190))
            painter.setPen(QPen(theme().accent, 1))
            painter.drawRect(box)


def _paint_spikes(
    painter: QPainter, place: FrameLayout, report: Report, bits: dict[int, Pulse]
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
            wave, x = place.waves[bit], place.x_of(bit, (finding.at_ns - high.start_ns) / 1000)
            painter.setPen(QPen(theme().near, 2))
            painter.drawLine(QPointF(x, wave.top - 6), QPointF(x, wave.middle))


def _paint_cut_ends(
    painter: QPainter, place: FrameLayout, bit: int, low: Pulse, high: Pulse
) -> None:
    """An arrow where a pulse goes on beyond its cell."""
    before, after = place.goes_on(low.width_us, high.width_us)
    if not before and not after:
        return
    cell, wave = place.cells[bit], place.waves[bit]
    painter.setPen(QPen(theme().unsound, 2))
    if before:
        x, y = cell.left + 1, wave.bottom
        painter.drawPolyline([QPointF(x + 5, y - 4), QPointF(x, y), QPointF(x + 5, y + 4)])
    if after:
        x, y = cell.right - 1, wave.top
        painter.drawPolyline([QPointF(x - 5, y - 4), QPointF(x, y), QPointF(x - 5, y + 4)])


def _paint_numbers(
    painter: QPainter,
    place: FrameLayout,
    bit: int,
    low: Pulse,
    high: Pulse,
    lit: frozenset[int],
    font: QFont,
    bold: QFont,
) -> None:
    """Under the cell: the low's width if it matters, the bit, the high's width."""
    colours = theme()
    left, middle, right = place.number_boxes(bit)
    painter.setFont(bold)
    painter.setPen(colours.unsound if high.verdict is Verdict.UNSOUND else colours.ink)
    value = "1" if high.window.key == "one_high" else "0"
    painter.drawText(QRectF(*middle), int(LEFT), value)
    if low.verdict is not Verdict.SOUND or low.column in lit:
        _paint_width(painter, QRectF(*left), low, low.column in lit, bold, LEFT)
    quiet = high.verdict is Verdict.SOUND and high.column not in lit
    font = font if quiet else bold
    _paint_width(painter, QRectF(*right), high, high.column in lit, font, RIGHT)


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
    painter: QPainter, place: FrameLayout, bits: dict[int, Pulse], bit: int, font: QFont
) -> None:
    """A bit that never came, or of which only the low came."""
    wave = place.waves[bit]
    pen = QPen(theme().edge, 1, Qt.PenStyle.DotLine)
    painter.setPen(pen)
    painter.drawLine(QLineF(wave.left, wave.middle, wave.right, wave.middle))
    low = bits.get(layout.low_column(bit))
    if low is not None:
        painter.setPen(QPen(theme().unsound, 2))
        points = place.cut_line(bit, low.width_us)
        painter.drawPolyline([QPointF(x, y) for x, y in points])
        _, box, _ = place.number_boxes(bit)
        line = QRectF(box.left - 1, box.top, 60, box.height)
        draw_text(painter, line, "cut", font, theme().unsound)
