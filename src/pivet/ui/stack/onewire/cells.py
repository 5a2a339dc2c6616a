"""Painting bytes of a 1-Wire transaction: bands, lows, who speaks, numbers."""

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QWidget

from pivet.decode.onewire import Speaker
from pivet.insight.drawn.onewire import Cell, RowPlace, width_text
from pivet.judge.onewire.detail import ByteRow
from pivet.judge.pulses import Pulse
from pivet.judge.verdict import Verdict
from pivet.ui.drawing.painting import (
    LEFT,
    RIGHT,
    draw_signs,
    draw_text,
    font_of,
    pulse_pen,
    with_alpha,
)
from pivet.ui.drawing.theme import theme
from pivet.ui.stack.onewire.geometry import Geometry

MARK = 5.0
VALUE_WIDTH = 34.0
SHOWS_WIDTH_PX = 38.0
"""From this width on a cell shows the length of its low too."""


Bit = tuple[Cell, Pulse, Speaker]
"""A slot with its low, and who speaks in its row."""

SOUND = Verdict.SOUND


def paint_ground(painter: QPainter, geometry: Geometry, widget: QWidget) -> None:
    """What is alike for transactions that are laid out alike: names, speakers, bands."""
    colours, places = theme(), geometry.places
    painter.setPen(QPen(with_alpha(colours.edge, 160), 1))
    boxes = [place.box for place in places]
    painter.drawLines([QLineF(box.left, box.bottom, box.right, box.bottom) for box in boxes])
    _paint_bands(painter, geometry)
    painter.setPen(pulse_pen(SOUND))
    painter.drawLines([line for fall in geometry.falls.values() for line in fall])
    for place in places:
        name = QRectF(*place.label.inside(VALUE_WIDTH, 0, 12, 0))
        draw_text(painter, name, place.row.label, font_of(widget, 0.82), colours.faint)
        host = place.row.speaker is Speaker.HOST
        side, y = place.label.right - 8, place.label.middle - 5
        spot = QPointF(side, y) if host else QPointF(side + 2, y + 10)
        paint_speaker(painter, spot, place.row.speaker)


def paint_rows(
    painter: QPainter,
    geometry: Geometry,
    rows: tuple[ByteRow, ...],
    pulses: dict[int, Pulse],
    lit: frozenset[int],
    widget: QWidget,
) -> None:
    """Values, lines, numbers, meanings; what is drawn alike is drawn at once."""
    alike = Alike()
    for place, row in zip(geometry.places, rows, strict=True):
        _paint_value(painter, place, row, widget)
        for cell in place.cells:
            pulse = pulses.get(2 * cell.slot)
            if pulse is None:
                continue
            lights = pulse.column in lit
            if lights:
                _paint_light(painter, cell)
            alike.add(geometry, (cell, pulse, row.speaker), lights)
        if place.meaning is not None:
            font = font_of(widget, 0.9)
            draw_text(painter, QRectF(*place.meaning), row.meaning, font, theme().ink, LEFT)
    alike.paint(painter, geometry, widget)


class Alike:
    """Lows and bits of many cells, by what they are painted with: verdict, and whether lit."""

    def __init__(self) -> None:
        self._kinds = [(verdict, lights) for verdict in Verdict for lights in (False, True)]
        self._lines: list[list[QLineF]] = [[] for _ in self._kinds]
        self._bits: list[list[Bit]] = [[] for _ in Verdict]

    def add(self, geometry: Geometry, bit: Bit, lights: bool) -> None:
        """One cell's; the idle and the fall at its beginning are ground if sound."""
        cell, pulse, _ = bit
        verdict = pulse.verdict
        lines = self._lines[2 * verdict + lights]
        lines += geometry.low(cell.slot, pulse.width_ns)
        if lights or verdict is not SOUND:
            lines += geometry.falls[cell.slot]
        self._bits[verdict].append(bit)

    def paint(self, painter: QPainter, geometry: Geometry, widget: QWidget) -> None:
        """All of them."""
        for kind, lines in zip(self._kinds, self._lines, strict=True):
            if lines:
                painter.setPen(pulse_pen(*kind))
                painter.drawLines(lines)
        for verdict, bits in zip(Verdict, self._bits, strict=True):
            if bits:
                _paint_bits(painter, geometry, bits, verdict)
                _paint_widths(painter, geometry, bits, verdict, widget)


def _paint_value(painter: QPainter, place: RowPlace, row: ByteRow, widget: QWidget) -> None:
    colour = theme().unsound if row.wrong else theme().ink
    box = QRectF(*place.label._replace(width=VALUE_WIDTH))
    draw_text(painter, box, row.value, font_of(widget, 1.25, bold=True), colour)


def paint_speaker(painter: QPainter, centre: QPointF, speaker: Speaker) -> None:
    """The host is a filled square, a device an open ring."""
    colours = theme()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    half = MARK / 2
    if speaker is Speaker.HOST:
        box = QRectF(centre.x() - half, centre.y() - half, MARK, MARK)
        painter.fillRect(box, colours.accent)
    else:
        painter.setPen(QPen(colours.trace, 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(centre, half + 0.4, half + 0.4)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)


def _paint_bands(painter: QPainter, geometry: Geometry) -> None:
    """Where the low may end, and the point at which the host samples a read."""
    colours, bands = theme(), geometry.bands
    painter.setPen(Qt.PenStyle.NoPen)
    for boxes, colour in ((bands.zeros, colours.zero), (bands.ones, colours.one)):
        painter.setBrush(colour)
        painter.drawRects(boxes)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colours.faint, 1, Qt.PenStyle.DotLine))
    painter.drawLines(bands.samples)


def _paint_light(painter: QPainter, cell: Cell) -> None:
    box = QRectF(*cell.wave.inside(-1, -4, -1, -4))
    painter.fillRect(box, with_alpha(theme().live, 190))
    painter.setPen(QPen(theme().accent, 1))
    painter.drawRect(box)


def _paint_bits(painter: QPainter, geometry: Geometry, bits: list[Bit], verdict: Verdict) -> None:
    """Under each cell, on its speaker's side; all of one verdict."""
    colour = theme().ink if verdict is SOUND else theme().verdict(verdict)
    which = [pulse.window.key.endswith("one") for _, pulse, _ in bits]
    tops = [geometry.digits[cell.slot] for cell, _, _ in bits]
    draw_signs(painter, geometry.signs, which, tops, colour)


def _paint_widths(
    painter: QPainter, geometry: Geometry, bits: list[Bit], verdict: Verdict, widget: QWidget
) -> None:
    """Under each cell the length of its low, if there is room; always of one that is not sound."""
    colour = theme().faint if verdict is SOUND else theme().verdict(verdict)
    font = font_of(widget, 0.78)
    for cell, pulse, speaker in bits:
        if cell.box.width >= SHOWS_WIDTH_PX or verdict is not SOUND:
            side = RIGHT if speaker is Speaker.HOST else LEFT
            draw_text(painter, geometry.numbers[cell.slot], width_text(pulse), font, colour, side)
