"""A scratchpad byte by byte: the temperature's bits, then what each byte says."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from pivet.judge.onewire.detail import Transaction
from pivet.readings.thermometer import Scratchpad, byte_words, text_of
from pivet.readings.units import UnitChoice, kept_unit
from pivet.ui.drawing.painting import draw_signs, draw_text, font_of, signs_of, with_alpha
from pivet.ui.drawing.theme import theme
from pivet.ui.session.session import Session

BIT = 15.0
BITS_HEIGHT = 62.0
LINE = 17.0
SIGNS, FRACTIONS = 5, 4
BITS = 16


class ScratchpadView(QWidget):
    """Explains the scratchpad of the chosen exchange; hidden without one."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Scratchpad")

    @property
    def pad(self) -> Scratchpad | None:
        """The scratchpad that is shown; none where nobody said anything."""
        report = self._session.report
        detail = report.detail if report is not None else None
        pad = detail.pad if isinstance(detail, Transaction) else None
        said = pad is not None and bool(set(pad.data) - {0x00, 0xFF})
        return pad if said else None

    def renew(self) -> None:
        """Shows the chosen exchange."""
        pad = self.pad
        self.setVisible(pad is not None)
        self.setAccessibleDescription("; ".join(self._words(pad)) if pad is not None else "")
        self.updateGeometry()
        self.update()

    def _words(self, pad: Scratchpad) -> list[str]:
        """What is painted, to be read aloud."""
        sums = [] if pad.raw is None else [_sum(pad, pad.raw, self._session.shown.units)]
        return [*sums, *(words for _, words in byte_words(pad))]

    def sizeHint(self) -> QSize:
        """As high as there are bytes."""
        pad = self.pad
        rows = len(pad.data) if pad is not None else 0
        bits = BITS_HEIGHT if pad is not None and pad.raw is not None else 0
        return QSize(250, round(bits + rows * LINE + 4))

    def minimumSizeHint(self) -> QSize:
        """Never less."""
        return self.sizeHint()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Bits first, then the bytes."""
        pad = self.pad
        if pad is None:
            return
        painter = QPainter(self)
        top = 0.0
        if pad.raw is not None:
            self._paint_bits(painter, pad, pad.raw)
            top = BITS_HEIGHT
        colours = theme()
        for (name, meaning), byte in zip(byte_words(pad), pad.data, strict=False):
            line = QRectF(0, top, self.width(), LINE)
            draw_text(painter, line, f"{byte:02x}", font_of(self, 0.9, bold=True), colours.ink)
            at = line.adjusted(26, 0, 0, 0)
            draw_text(painter, at, name, font_of(self, 0.85), colours.faint)
            draw_text(
                painter, line.adjusted(92, 0, 0, 0), meaning, font_of(self, 0.85), colours.ink
            )
            top += LINE

    def _paint_bits(self, painter: QPainter, pad: Scratchpad, raw: int) -> None:
        """Sixteen bits: sign, whole degrees, fraction; those without meaning greyed."""
        colours = theme()
        fractions = 1 if pad.half_degrees else FRACTIONS
        signs = BITS - fractions - 7
        boxes = []
        for place in range(BITS):
            gap = 3.0 * (place >= signs) + 3.0 * (place >= BITS - fractions)
            boxes.append(QRectF(1 + place * BIT + gap, 18, BIT - 1, 18))
        defined = BITS - pad.undefined
        for box in boxes[defined:]:
            painter.fillRect(box, Qt.BrushStyle.Dense6Pattern)
        painter.setPen(QPen(with_alpha(colours.edge, 255), 1))
        painter.drawRects(boxes)
        for part, bold, ink in (
            (slice(0, signs), True, colours.faint),
            (slice(signs, defined), True, colours.ink),
            (slice(defined, BITS), False, colours.faint),
        ):
            digits = signs_of("01", font_of(self, 0.85, bold=bold))
            which = [raw >> BITS - 1 - place & 1 for place in range(BITS)[part]]
            draw_signs(painter, digits, which, [digits.amid(box) for box in boxes[part]], ink)
        small = font_of(self, 0.78)
        for first, last, text in (
            (0, signs, "sign"),
            (signs, BITS - fractions, "whole °C"),
            (BITS - fractions, BITS, "½" if pad.half_degrees else "fraction"),
        ):
            gap = 3.0 * (first >= signs) + 3.0 * (first >= BITS - fractions)
            box = QRectF(1 + first * BIT + gap, 2, max((last - first) * BIT, 46), 14)
            draw_text(painter, box, text, small, colours.faint)
        draw_text(
            painter,
            QRectF(0, 40, self.width(), 18),
            _sum(pad, raw, self._session.shown.units),
            font_of(self, 0.85),
            colours.ink,
        )


def _sum(pad: Scratchpad, raw: int, units: UnitChoice) -> str:
    """How the temperature follows from the raw number."""
    value = "" if pad.value is None else f" = {text_of(pad.value)} °C{_as_chosen(pad.value, units)}"
    if pad.half_degrees:
        if len(pad.data) < 8:
            return f"raw {raw}, half degrees"
        remain, per = pad.data[6], pad.data[7]
        return f"{raw >> 1} − 0.25 + ({per} − {remain}) / {per}{value}"
    if pad.undefined:
        return (
            f"{raw >> pad.undefined << pad.undefined} / 16{value}, {pad.undefined} bits undefined"
        )
    return f"{raw} / 16{value}"


def _as_chosen(value: float, units: UnitChoice) -> str:
    """The temperature in the unit that was chosen; the sensor itself counts in °C."""
    if units.of("temperature").symbol == kept_unit("temperature"):
        return ""
    return f" = {units.words('temperature', value, 2)}"
