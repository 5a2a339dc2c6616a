"""How the process keeps memory that was freed."""

import ctypes
from functools import cache

M_TRIM_THRESHOLD, M_MMAP_THRESHOLD = -1, -3
"""mallopt(3), of the GNU C library."""

SMALL_BYTES = 128 << 10
KEPT_BYTES = 1 << 20


@cache
def keep_little() -> None:
    """Large arrays go back to the system when they are freed; once for the process.

    By itself the GNU C library learns from the first large arrays to keep ever larger ones for
    later. Recording makes and frees arrays of all sizes for days, and the process would grow for an
    hour without needing it. Not for the window: what it keeps draws a sixth more often. Does
    nothing where the C library does not offer it.
    """
    set_option = getattr(ctypes.CDLL(None), "mallopt", None)
    if set_option is not None:
        set_option(M_MMAP_THRESHOLD, SMALL_BYTES)
        set_option(M_TRIM_THRESHOLD, KEPT_BYTES)
