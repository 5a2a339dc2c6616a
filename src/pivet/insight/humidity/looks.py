"""Where the looks of a loop meet the edges of a frame.

Without jitter they stand whole turns apart, but for the time in which a bit is put away.  That time
is left out ("own time"), so each edge has the number of the first look at which it is seen.
"""

from typing import TypeVar

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import layout

F = TypeVar("F", np.float32, np.float64)


def put_away(edge: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
    """How many bits are put away before an edge is looked for.

    Args:
        edge: its number, 0 at the host's release.
    """
    return np.clip((edge - layout.FIRST_HIGH) // 2, 0, None)


def own_turns(edges_ns: npt.NDArray[F], period: float, work: float) -> npt.NDArray[F]:
    """Edges in turns from the first one on, without the time in which bits are put away.

    Args:
        edges_ns: (e, m), ns.
        period: of the loop, ns.
        work: how long a bit is put away, ns.
    """
    own: npt.NDArray[F] = edges_ns - edges_ns[0]
    if work:
        away = work * put_away(np.arange(len(own), dtype=np.int64))
        own -= away.astype(own.dtype)[:, None]
    own /= own.dtype.type(period)
    return own


def looks_of(own: npt.NDArray[F], work: float) -> tuple[npt.NDArray[F], npt.NDArray[F]]:
    """The look that sees each edge, and the one from which on it is missed, both (e, m).

    An edge is missed where the look that saw the edge before comes after it: two edges between two
    looks leave the level as it was.

    Args:
        own: edges in turns, less where in a turn the loop stands at the first one, (e, m).
        work: how long a bit is put away, in turns.
    """
    at = np.ceil(own)
    if not work:
        return at, at
    number = np.arange(len(own), dtype=np.int64)
    late = (put_away(number) - put_away(number - 1)) * work
    until = np.ceil(own + late.astype(own.dtype)[:, None])
    np.maximum.accumulate(at, axis=0, out=at)
    return at, until
