"""The plots of the Agreement view: both over time, and the difference against the value."""

from html import escape

import numpy as np
import numpy.typing as npt
import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPen
from PySide6.QtWidgets import QWidget

from pivet.history.agree import Comparison
from pivet.readings.thinning import thinned
from pivet.readings.units import QUANTITIES, UnitChoice
from pivet.ui.drawing.painting import with_alpha
from pivet.ui.drawing.theme import theme
from pivet.ui.readings.lines import thin_pen
from pivet.ui.trend.axis import TimeAxis
from pivet.ui.trend.plot import LEAST_ROOM

NS = 1_000_000_000
MOST_DOTS = 4000
LEFT_PX = 58
COLUMNS = 900


class AgreementPlots(pg.GraphicsLayoutWidget):
    """Shows a comparison."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("Difference against value")
        self._axis = TimeAxis()
        axes = {"bottom": self._axis}
        self._over_time = self.addPlot(row=0, col=0, axisItems=axes, enableMenu=False)
        self._against = self.addPlot(row=1, col=0, enableMenu=False)
        self.ci.layout.setRowStretchFactor(0, 2)
        self.ci.layout.setRowStretchFactor(1, 3)
        for item in (self._over_time, self._against):
            item.hideButtons()
            item.getAxis("left").setWidth(LEFT_PX)
            for name in ("left", "bottom"):
                item.getAxis(name).enableAutoSIPrefix(False)

    def show_comparison(self, comparison: Comparison, units: UnitChoice, clock: bool) -> None:
        """Shows the pairs, the mean difference, and what is allowed."""
        found, quantity = comparison.found, comparison.series.quantity
        colours, unit = theme(), units.of(quantity).symbol
        for item in (self._over_time, self._against):
            item.clear()
        self._dress(f"{quantity}, {unit}", f"value of the reference, {unit}", unit)
        if found is None:
            return
        pairs = found.pairs
        self._over_time.setTitle(
            f"<span style='color:{colours.trace.name()}'>{escape(comparison.series.label)}</span>"
            f" &nbsp;·&nbsp; <span style='color:{colours.faint.name()}'><b>"
            f"{escape(comparison.name)} (reference)</b></span>",
            size="9pt",
        )
        base = int(pairs.times_ns[0])
        self._axis.use(base, clock)
        ends = base, int(pairs.times_ns[-1])
        for values, colour, width in (
            (pairs.reference, colours.faint, 2.4),
            (pairs.values, colours.trace, 1.2),
        ):
            line = thinned(pairs.times_ns, values, *ends, COLUMNS)
            pen = thin_pen(colour, width)
            x, y = (line.times_ns - base) / NS, units.shown(quantity, line.values)
            self._over_time.plot(x, y, pen=pen, connect="finite")
        x = units.shown(quantity, pairs.reference)
        y = pairs.difference * units.of(quantity).factor
        self._put_band(found.allowed, units, quantity)
        dots = _some(~found.outlier)
        self._dot(x[dots], y[dots], colours.trace, "o")
        far = _some(found.outlier)
        self._dot(x[far], y[far], colours.unsound, "x")
        mean = units.shown_difference(quantity, found.offset)
        self._against.addItem(pg.InfiniteLine(mean, angle=0, pen=thin_pen(colours.accent, 1.6)))
        # Values that are all alike differ by the dust of binary fractions: no scale shows that.
        room = abs(units.shown_difference(quantity, 2 * LEAST_ROOM[QUANTITIES[quantity]]))
        self._over_time.setLimits(minYRange=room)
        self._against.setLimits(minXRange=room, minYRange=room)
        for item in (self._over_time, self._against):
            item.autoRange(padding=0.04)

    def _dress(self, over_time: str, against: str, unit: str) -> None:
        colours = theme()
        self.setBackground(colours.panel)
        self._over_time.setLabel("left", over_time)
        self._against.setLabel("left", f"difference, {unit}")
        self._against.setLabel("bottom", against)
        for item in (self._over_time, self._against):
            item.showGrid(x=True, y=True, alpha=0.18)
            for name in ("left", "bottom"):
                axis = item.getAxis(name)
                axis.setPen(QPen(colours.edge, 1))
                axis.setTextPen(colours.faint)

    def _put_band(self, allowed: float | None, units: UnitChoice, quantity: str) -> None:
        colours = theme()
        self._against.addItem(pg.InfiniteLine(0, angle=0, pen=thin_pen(colours.faint, 1.0)))
        if allowed is None:
            return
        size = units.shown_difference(quantity, allowed)
        band = pg.LinearRegionItem(
            (-size, size),
            orientation="horizontal",
            movable=False,
            brush=with_alpha(colours.sound, 34),
            pen=thin_pen(colours.sound, 1.0, Qt.PenStyle.DashLine),
        )
        self._against.addItem(band)

    def _dot(
        self,
        x: npt.NDArray[np.float64],
        y: npt.NDArray[np.float64],
        colour: QColor,
        symbol: str,
    ) -> None:
        brush = with_alpha(colour, 110) if symbol == "o" else colour
        size = 5 if symbol == "o" else 9
        self._against.addItem(
            pg.ScatterPlotItem(x, y, size=size, pen=None, brush=brush, symbol=symbol)
        )


def _some(which: npt.NDArray[np.bool_]) -> npt.NDArray[np.int64]:
    """The rows of which it holds; of very many an even choice."""
    rows = np.flatnonzero(which)
    return rows[:: max(rows.size // MOST_DOTS, 1)]
