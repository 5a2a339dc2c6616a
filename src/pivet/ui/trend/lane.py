"""The lane under the plots: when which sensor failed, and why."""

from collections.abc import Sequence

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF, QRectF

from pivet.readings.series import Series
from pivet.readings.thinning import ticks
from pivet.ui.drawing.theme import theme
from pivet.ui.readings.lines import label_of, thin_pen
from pivet.ui.trend.labels import EndLabels
from pivet.ui.trend.plot import NS, RIGHT_PX, PlottedSeries, dress

ROW_PX, FOOT_PX = 15, 34
TICK = 0.34


class FailureLane:
    """One row a sensor, one tick a failed reading.

    Args:
        item: where it is drawn.
    """

    def __init__(self, item: pg.PlotItem) -> None:
        self.item = item
        self._rows: list[tuple[PlottedSeries, pg.PlotCurveItem]] = []
        self._failed: list[np.ndarray] = []
        self._labels = EndLabels(item, RIGHT_PX)
        self._base_ns = 0
        self._labelled: QRectF | None = None
        dress(item)
        item.getViewBox().invertY(True)
        item.getAxis("left").setTicks([[]])
        item.getAxis("left").setLabel("failed")

    @property
    def height(self) -> int:
        """How high it must be, px."""
        return max(len(self._rows), 1) * ROW_PX + FOOT_PX

    def show(self, shown: Sequence[PlottedSeries], base_ns: int) -> None:
        """Shows the sensors of some series; what was measured tells of what is derived."""
        self._base_ns, self._labelled = base_ns, None
        whose: dict[tuple[str, str], PlottedSeries] = {}
        for row in sorted(shown, key=lambda plotted: plotted.series.derived):
            whose.setdefault((row.series.sensor.wire, row.series.sensor.who), row)
        items = [item for _, item in self._rows]
        for item in items[len(whose) :]:
            self.item.removeItem(item)
        for _ in range(len(items), len(whose)):
            items.append(pg.PlotCurveItem(connect="pairs", antialias=False))
            self.item.addItem(items[-1], ignoreBounds=True)
        self._rows = list(zip(whose.values(), items, strict=False))
        self._failed = [plotted.series.times_ns[~plotted.series.given] for plotted, _ in self._rows]
        self.item.setYRange(-0.6, max(len(self._rows), 1) - 0.4, padding=0)

    def draw(self, from_ns: int, to_ns: int, columns: int) -> None:
        """Draws what is in sight."""
        pen = thin_pen(theme().unsound, 1.3)
        for row, (_, item) in enumerate(self._rows):
            times = self._failed[row]
            seen = times[ticks(times, from_ns, to_ns, columns)]
            x = np.repeat((seen - self._base_ns) / NS, 2)
            y = np.tile([row - TICK, row + TICK], seen.size)
            item.setData(x, y, pen=pen)
        box = self.item.getViewBox().rect()
        if box == self._labelled:
            return
        self._labelled = box
        self._labels.show(
            [
                (label_of(shown.series.sensor), shown.style.colour, float(row))
                for row, (shown, _) in enumerate(self._rows)
            ]
        )

    def series_at(self, position: QPointF) -> Series | None:
        """The series of the row at a place on the screen."""
        row = round(self.item.getViewBox().mapSceneToView(position).y())
        return self._rows[row][0].series if 0 <= row < len(self._rows) else None


def failure_near(series: Series, at_ns: int, reach_ns: float) -> int | None:
    """The failed reading nearest to a time, no farther than the reach."""
    failed = np.flatnonzero(~series.given)
    if not failed.size:
        return None
    away = np.abs(series.times_ns[failed] - at_ns)
    at = int(away.argmin())
    return int(failed[at]) if away[at] <= reach_ns else None
