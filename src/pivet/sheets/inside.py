"""Whether values lie in a range; its ends count."""

from typing import overload

import numpy as np
import numpy.typing as npt

FloatArray = npt.NDArray[np.float64]


@overload
def inside(values: float, low: float, high: float) -> bool: ...


@overload
def inside(values: FloatArray, low: float, high: float) -> npt.NDArray[np.bool_]: ...


def inside(values: FloatArray | float, low: float, high: float) -> npt.NDArray[np.bool_] | bool:
    """Whether each value lies in a range; one that was not read does not.

    Args:
        values: one, or float64 (...,).
        low: the least of the range.
        high: the most of it.
    """
    return (values >= low) & (values <= high)
