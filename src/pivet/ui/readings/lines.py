"""How the lines of sensors are told apart: by colour, by shape, and by a label at their end."""

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QGuiApplication, QPen

from pivet.frozen import FrozenValue
from pivet.readings.series import Sensor
from pivet.ui.drawing.theme import LIGHT, theme

LIGHT_COLOURS = ("#332a63", "#a24d12", "#1f6b62", "#7a3a78", "#4d6b1e", "#8a2a3c", "#2d5f8a")
DARK_COLOURS = ("#b9b2ec", "#f0a468", "#74cdbf", "#d79bd6", "#b4d37c", "#f090a0", "#8fbfe8")

DASHES: tuple[tuple[float, ...], ...] = (
    (),
    (7.0, 3.0),
    (2.0, 3.0),
    (9.0, 3.0, 2.0, 3.0),
    (14.0, 4.0),
    (5.0, 2.0, 1.0, 2.0, 1.0, 2.0),
)
"""Shapes: in pen widths, ink and gap by turns; empty is a whole line."""


class LineStyle(FrozenValue):
    """How a sensor's line looks.

    Attributes:
        number: of the sensor among those that measure.
    """

    number: int

    @property
    def colour(self) -> QColor:
        """Its colour in the present theme."""
        rows = LIGHT_COLOURS if theme() is LIGHT else DARK_COLOURS
        return QColor(rows[self.number % len(rows)])

    def dense_pen(self) -> QPen:
        """For a line of thousands of points: quick to draw."""
        return thin_pen(self.colour, 1.0)

    def pen(self, width: float = 1.4) -> QPen:
        """Colour and shape."""
        pen = thin_pen(self.colour, width)
        dashes = DASHES[self.number % len(DASHES)]
        if dashes:
            pen.setDashPattern(dashes)
            pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        return pen


def thin_pen(colour: QColor, width: float, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    """A pen of the same width at any zoom, and as wide to the eye on a fine screen."""
    screen = QGuiApplication.primaryScreen()
    fine = screen.devicePixelRatio() if screen is not None else 1.0
    pen = QPen(colour, width * fine, style)
    pen.setCosmetic(True)
    return pen


def styles_of(sensors: Sequence[Sensor]) -> dict[tuple[str, str], LineStyle]:
    """A style for each wire or device, in the order in which they come."""
    keys = dict.fromkeys((sensor.wire, sensor.who) for sensor in sensors)
    return {key: LineStyle(number) for number, key in enumerate(sorted(keys))}


def label_of(sensor: Sensor) -> str:
    """A sensor's name, short."""
    return sensor.who or sensor.wire
