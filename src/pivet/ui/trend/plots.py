"""The plots: one a quantity on a common time axis, failures in a lane below."""

from collections.abc import Sequence
from typing import Any

import pyqtgraph as pg
from PySide6.QtCore import QEvent, QPointF, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from pivet.person.annotations import Mark
from pivet.readings.limits import Limit
from pivet.readings.series import Sensor
from pivet.readings.units import AS_KEPT, UnitChoice
from pivet.ui.drawing.theme import theme
from pivet.ui.readings.lines import label_of
from pivet.ui.trend.axis import TimeAxis
from pivet.ui.trend.lane import FailureLane, failure_near
from pivet.ui.trend.plot import LEFT_PX, NS, RIGHT_PX, Fit, PlottedSeries, QuantityPlot

PICK_PX, TELL_PX = 14, 3
"""A failure is meant so close to its tick; with the pointer only over it, closer."""

MOST_PX = 16_777_215
"""As high as a widget can be: a row that was the lane before is free again."""

LEAST_SPAN_S = 0.05
LEAST_COLUMNS = 100
ROOM = 0.02
"""Behind the last reading, as a share of what is shown before it."""


class Plots(pg.GraphicsLayoutWidget):
    """Readings over time.

    Signals:
        pointed: the pointer is at a time; carries ns, or None.
        picked: a reading was chosen; carries its sensor and row.
        entered: a reading is to be seen as an exchange; carries the same.
    """

    pointed = Signal(object)
    picked = Signal(object, int)
    entered = Signal(object, int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Readings over time")
        self.units: UnitChoice = AS_KEPT
        self.base_ns = 0
        self._plots: list[QuantityPlot] = []
        self._lane: FailureLane | None = None
        # A plot takes long in the making: what was shown once stays, in sight or not.
        self._made: dict[str, QuantityPlot] = {}
        self._made_lane: FailureLane | None = None
        self._axis = TimeAxis()
        self._whole_s = (0.0, 1.0)
        self._marks: tuple[Mark, ...] = ()
        self._limits: dict[Sensor, Limit] = {}
        self._fits: list[Fit] = []
        self._chosen_ns: int | None = None
        self._held = False
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.timeout.connect(self.redraw)
        self.scene().sigMouseMoved.connect(self._on_pointer)
        self.scene().sigMouseClicked.connect(self._on_click)
        self.ci.layout.setSpacing(2)
        self.ci.layout.setContentsMargins(4, 6, 4, 2)
        self._its_lane()  # the first look has enough to make

    # What is shown.

    @property
    def quantities(self) -> list[str]:
        """The quantities that have a plot."""
        return [plot.quantity for plot in self._plots]

    def plot(self, quantity: str) -> QuantityPlot | None:
        """The plot of a quantity."""
        return next((plot for plot in self._plots if plot.quantity == quantity), None)

    def show_series(
        self,
        shown: Sequence[PlottedSeries],
        whole_ns: tuple[int, int],
        clock: bool,
        keep: bool,
        follow: bool = False,
    ) -> None:
        """Shows these series.

        Args:
            shown: in the order of their quantities.
            whole_ns: from the first to the last time that there is.
            clock: whether times are by the calendar.
            keep: the same stretch of time stays in sight.
            follow: as long a stretch, but the last one.
        """
        self._held = True  # all of it is drawn once, at the end
        try:
            seen = self.view_ns if keep and self._plots else None
            self._put_series(shown, whole_ns, clock)
            if seen is None:
                self.show_all()
            elif follow:
                self.show_last((seen[1] - seen[0]) / NS / (1 + ROOM))
            else:
                self.look_at(*seen)
        finally:
            self._held = False
        self.renew()

    def _put_series(
        self, shown: Sequence[PlottedSeries], whole_ns: tuple[int, int], clock: bool
    ) -> None:
        quantities = list(dict.fromkeys(one.series.quantity for one in shown))
        self.base_ns = whole_ns[0]
        self._whole_s = (0.0, max((whole_ns[1] - whole_ns[0]) / NS, LEAST_SPAN_S))
        if quantities != self.quantities or not self._plots:
            self._build(quantities)
        self._axis.use(self.base_ns, clock)
        for plot in self._plots:
            own = [one for one in shown if one.series.quantity == plot.quantity]
            plot.show(own, self.base_ns, self.units)
        if self._lane is not None:
            self._lane.show(shown, self.base_ns)
            self.ci.layout.setRowFixedHeight(len(self._plots), self._lane.height)

    def _build(self, quantities: Sequence[str]) -> None:
        self.ci.clear()
        for plot in self._plots:
            plot.show([], self.base_ns, self.units)
        self._plots, self._lane = [], None
        if not quantities:
            return
        lane = self._its_lane()
        for row, quantity in enumerate(quantities):
            self.ci.layout.setRowMinimumHeight(row, 0)
            self.ci.layout.setRowMaximumHeight(row, MOST_PX)
            plot = self._its_plot(quantity, lane.item)
            self._plots.append(plot)
            self.ci.addItem(plot.item, row=row, col=0)
        self._lane = lane
        self.ci.addItem(lane.item, row=len(quantities), col=0)

    def _its_lane(self) -> FailureLane:
        """The lane; the time in sight is its, and the plots follow it."""
        if self._made_lane is None:
            item = pg.PlotItem(axisItems={"bottom": self._axis}, enableMenu=False)
            item.getViewBox().sigXRangeChanged.connect(lambda *_: self.redraw())
            self._made_lane = FailureLane(item)
        return self._made_lane

    def make(self, quantity: str) -> QuantityPlot:
        """The plot of a quantity; made when it is first asked for, which takes a moment."""
        if quantity not in self._made:
            self._made[quantity] = QuantityPlot(pg.PlotItem(enableMenu=False), quantity)
            self._made[quantity].item.setXLink(self._its_lane().item)
        return self._made[quantity]

    def _its_plot(self, quantity: str, lane: pg.PlotItem) -> QuantityPlot:
        """The plot of a quantity, with what the lane has in sight."""
        plot = self.make(quantity)
        box = plot.item.getViewBox()
        box.blockLink(True)
        box.setXRange(*lane.getViewBox().viewRange()[0], padding=0)
        box.blockLink(False)
        return plot

    @property
    def _items(self) -> list[pg.PlotItem]:
        lane = [self._lane.item] if self._lane is not None else []
        return [*(plot.item for plot in self._plots), *lane]

    def show_marks(self, marks: tuple[Mark, ...], limits: dict[Sensor, Limit]) -> None:
        """Shows marks and limits."""
        if (marks, limits) == (self._marks, self._limits):
            return
        self._marks, self._limits = marks, limits
        self._put_extras()

    def show_fits(self, fits: list[Fit]) -> None:
        """Shows fitted curves."""
        if not fits and not self._fits:
            return
        self._fits = fits
        self._put_extras()

    def _put_extras(self) -> None:
        for plot in self._plots:
            plot.show_extras(self._marks, self._limits, self._fits)
        if self._plots:
            self._plots[0].name_marks(self._marks)

    def show_chosen(self, at_ns: int | None) -> None:
        """Shows where the chosen exchange stands."""
        self._chosen_ns = at_ns
        for plot in self._plots:
            plot.choose(at_ns)

    # What is in sight.

    @property
    def view_ns(self) -> tuple[int, int]:
        """The time in sight."""
        low, high = self._plots[0].item.getViewBox().viewRange()[0]
        return self.base_ns + round(low * NS), self.base_ns + round(high * NS)

    def look_at(self, from_ns: int, to_ns: int) -> None:
        """Shows a stretch of time."""
        low, high = ((at - self.base_ns) / NS for at in (from_ns, to_ns))
        self._look(low, max(high, low + LEAST_SPAN_S))

    def _look(self, low_s: float, high_s: float) -> None:
        if self._plots:
            self._plots[0].item.setXRange(low_s, high_s, padding=0)

    def show_all(self) -> None:
        """Shows all there is."""
        low, high = self._whole_s
        more = 0.01 * (high - low)
        self._look(low - more, high + more)

    def show_last(self, seconds: float) -> None:
        """Shows the end."""
        high = self._whole_s[1]
        self._look(high - seconds, high + ROOM * seconds)

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

    # Drawing.

    def redraw(self) -> None:
        """Draws what is in sight."""
        if not self._plots or self._held:
            return
        columns = max(self.width() - LEFT_PX - RIGHT_PX, LEAST_COLUMNS)
        for plot in self._plots:
            plot.draw(*self.view_ns, columns)
        if self._lane is not None:
            self._lane.draw(*self.view_ns, columns)
        self._plots[0].name_marks(self._marks)

    def renew(self) -> None:
        """Colours or units are others."""
        colours = theme()
        self.setBackground(colours.panel)
        for plot in self._plots:
            plot.units = self.units
            plot.renew()
        for item in self._items:
            last = self._lane is not None and item is self._lane.item
            item.showGrid(x=True, y=not last, alpha=0.18)
            for name in ("left", "bottom"):
                axis = item.getAxis(name)
                axis.setPen(QPen(colours.edge, 1))
                axis.setTextPen(colours.faint)
        self._put_extras()
        self.show_chosen(self._chosen_ns)
        self.redraw()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Labels stand elsewhere."""
        super().resizeEvent(event)
        if event is not None:  # its base calls this while it is being made
            self._later.start(0)

    # The person.

    def _item_at(self, position: QPointF) -> pg.PlotItem | None:
        rows = (item for item in self._items)
        return next(
            (one for one in rows if one.getViewBox().sceneBoundingRect().contains(position)), None
        )

    def _time_at(self, position: QPointF) -> int:
        point = self._plots[0].item.getViewBox().mapSceneToView(position)
        return int(self.base_ns + round(point.x() * NS))

    def _reach_ns(self, px: int) -> float:
        low, high = self.view_ns
        return float((high - low) * px / max(self.width(), 1))

    def _on_pointer(self, position: QPointF) -> None:
        item = self._item_at(position)
        if item is None:
            self.point(None)
            return
        at_ns = self._time_at(position)
        self.point(at_ns)
        if self._lane is not None and item is self._lane.item:
            self._tell_failure(self._lane, position, at_ns)

    def point(self, at_ns: int | None) -> None:
        """The pointer is at a time, or nowhere."""
        for plot in self._plots:
            plot.point(at_ns)
        self.pointed.emit(at_ns)

    def _tell_failure(self, lane: FailureLane, position: QPointF, at_ns: int) -> None:
        series = lane.series_at(position)
        if series is None:
            return
        near = failure_near(series, at_ns, self._reach_ns(TELL_PX))
        text = label_of(series.sensor)
        if near is not None:
            text += f": {series.why_text(near)}, exchange {int(series.number[near])}"
        QToolTip.showText(self.mapToGlobal(self.mapFromScene(position)), text, self)

    def _reading_at(self, position: QPointF) -> tuple[Sensor, int] | None:
        """The reading, or the failure, nearest to a place on the screen."""
        item = self._item_at(position)
        if item is None:
            return None
        at_ns = self._time_at(position)
        if self._lane is not None and item is self._lane.item:
            series = self._lane.series_at(position)
            if series is None:
                return None
            near = failure_near(series, at_ns, self._reach_ns(PICK_PX))
            return None if near is None else (series.sensor, near)
        plot = next(other for other in self._plots if other.item is item)
        return plot.reading_at(at_ns, position)

    def _on_click(self, event: Any) -> None:
        found = self._reading_at(event.scenePos())
        if found is not None:
            self.picked.emit(*found)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Goes to the exchange of the reading under the pointer."""
        found = self._reading_at(self.mapToScene(event.position().toPoint()))
        if found is not None:
            self.entered.emit(*found)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right go along, up and down zoom."""
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
        self.point(None)
        super().leaveEvent(event)
