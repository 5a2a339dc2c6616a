"""Edges as a capture sees them: in steps."""

import numpy as np
import numpy.typing as npt

from pivet.signal.trace import Int64Array

FloatArray = npt.NDArray[np.float64]


def seen_in_steps(edges_us: FloatArray, step_ns: int) -> Int64Array:
    """Edges as a capture of this step sees them; pulses that vanish in a step go."""
    steps = np.floor(edges_us * (1000 / step_ns)).astype(np.int64)
    while True:
        same = np.flatnonzero(steps[1:] <= steps[:-1])
        if not same.size:
            return steps * step_ns
        drop = same[np.concatenate(([True], np.diff(same) > 1))]
        steps = np.delete(steps, np.concatenate((drop, drop + 1)))
