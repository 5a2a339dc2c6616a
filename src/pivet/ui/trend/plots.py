"""The plots: one a quantity on a common time axis, failures in a lane below."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QEvent, QPointF, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from pivet.bench.history.given import Mark
from pivet.readings.limits import Limit
from pivet.readings.series import Sensor, Series
from pivet.readings.thinning import thinned, ticks
from pivet.readings.units import AS_KEPT, QUANTITIES, Dimension, UnitChoice
from pivet.ui.readings.lines import LineStyle, label_of
from pivet.ui.theme import theme
from pivet.ui.trend.axis import TimeAxis
from pivet.ui.trend.labels import EndLabels, TopLabels

LEFT_PX, RIGHT_PX = 58, 118
LANE_ROW_PX, LANE_FOOT_PX = 15, 34
LEAST_PLOT_PX = 92
DOTS = 160
"""Fewer readings than this in sight are shown as points too."""

PICK_PX = 14
LEAST_ROOM = {
    Dimension.TEMPERATURE: 0.2,
    Dimension.HUMIDITY: 0.5,
    Dimension.DENSITY: 0.1,
    Dimension.LENGTH: 0.005,
    Dimension.VOLUME: 1.0,
    Dimension.SHARE: 1.0,
}
"""A scale reaches so far beyond the values, in the kept unit: one step is no cliff."""

LEAST_SPAN_S = 0.05
NS = 1_000_000_000


@dataclass(frozen=True, slots=True, eq=False)
class Shown:
    """A series in the plots."""

    series: Series
    style: LineStyle


@dataclass(slots=True, eq=False)
class _Curve:
    """A series and what is drawn of it."""

    shown: Shown
    line: pg.PlotCurveItem
    dots: pg.ScatterPlotItem
    end: float = field(default=float("nan"))


class _Plot:
    """One quantity."""

    def __init__(self, item: pg.PlotItem, quantity: str) -> None:
        self.item, self.quantity = item, quantity
        self.curves: list[_Curve] = []
        self.labels, self.marks = EndLabels(item), TopLabels(item)
        self.extra: list[pg.GraphicsObject] = []
        self.pointer = pg.InfiniteLine(angle=90, movable=False)
        self.chosen = pg.InfiniteLine(angle=90, movable=False)
        for line in (self.pointer, self.chosen):
            item.addItem(line, ignoreBounds=True)
            line.hide()


class Plots(pg.GraphicsLayoutWidget):
    """Readings over time.

    Signals:
        pointed: the pointer is at a time; carries ns, or None.
        picked: a reading was chosen; carries its sensor and row.
        entered: a reading is to be seen as an exchange; carries the same.
        moved: another time is in sight.
    """

    pointed = Signal(object)
    picked = Signal(object, int)
    entered = Signal(object, int)
    moved = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Readings over time")
        self.units: UnitChoice = AS_KEPT
        self.base_ns, self.clock = 0, False
        self._plots: list[_Plot] = []
        self._lane: pg.PlotItem | None = None
        self._lane_rows: list[tuple[Shown, pg.PlotCurveItem]] = []
        self._lane_labels: EndLabels | None = None
        self._axis = TimeAxis()
        self._whole_s = (0.0, 1.0)
        self._marks: tuple[Mark, ...] = ()
        self._limits: dict[Sensor, Limit] = {}
        self._fits: list[tuple[Sensor, np.ndarray, np.ndarray]] = []
        self._chosen_ns: int | None = None
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.timeout.connect(self.redraw)
        self.scene().sigMouseMoved.connect(self._on_pointer)
        self.scene().sigMouseClicked.connect(self._on_click)
        self.ci.layout.setSpacing(2)
        self.ci.layout.setContentsMargins(4, 6, 4, 2)

    # What is shown.

    def show_series(
        self, shown: Sequence[Shown], whole_ns: tuple[int, int], clock: bool, keep: bool
    ) -> None:
        """Shows these series.

        Args:
            shown: in the order of their quantities.
            whole_ns: from the first to the last time that there is.
            clock: times are by the calendar.
            keep: the same stretch of time stays in sight.
        """
        quantities = list(dict.fromkeys(row.series.quantity for row in shown))
        seen = self.view_ns if keep and self._plots else None
        self.base_ns, self.clock = whole_ns[0], clock
        self._whole_s = (0.0, max((whole_ns[1] - whole_ns[0]) / NS, LEAST_SPAN_S))
        if quantities != [plot.quantity for plot in self._plots] or not self._plots:
            self._build(quantities)
        self._axis.use(self.base_ns, clock)
        for plot in self._plots:
            self._put_curves(plot, [row for row in shown if row.series.quantity == plot.quantity])
        self._put_lane(shown)
        if self._plots:
            if seen is None:
                self.show_all()
            else:
                self.look_at(*seen)
        self._put_extras()
        self.redraw()

    def _build(self, quantities: Sequence[str]) -> None:
        self.ci.clear()
        self._plots, self._lane, self._lane_rows = [], None, []
        self._axis = TimeAxis()
        for row, quantity in enumerate(quantities):
            item = self.addPlot(row=row, col=0)
            self._dress(item)
            item.hideAxis("bottom")
            item.setMinimumHeight(LEAST_PLOT_PX)
            self._plots.append(_Plot(item, quantity))
        if not quantities:
            return
        lane = self.addPlot(row=len(quantities), col=0, axisItems={"bottom": self._axis})
        self._dress(lane)
        self._lane, self._lane_labels = lane, EndLabels(lane)
        first = self._plots[0].item.getViewBox()
        for item in (*(plot.item for plot in self._plots[1:]), lane):
            item.setXLink(self._plots[0].item)
        first.sigXRangeChanged.connect(lambda *_: self._on_range())

    def _dress(self, item: pg.PlotItem) -> None:
        item.setMenuEnabled(False)
        item.hideButtons()
        box = item.getViewBox()
        box.setMouseEnabled(x=True, y=False)
        box.disableAutoRange()
        box.setDefaultPadding(0.0)
        item.showAxis("right")
        item.getAxis("right").setWidth(RIGHT_PX)
        item.getAxis("right").setStyle(showValues=False, tickLength=0)
        item.getAxis("left").setWidth(LEFT_PX)
        item.getAxis("left").enableAutoSIPrefix(False)

    def _put_curves(self, plot: _Plot, rows: list[Shown]) -> None:
        for curve in plot.curves:
            plot.item.removeItem(curve.line)
            plot.item.removeItem(curve.dots)
        plot.curves = []
        for row in rows:
            line = pg.PlotCurveItem(pen=row.style.pen(), connect="finite", antialias=False)
            dots = pg.ScatterPlotItem(size=4, pen=None, brush=row.style.colour)
            plot.item.addItem(line, ignoreBounds=True)
            plot.item.addItem(dots, ignoreBounds=True)
            plot.curves.append(_Curve(row, line, dots))

    def _put_lane(self, shown: Sequence[Shown]) -> None:
        lane = self._lane
        if lane is None:
            return
        for _, item in self._lane_rows:
            lane.removeItem(item)
        whose: dict[tuple[str, str], Shown] = {}
        for row in shown:
            if (
                not row.series.derived
                or (row.series.sensor.wire, row.series.sensor.who) not in whose
            ):
                whose.setdefault((row.series.sensor.wire, row.series.sensor.who), row)
        self._lane_rows = []
        for row in whose.values():
            item = pg.PlotCurveItem(connect="pairs", antialias=False)
            lane.addItem(item, ignoreBounds=True)
            self._lane_rows.append((row, item))
        count = len(self._lane_rows)
        height = max(count, 1) * LANE_ROW_PX + LANE_FOOT_PX
        self.ci.layout.setRowFixedHeight(len(self._plots), height)
        lane.setYRange(-0.6, max(count, 1) - 0.4, padding=0)
        lane.getViewBox().invertY(True)
        lane.getAxis("left").setTicks([[]])
        lane.getAxis("left").setLabel("failed")

    def show_marks(self, marks: tuple[Mark, ...], limits: dict[Sensor, Limit]) -> None:
        """Shows marks and limits."""
        self._marks, self._limits = marks, limits
        self._put_extras()

    def show_fits(self, fits: list[tuple[Sensor, np.ndarray, np.ndarray]]) -> None:
        """Shows fitted curves: sensor, times (ns), values."""
        self._fits = fits
        self._put_extras()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Labels stand elsewhere."""
        super().resizeEvent(event)
        if event is not None:  # its base calls this while it is being made
            self._later.start(0)

    def _put_extras(self) -> None:
        colours = theme()
        for plot in self._plots:
            for item in plot.extra:
                plot.item.removeItem(item)
            plot.extra = []
            for mark in self._marks:
                pen = QPen(colours.glow, 1.2, Qt.PenStyle.DashLine)
                pen.setCosmetic(True)
                self._add(plot, pg.InfiniteLine(self._x(mark.at_ns), angle=90, pen=pen))
            for curve in plot.curves:
                self._put_limits(plot, curve)
            for sensor, times_ns, values in self._fits:
                if sensor.quantity == plot.quantity:
                    x = (times_ns - self.base_ns) / NS
                    shown = self.units.shown(sensor.quantity, values)
                    pen = QPen(colours.accent, 2.6)
                    pen.setCosmetic(True)
                    self._add(plot, pg.PlotCurveItem(x, shown, pen=pen, antialias=True))

    def _put_limits(self, plot: _Plot, curve: _Curve) -> None:
        sensor = curve.shown.series.sensor
        limit = self._limits.get(sensor)
        if limit is None:
            return
        for side, value in limit.sides:
            pen = QPen(curve.shown.style.colour, 1.0, Qt.PenStyle.DotLine)
            pen.setCosmetic(True)
            shown = self.units.shown(sensor.quantity, value)
            line = pg.InfiniteLine(shown, angle=0, pen=pen)
            text = f"{label_of(sensor)}: {side} {shown:.4g}"
            options = {
                "position": 0.02,
                "color": curve.shown.style.colour,
                "anchors": [(0, 1), (0, 1)],
            }
            line.label = pg.InfLineLabel(line, text, **options)
            self._add(plot, line)

    def _add(self, plot: _Plot, item: pg.GraphicsObject) -> None:
        plot.item.addItem(item, ignoreBounds=True)
        plot.extra.append(item)

    def show_chosen(self, at_ns: int | None) -> None:
        """Shows where the chosen exchange stands."""
        self._chosen_ns = at_ns
        pen = QPen(theme().accent, 1.4)
        pen.setCosmetic(True)
        for plot in self._plots:
            plot.chosen.setVisible(at_ns is not None)
            if at_ns is not None:
                plot.chosen.setPen(pen)
                plot.chosen.setValue(self._x(at_ns))

    # What is in sight.

    def _x(self, at_ns: int) -> float:
        return (at_ns - self.base_ns) / NS

    @property
    def view_ns(self) -> tuple[int, int]:
        """The time in sight."""
        low, high = self._plots[0].item.getViewBox().viewRange()[0]
        return self.base_ns + round(low * NS), self.base_ns + round(high * NS)

    def look_at(self, from_ns: int, to_ns: int) -> None:
        """Shows a stretch of time."""
        if self._plots:
            low, high = self._x(from_ns), self._x(to_ns)
            high = max(high, low + LEAST_SPAN_S)
            self._plots[0].item.setXRange(low, high, padding=0)

    def show_all(self) -> None:
        """Shows all there is."""
        low, high = self._whole_s
        more = 0.01 * (high - low)
        if self._plots:
            self._plots[0].item.setXRange(low - more, high + more, padding=0)

    def show_last(self, seconds: float) -> None:
        """Shows the end."""
        high = self._whole_s[1]
        if self._plots:
            self._plots[0].item.setXRange(high - seconds, high + 0.02 * seconds, padding=0)

    @property
    def at_end(self) -> bool:
        """The newest reading is in sight."""
        return bool(self._plots) and self.view_ns[1] >= self.base_ns + self._whole_s[1] * NS

    def zoom(self, factor: float) -> None:
        """Shows less (above 1) or more time, about the chosen exchange or the middle."""
        if not self._plots:
            return
        low, high = self.view_ns
        centre = self._chosen_ns if self._chosen_ns is not None else (low + high) // 2
        centre = centre if low <= centre <= high else (low + high) // 2
        self.look_at(
            centre - round((centre - low) / factor), centre + round((high - centre) / factor)
        )

    def pan(self, share: float) -> None:
        """Goes on by a share of what is in sight."""
        if self._plots:
            low, high = self.view_ns
            step = round((high - low) * share)
            self.look_at(low + step, high + step)

    def _on_range(self) -> None:
        self._later.start(0)
        self.moved.emit()

    # Drawing.

    def redraw(self) -> None:
        """Draws what is in sight."""
        if not self._plots:
            return
        from_ns, to_ns = self.view_ns
        columns = max(self.width() - LEFT_PX - RIGHT_PX, 100)
        for plot in self._plots:
            low, high = np.inf, -np.inf
            for curve in plot.curves:
                bounds = self._draw(curve, from_ns, to_ns, columns)
                low, high = min(low, bounds[0]), max(high, bounds[1])
            if low <= high:
                more = max(0.06 * (high - low), self._least(plot.quantity))
                plot.item.setYRange(low - more, high + more, padding=0)
            plot.labels.show(
                [
                    (label_of(c.shown.series.sensor), c.shown.style.colour, c.end)
                    for c in plot.curves
                ]
            )
        self._draw_lane(from_ns, to_ns, columns)
        marks = [(row.text, self._x(row.at_ns)) for row in self._marks]
        self._plots[0].marks.show(marks, theme().glow)

    def _least(self, quantity: str) -> float:
        """So far a scale reaches beyond the values at least, in the unit that is shown."""
        return abs(self.units.shown_difference(quantity, LEAST_ROOM[QUANTITIES[quantity]]))

    def _draw(self, curve: _Curve, from_ns: int, to_ns: int, columns: int) -> tuple[float, float]:
        series = curve.shown.series
        found = thinned(series.times_ns, series.values, from_ns, to_ns, columns)
        x = (found.times_ns - self.base_ns) / NS
        y = self.units.shown(series.quantity, found.values)
        curve.line.setData(x, y)
        inside = np.isfinite(y) & (found.times_ns >= from_ns) & (found.times_ns <= to_ns)
        few = 0 < int(np.count_nonzero(inside)) <= DOTS
        curve.dots.setData(x[inside], y[inside]) if few else curve.dots.clear()
        if not inside.any():
            curve.end = float("nan")
            return np.inf, -np.inf
        seen = y[inside]
        curve.end = float(seen[-1])
        return float(seen.min()), float(seen.max())

    def _draw_lane(self, from_ns: int, to_ns: int, columns: int) -> None:
        pen = QPen(theme().unsound, 1.3)
        pen.setCosmetic(True)
        for row, (shown, item) in enumerate(self._lane_rows):
            failed = np.flatnonzero(~shown.series.given)
            times = shown.series.times_ns[failed]
            seen = times[ticks(times, from_ns, to_ns, columns)]
            x = np.repeat((seen - self.base_ns) / NS, 2)
            y = np.tile([row - 0.34, row + 0.34], seen.size)
            item.setData(x, y, pen=pen)
        if self._lane_labels is not None:
            names = [
                (label_of(shown.series.sensor), shown.style.colour, float(row))
                for row, (shown, _) in enumerate(self._lane_rows)
            ]
            self._lane_labels.show(names)

    def renew(self) -> None:
        """Colours or units are others."""
        colours = theme()
        self.setBackground(colours.panel)
        faint = QPen(colours.edge, 1)
        for plot in self._plots:
            unit = self.units.of(plot.quantity).symbol
            plot.item.getAxis("left").setLabel(f"{plot.quantity}, {unit}")
            pen = QPen(colours.faint, 1, Qt.PenStyle.DotLine)
            plot.pointer.setPen(pen)
            for curve in plot.curves:
                curve.line.setPen(curve.shown.style.pen())
                curve.dots.setBrush(curve.shown.style.colour)
        items = [plot.item for plot in self._plots] + ([self._lane] if self._lane else [])
        for item in items:
            item.showGrid(x=True, y=item is not self._lane, alpha=0.18)
            for name in ("left", "bottom", "right"):
                axis = item.getAxis(name)
                axis.setPen(faint)
                axis.setTextPen(colours.faint)
        self._put_extras()
        self.show_chosen(self._chosen_ns)
        self.redraw()

    # The person.

    def _box_at(self, position: QPointF) -> pg.PlotItem | None:
        items = [plot.item for plot in self._plots] + ([self._lane] if self._lane else [])
        for item in items:
            if item.getViewBox().sceneBoundingRect().contains(position):
                return item
        return None

    def _time_at(self, position: QPointF) -> int:
        point = self._plots[0].item.getViewBox().mapSceneToView(position)
        return self.base_ns + round(point.x() * NS)

    def _on_pointer(self, position: QPointF) -> None:
        item = self._box_at(position)
        if item is None:
            self._point(None)
            return
        at_ns = self._time_at(position)
        self._point(at_ns)
        if item is self._lane:
            self._tell_failure(position, at_ns)

    def _point(self, at_ns: int | None) -> None:
        for plot in self._plots:
            plot.pointer.setVisible(at_ns is not None)
            if at_ns is not None:
                plot.pointer.setValue(self._x(at_ns))
        self.pointed.emit(at_ns)

    def _lane_row(self, position: QPointF) -> int | None:
        """The row of the lane at a place on the screen."""
        if self._lane is None:
            return None
        row = round(self._lane.getViewBox().mapSceneToView(position).y())
        return row if 0 <= row < len(self._lane_rows) else None

    def _tell_failure(self, position: QPointF, at_ns: int) -> None:
        row = self._lane_row(position)
        if row is None:
            return
        series = self._lane_rows[row][0].series
        reach = (self.view_ns[1] - self.view_ns[0]) * 3 / max(self.width(), 1)
        near = failure_near(series, at_ns, reach)
        where = self.mapToGlobal(self.mapFromScene(position))
        text = label_of(series.sensor)
        if near is not None:
            text += f": {series.why_text(near)}, exchange {int(series.number[near])}"
        QToolTip.showText(where, text, self)

    def _on_click(self, event: object) -> None:
        position = event.scenePos()  # type: ignore[attr-defined]
        found = self._reading_at(position)
        if found is None:
            return
        self.picked.emit(*found)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Goes to the exchange of the reading under the pointer."""
        found = self._reading_at(self.mapToScene(event.position().toPoint()))
        if found is not None:
            self.entered.emit(*found)

    def _reading_at(self, position: QPointF) -> tuple[Sensor, int] | None:
        """The reading, or the failure, nearest to a place on the screen."""
        item = self._box_at(position)
        if item is None:
            return None
        at_ns = self._time_at(position)
        if item is self._lane:
            row = self._lane_row(position)
            if row is None:
                return None
            series = self._lane_rows[row][0].series
            reach = (self.view_ns[1] - self.view_ns[0]) * PICK_PX / max(self.width(), 1)
            near = failure_near(series, at_ns, reach)
            return None if near is None else (series.sensor, near)
        plot = next(row for row in self._plots if row.item is item)
        best: tuple[float, Sensor, int] | None = None
        for curve in plot.curves:
            series = curve.shown.series
            near = nearest_given(series, at_ns)
            if near is None:
                continue
            y = self.units.shown(series.quantity, float(series.values[near]))
            there = item.getViewBox().mapViewToScene(
                QPointF(self._x(int(series.times_ns[near])), y)
            )
            away = abs(there.y() - position.y())
            if best is None or away < best[0]:
                best = (away, series.sensor, near)
        return None if best is None else (best[1], best[2])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows go along, plus and minus zoom, Home, End and A show ends and all."""
        keys = {
            Qt.Key.Key_Left: lambda: self.pan(-0.2),
            Qt.Key.Key_Right: lambda: self.pan(0.2),
            Qt.Key.Key_Up: lambda: self.zoom(1.5),
            Qt.Key.Key_Down: lambda: self.zoom(1 / 1.5),
        }
        run = keys.get(Qt.Key(event.key()))
        if run is None:
            QWidget.keyPressEvent(self, event)
        else:
            run()

    def leaveEvent(self, event: QEvent) -> None:
        """The pointer is nowhere."""
        self._point(None)
        super().leaveEvent(event)


def nearest_given(series: Series, at_ns: int) -> int | None:
    """The row nearest to a time that has a value; None when there is none close by."""
    near = series.nearest(at_ns)
    if near is None:
        return None
    for step in range(400):
        for row in (near - step, near + step):
            if 0 <= row < len(series) and series.why[row] == 0:
                return row
    return None


def failure_near(series: Series, at_ns: int, reach_ns: float) -> int | None:
    """The failed reading nearest to a time, no farther than the reach."""
    failed = np.flatnonzero(~series.given)
    if not failed.size:
        return None
    away = np.abs(series.times_ns[failed] - at_ns)
    at = int(away.argmin())
    return int(failed[at]) if away[at] <= reach_ns else None
