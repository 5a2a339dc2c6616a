"""Giving freed memory back to the system."""

import ctypes


def give_back() -> None:
    """Gives the system what was freed; does nothing where the C library does not offer it.

    The GNU C library keeps freed arrays for later (malloc_trim(3)). A recording of days makes and
    frees arrays of all sizes, and the process would look larger and larger without needing it.
    """
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)
    if trim is not None:
        trim(0)
