"""One plot of the Trend view: the sensors of one quantity, with limits, marks and fits."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
import pyqtgraph as pg
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QGraphicsItem

from pivet.frozen import FrozenObject
from pivet.person.annotations import Mark
from pivet.readings.limits import Limit
from pivet.readings.series import GIVEN, Sensor, Series
from pivet.readings.thinning import Thinner
from pivet.readings.units import AS_KEPT, QUANTITIES, Dimension, UnitChoice
from pivet.ui.drawing.theme import theme
from pivet.ui.readings.lines import LineStyle, label_of, thin_pen
from pivet.ui.trend.labels import EndLabels, TopLabels
from pivet.ui.trend.line import KnownLine
from pivet.ui.trend.signs import Signs, SignsItem

NS = 1_000_000_000
LEFT_PX, RIGHT_PX = 58, 118
LEAST_PLOT_PX = 92
DOTS = 160
"""Fewer readings than this in sight are shown as points too."""

LOOSE = 1.25
"""A scale may be so many times as long as it must."""

DOT_PX, SIGN_PX = 4.0, 8.0
DENSE, SIGNS = 700, 7
"""With more points a line is drawn thin and whole, with this many shapes on it."""

LEAST_ROOM = {
    Dimension.TEMPERATURE: 0.2,
    Dimension.HUMIDITY: 0.5,
    Dimension.DENSITY: 0.1,
    Dimension.LENGTH: 0.005,
    Dimension.VOLUME: 1.0,
    Dimension.SHARE: 1.0,
}
"""A scale reaches so far beyond the values, in the kept unit: one step is no cliff."""

LOOKED_FOR = 400
"""Rows to either side among which one with a value is looked for."""

Fit = tuple[Sensor, np.ndarray, np.ndarray]
"""A fitted curve: whose, its times (ns) and values."""


class PlottedSeries(FrozenObject):
    """A series in the plots."""

    series: Series
    style: LineStyle


@dataclass(slots=True, eq=False)
class Curve:
    """A series and what is drawn of it; ``end`` is its last value in sight."""

    shown: PlottedSeries
    line: KnownLine
    thinner: Thinner
    end: float = field(default=float("nan"))


def dress(item: pg.PlotItem) -> None:
    """Plots share their left and right borders, and move along time only."""
    item.hideButtons()
    box = item.getViewBox()
    box.setMouseEnabled(x=True, y=False)
    box.disableAutoRange()
    box.setDefaultPadding(0.0)
    item.layout.setColumnFixedWidth(2, RIGHT_PX)
    item.getAxis("left").setWidth(LEFT_PX)
    for name in ("left", "right", "top", "bottom"):
        item.getAxis(name).enableAutoSIPrefix(False)
    # Figures are laid out only when the scale changes, not while one goes along it.
    item.getAxis("left").setCacheMode(QGraphicsItem.CacheMode.DeviceCoordinateCache)


class QuantityPlot:
    """The plot of one quantity.

    Args:
        item: where it is drawn.
        quantity: the quantity that it shows.

    Attributes:
        base_ns: what 0 on the time axis means.
        units: the units in which values are shown.
    """

    def __init__(self, item: pg.PlotItem, quantity: str) -> None:
        self.item, self.quantity = item, quantity
        self.base_ns, self.units = 0, AS_KEPT
        self.curves: list[Curve] = []
        self._labels, self._names = EndLabels(item, RIGHT_PX), TopLabels(item)
        self._signs = SignsItem(item.getViewBox())
        self._extra: list[pg.GraphicsObject] = []
        self._pointer = pg.InfiniteLine(angle=90, movable=False)
        self._chosen = pg.InfiniteLine(angle=90, movable=False)
        dress(item)
        item.hideAxis("bottom")
        item.setMinimumHeight(LEAST_PLOT_PX)
        for line in (self._pointer, self._chosen):
            item.addItem(line, ignoreBounds=True)
            line.hide()

    def _x(self, at_ns: int) -> float:
        return (at_ns - self.base_ns) / NS

    def show(self, rows: Sequence[PlottedSeries], base_ns: int, units: UnitChoice) -> None:
        """Shows these series; lines that are there are drawn again."""
        self.base_ns, self.units = base_ns, units
        for curve in self.curves[len(rows) :]:
            self.item.removeItem(curve.line)
        lines = [curve.line for curve in self.curves[: len(rows)]]
        for plotted in rows[len(lines) :]:
            lines.append(KnownLine(plotted.style.pen()))
            self.item.addItem(lines[-1], ignoreBounds=True)
        self.curves = [
            Curve(plotted, line, Thinner(plotted.series.times_ns, plotted.series.values))
            for plotted, line in zip(rows, lines, strict=True)
        ]

    def show_extras(
        self, marks: Sequence[Mark], limits: dict[Sensor, Limit], fits: Sequence[Fit]
    ) -> None:
        """Shows marks, the limits of its sensors, and fitted curves."""
        colours = theme()
        for item in self._extra:
            self.item.removeItem(item)
        self._extra = []
        for mark in marks:
            pen = thin_pen(colours.glow, 1.2, Qt.PenStyle.DashLine)
            self._add(pg.InfiniteLine(self._x(mark.at_ns), angle=90, pen=pen))
        for curve in self.curves:
            self._add_limits(curve, limits.get(curve.shown.series.sensor))
        for sensor, times_ns, values in fits:
            if sensor.quantity == self.quantity:
                x = (times_ns - self.base_ns) / NS
                y = self.units.shown(sensor.quantity, values)
                pen = thin_pen(colours.accent, 2.6)
                self._add(pg.PlotCurveItem(x, y, pen=pen, antialias=True))

    def _add_limits(self, curve: Curve, limit: Limit | None) -> None:
        if limit is None:
            return
        sensor, colour = curve.shown.series.sensor, curve.shown.style.colour
        for side, value in limit.sides:
            shown = self.units.shown(sensor.quantity, value)
            line = pg.InfiniteLine(shown, angle=0, pen=thin_pen(colour, 1.0, Qt.PenStyle.DotLine))
            options = {"position": 0.99, "color": colour, "anchors": [(1, 1), (1, 1)]}
            text = f"{label_of(sensor)}: {side} {shown:.4g}"
            line.label = pg.InfLineLabel(line, text, **options)
            self._add(line)

    def _add(self, item: pg.GraphicsObject) -> None:
        self.item.addItem(item, ignoreBounds=True)
        self._extra.append(item)

    def point(self, at_ns: int | None) -> None:
        """Shows where the pointer is."""
        self._pointer.setVisible(at_ns is not None)
        if at_ns is not None:
            self._pointer.setPen(thin_pen(theme().faint, 1, Qt.PenStyle.DotLine))
            self._pointer.setValue(self._x(at_ns))

    def choose(self, at_ns: int | None) -> None:
        """Shows where the chosen exchange stands."""
        self._chosen.setVisible(at_ns is not None)
        if at_ns is not None:
            self._chosen.setPen(thin_pen(theme().accent, 1.4))
            self._chosen.setValue(self._x(at_ns))

    def draw(self, from_ns: int, to_ns: int, columns: int) -> None:
        """Draws what is in sight, on a scale that it fits."""
        low, high = np.inf, -np.inf
        signs: list[Signs] = []
        for curve in self.curves:
            bounds = self._draw(curve, from_ns, to_ns, columns, signs)
            low, high = min(low, bounds[0]), max(high, bounds[1])
        if low <= high:
            room = self.units.shown_difference(self.quantity, LEAST_ROOM[QUANTITIES[self.quantity]])
            self._fit_scale(low, high, abs(room))
        self._signs.show_signs(signs)
        self._labels.show(
            [(label_of(c.shown.series.sensor), c.shown.style.colour, c.end) for c in self.curves]
        )

    def _fit_scale(self, low: float, high: float, room: float) -> None:
        """A scale that values fit stays as it is, so that going along does not make it tremble."""
        more = max(0.06 * (high - low), room)
        seen_low, seen_high = self.item.getViewBox().viewRange()[1]
        fits = seen_low <= low and high <= seen_high
        if not fits or seen_high - seen_low > LOOSE * (high - low + 2 * more):
            self.item.setYRange(low - more, high + more, padding=0)

    def _draw(
        self, curve: Curve, from_ns: int, to_ns: int, columns: int, signs: list[Signs]
    ) -> tuple[float, float]:
        series = curve.shown.series
        found = curve.thinner.part(from_ns, to_ns, columns)
        x = (found.times_ns - self.base_ns) / NS
        y = self.units.shown(series.quantity, found.values)
        curve.line.show_values(x, y)
        inside = np.isfinite(y) & (found.times_ns >= from_ns) & (found.times_ns <= to_ns)
        rows = np.flatnonzero(inside)
        self._put_signs(curve, x, y, rows, signs)
        if not rows.size:
            curve.end = float("nan")
            return np.inf, -np.inf
        seen = y[rows]
        curve.end = float(seen[-1])
        return float(seen.min()), float(seen.max())

    def _put_signs(
        self,
        curve: Curve,
        x: npt.NDArray[np.float64],
        y: npt.NDArray[np.float64],
        rows: npt.NDArray[np.int64],
        signs: list[Signs],
    ) -> None:
        """Few readings are points, and those between gaps, of which no line is drawn.

        On a dense line, whose dashes nobody sees, stand shapes.
        """
        style, dense = curve.shown.style, rows.size > DENSE
        curve.line.dress(style.dense_pen() if dense else style.pen())
        if rows.size <= DOTS:
            signs.append(Signs(x[rows], y[rows], style.colour, 0, DOT_PX))
        elif dense:
            step = rows.size // SIGNS
            some = rows[(step // 2 + style.number * step // SIGNS) % step :: step]
            signs.append(Signs(x[some], y[some], style.colour, style.number, SIGN_PX))
        if rows.size > DOTS:
            lonely = rows[_alone(y)[rows]]
            if lonely.size:
                signs.append(Signs(x[lonely], y[lonely], style.colour, 0, DOT_PX))

    def name_marks(self, marks: Sequence[Mark]) -> None:
        """Writes the names of marks at the top."""
        self._names.show([(mark.text, self._x(mark.at_ns)) for mark in marks], theme().glow)

    def renew(self) -> None:
        """Colours or units are others."""
        unit = self.units.of(self.quantity).symbol
        self.item.getAxis("left").setLabel(f"{self.quantity}, {unit}")

    def reading_at(self, at_ns: int, position: QPointF) -> tuple[Sensor, int] | None:
        """The reading nearest to a place on the screen, of those at a time."""
        best: tuple[float, Sensor, int] | None = None
        for curve in self.curves:
            series = curve.shown.series
            near = nearest_given(series, at_ns)
            if near is None:
                continue
            y = self.units.shown(series.quantity, float(series.values[near]))
            point = QPointF(self._x(int(series.times_ns[near])), y)
            away = abs(self.item.getViewBox().mapViewToScene(point).y() - position.y())
            if best is None or away < best[0]:
                best = (away, series.sensor, near)
        return None if best is None else (best[1], best[2])


def _alone(y: npt.NDArray[np.float64]) -> npt.NDArray[np.bool_]:
    """Which values have a gap on either side, bool (n,)."""
    gap = np.concatenate([[True], np.isnan(y), [True]])
    alone: npt.NDArray[np.bool_] = ~gap[1:-1] & gap[:-2] & gap[2:]
    return alone


def nearest_given(series: Series, at_ns: int) -> int | None:
    """The row nearest to a time that has a value; None when there is none close by."""
    near = series.nearest(at_ns)
    if near is None:
        return None
    first = max(near - LOOKED_FOR, 0)
    given = first + np.flatnonzero(series.why[first : near + LOOKED_FOR] == GIVEN)
    if not given.size:
        return None
    return int(given[np.abs(series.times_ns[given] - at_ns).argmin()])
