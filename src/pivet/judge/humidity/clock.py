"""How far a sensor's clock is off, and how late the line rises.

Both stretch pulses, but differently: a slow clock lengthens highs and lows alike, a slow
rising edge (weak pull-up, long cable) takes from the highs what it gives to the lows.
"""

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject
from pivet.judge.humidity.classes import KEYS, PulseClasses
from pivet.sheets.model import Sheet

USED = ("answer_low", "answer_high", "bit_low", "zero_high", "one_high")
SIGNS = np.array([1.0, -1.0, 1.0, -1.0, -1.0], dtype=np.float32)
ROWS = [KEYS.index(key) for key in USED]


class ClockFit(FrozenObject):
    """Clock and rise of n exchanges, by least squares over the mean pulses.

    Attributes:
        clock: measured over typical length, float32 (n,); 1.05 = 5 % slow.
        rise_us: by how much lows are longer and highs shorter, float32 (n,), µs.
        misfit_us: largest rest that the two do not explain, float32 (n,), µs.
    """

    clock: npt.NDArray[np.float32]
    rise_us: npt.NDArray[np.float32]
    misfit_us: npt.NDArray[np.float32]


def fit_clock(classes: PulseClasses, sheet: Sheet) -> ClockFit:
    """Fits mean = clock x typical + rise (lows) or - rise (highs).

    Args:
        classes: the pulses by window.
        sheet: the timing sheet.
    """
    typical = np.array([sheet.windows[key].typ_us for key in USED], dtype=np.float32)[:, None]
    mean = classes.mean_ns[ROWS] / np.float32(1000)
    there = (classes.count[ROWS] > 0).astype(np.float32)
    sign = SIGNS[:, None]
    square = (there * typical * typical).sum(axis=0)
    mixed = (there * typical * sign).sum(axis=0)
    number = there.sum(axis=0)
    by_typical = (there * mean * typical).sum(axis=0)
    by_sign = (there * mean * sign).sum(axis=0)
    scale = square * number - mixed * mixed
    known = scale > 1
    scale = np.where(known, scale, 1)
    clock = np.where(known, (by_typical * number - by_sign * mixed) / scale, 1)
    rise = np.where(known, (square * by_sign - mixed * by_typical) / scale, 0)
    rest = np.abs(mean - clock * typical - sign * rise) * there
    return ClockFit(
        clock.astype(np.float32), rise.astype(np.float32), rest.max(axis=0).astype(np.float32)
    )
