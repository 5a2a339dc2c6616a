"""Check values over bytes."""

import numpy as np
import numpy.typing as npt

Bytes = npt.NDArray[np.uint8]


def sum8(payload: Bytes) -> Bytes:
    """Sum of bytes, modulo 256.

    Args:
        payload: uint8, shape (k, ...).

    Returns:
        uint8, shape (...).

    Source: humidity sensors' sheets: b4 = (b0 + b1 + b2 + b3) & 0xFF.
    """
    total: Bytes = payload.sum(axis=0, dtype=np.uint8)
    return total
