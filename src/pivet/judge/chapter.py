"""How a long wire is cut, and how far what is learned later reaches back.

A live wire keeps two chapters in sight, and a chapter closes when the next is whole.  So that a
file says the same of an exchange as listening did, hindsight ends there for both.
"""

import numpy as np

from pivet.signal.trace import Int64Array

CHAPTER = 256
"""Exchanges of a chapter."""


def hindsight(count: int, before: int) -> Int64Array:
    """The last exchange that may still say something about each, int64 (n,).

    Args:
        count: number of exchanges in sight, n.
        before: how many stood before the first of them, whole chapters.
    """
    chapter = (np.arange(count, dtype=np.int64) + before) // CHAPTER
    ends: Int64Array = np.minimum((chapter + 2) * CHAPTER - before, count) - 1
    return ends
