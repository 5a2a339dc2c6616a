"""The time axis: by the calendar, or since a capture began."""

from datetime import datetime
from typing import Any

import numpy as np
import pyqtgraph as pg

from pivet.history.sentences import day_text
from pivet.history.times import zone_ns
from pivet.signal.seconds import ns_of

STEPS_S = (
    *(0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5),
    *(1.0, 2.0, 5.0, 10.0, 15.0, 30.0),
    *(60.0, 120.0, 300.0, 600.0, 900.0, 1800.0),
    *(3600.0, 7200.0, 10800.0, 21600.0, 43200.0),
    *(86400.0, 172800.0, 604800.0, 2592000.0),
)
LABEL_PX = 74
"""A label needs so much room."""

DAY_S = 86400.0


class TimeAxis(pg.AxisItem):
    """Times at the foot of the plots.

    Attributes:
        base_ns: what 0 on the axis means; 0 is the beginning of a capture where ``clock`` is off.
        clock: by the calendar.
    """

    def __init__(self) -> None:
        super().__init__("bottom")
        self.base_ns, self.clock = 0, False
        self._zone_s = 0.0

    def use(self, base_ns: int, clock: bool) -> None:
        """Counts from another zero."""
        self.base_ns, self.clock = base_ns, clock
        self._zone_s = zone_ns(base_ns) / 1e9 if clock else 0.0
        self.picture = None

    def tickValues(self, minVal: float, maxVal: float, size: float) -> list[Any]:  # noqa: N803
        """Whole seconds, minutes, hours, days of the local time."""
        wanted = max(size / LABEL_PX, 1.0)
        step = next((wide for wide in STEPS_S if (maxVal - minVal) / wide <= wanted), STEPS_S[-1])
        shift = self.base_ns / 1e9 % DAY_S + self._zone_s
        first = np.ceil((minVal + shift) / step) * step - shift
        return [(step, np.arange(first, maxVal + step / 1000, step).tolist())]

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        """As short as the step allows."""
        return [self._text(value, spacing) for value in values]

    def _text(self, value: float, step: float) -> str:
        at_ns = self.base_ns + ns_of(value)
        if not self.clock:
            return since_text(at_ns, step)
        at = datetime.fromtimestamp(round(at_ns / 1e6) / 1e3)
        if step >= DAY_S or (at.hour, at.minute, at.second, at.microsecond) == (0, 0, 0, 0):
            return day_text(at)
        if step >= 60:
            return f"{at:%H:%M}"
        return f"{at:%H:%M:%S}" if step >= 1 else f"{at:%S.%f}"[:-3]


def since_text(at_ns: int, step_s: float) -> str:
    """A time since the beginning, as fine as the step."""
    sign, total_ms = ("-" if at_ns < 0 else ""), round(abs(at_ns) / 1e6)
    total, ms = divmod(total_ms, 1000)
    hours, rest = divmod(total, 3600)
    text = f"{sign}{hours}:{rest // 60:02d}"
    if step_s < 60:
        text += f":{rest % 60:02d}"
    return text + (f".{ms:03d}" if step_s < 1 else "")
