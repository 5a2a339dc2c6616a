"""The line of a series, which knows how far its values reach."""

import numpy as np
import numpy.typing as npt
import pyqtgraph as pg
from PySide6.QtGui import QPen

Bounds = tuple[float, float] | tuple[None, None]

NOWHERE: Bounds = (None, None)


class KnownLine(pg.PlotCurveItem):
    """A line whose bounds are found once where it is changed.

    The scene asks for them eight times in each repaint, and a search for them skips gaps.
    """

    def __init__(self, pen: QPen) -> None:
        self._bounds = (NOWHERE, NOWHERE)
        super().__init__(pen=pen, connect="finite", antialias=False)

    def show_values(self, x: npt.NDArray[np.float64], y: npt.NDArray[np.float64]) -> None:
        """Shows these: ``x`` rising, float64 (n,); ``y`` with gaps as NaN, float64 (n,)."""
        there = y[np.isfinite(y)]
        if there.size:
            across = (float(x[0]), float(x[-1]))
            self._bounds = (across, (float(there.min()), float(there.max())))
        else:
            self._bounds = (NOWHERE, NOWHERE)
        self.setData(x, y)

    def dress(self, pen: QPen) -> None:
        """Draws with this pen."""
        if pen != self.opts["pen"]:
            self.setPen(pen)

    def dataBounds(
        self,
        ax: int,
        frac: float = 1.0,
        orthoRange: tuple[float, float] | None = None,  # noqa: N803 - the plotting package's name
    ) -> Bounds:
        """How far it reaches along an axis; of all its values."""
        return self._bounds[ax]
