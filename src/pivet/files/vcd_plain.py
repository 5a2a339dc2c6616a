"""Slabs of a VCD file as most writers make them: a time stamp or a change a line, short codes.

What is written in any other way is no fault: the caller reads it word by word.
"""

import numpy as np

from pivet.files.tokens import SPACE, ByteArray, IntArray, Words, whole_numbers
from pivet.frozen import FrozenObject

NEWLINE, TIME = ord("\n"), ord("#")
SHORTEST_LINE = 2


class Plain(FrozenObject):
    """The lines of a slab.

    Attributes:
        stamps: the time stamps, int64 (t,).
        value: first character of each change, uint8 (n,).
        code: its only code character, uint8 (n,).
        stamped: how many time stamps of the slab stand before each change, int64 (n,).
    """

    stamps: IntArray
    value: ByteArray
    code: ByteArray
    stamped: IntArray


def plain_lines(slab: ByteArray) -> Plain | None:
    """The lines of a slab; None when one of them is something else.

    Args:
        slab: whole lines, uint8 (b,).
    """
    ends = np.flatnonzero(slab == NEWLINE)
    if not ends.size or ends[-1] != slab.size - 1 or np.count_nonzero(slab <= SPACE) != ends.size:
        return None
    starts = np.empty_like(ends)
    starts[0] = 0
    np.add(ends[:-1], 1, out=starts[1:])
    lengths = ends - starts
    if lengths.min() < SHORTEST_LINE:
        return None
    is_time = slab[starts] == TIME
    times: slice | IntArray = slice(0, None, 2)
    changes: slice | IntArray = slice(1, None, 2)
    if is_time[times].all() and not is_time[changes].any():
        # One line of a single sensor: its stamps and changes take turns.
        stamped = np.arange(1, ends.size // 2 + 1)
    else:
        times, changes = np.flatnonzero(is_time), np.flatnonzero(~is_time)
        # Of the lines before the k-th change k are changes, the others time stamps.
        stamped = changes - np.arange(changes.size)
    begins = starts[changes]
    if not is_time.any() or (lengths[changes] != SHORTEST_LINE).any():
        return None
    stamps, bad = whole_numbers(Words(slab, starts[times] + 1, lengths[times] - 1))
    if bad.any():
        return None
    return Plain(stamps, slab[begins], slab[begins + 1], stamped)
