"""Frames as a firmware meets them: all their edges, with the spikes that Pivet takes out."""

from collections.abc import Iterator
from typing import TypeVar

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import HumidityExchanges, layout
from pivet.decode.interface import ABSENT
from pivet.frozen import FrozenObject
from pivet.insight.humidity.ticks import add_up
from pivet.insight.pulses import Int64Array
from pivet.judge.notices import spiked

AT_ONCE = 1 << 12
"""How many frames are read at once: what lies between stays in the processor's cache."""

N = TypeVar("N", bound=np.generic)
EDGES = layout.PULSES + 1
USUAL_RELEASE_NS, USUAL_END_NS = 30_000, 50_000
"""Stand in where the capture does not show the beginning or the end of a frame."""

BIT_LOW, BIT_HIGH = slice(3, 83, 2), slice(4, 84, 2)
"""Edges at which the lows and the highs of the bits begin; the release begins at edge 0."""


class Frames(FrozenObject):
    """Whole frames.

    Attributes:
        at: which exchanges they are, rising, int64 (m,).
        edges_ns: from the host's release on, float64 (85, m), ns.
        sent: their bytes, uint8 (5, m).
    """

    at: Int64Array
    edges_ns: npt.NDArray[np.float64]
    sent: npt.NDArray[np.uint8]

    def __len__(self) -> int:
        return int(self.at.size)


def whole_frames(exchanges: HumidityExchanges) -> Int64Array:
    """Which exchanges have all their bits, int64 (m,).

    Args:
        exchanges: decoded, columns of n exchanges.
    """
    return np.flatnonzero(exchanges.bit_count == layout.BITS)


def frames_in(
    exchanges: HumidityExchanges, at: Int64Array, at_once: int = AT_ONCE
) -> Iterator[Frames]:
    """Some whole frames, a part after the other.

    Args:
        exchanges: decoded, columns of n exchanges.
        at: which of them, rising; each has all its bits.
        at_once: how many are read together.
    """
    with_spikes = spiked(exchanges)
    for first in range(0, at.size, at_once):
        rows = at[first : first + at_once]
        yield _frames(exchanges, rows, with_spikes[rows])


def of_rows(columns: npt.NDArray[N], rows: Int64Array) -> npt.NDArray[N]:
    """Those columns that some exchanges have, (k, m); a view where the exchanges follow each other.

    Args:
        columns: (k, n).
        rows: which of them, rising.
    """
    if rows.size and rows[-1] - rows[0] == rows.size - 1:
        return columns[:, rows[0] : rows[-1] + 1]
    found: npt.NDArray[N] = columns[:, rows]
    return found


def widths_in(exchanges: HumidityExchanges, rows: Int64Array) -> npt.NDArray[np.int32]:
    """Widths of all pulses, int32 (84, m), ns, usual ones where the capture does not show them.

    Args:
        exchanges: decoded, columns of n exchanges.
        rows: which of them; each has all its bits.
    """
    widths = of_rows(exchanges.widths_ns, rows).copy()
    for column, usual in ((layout.RELEASE, USUAL_RELEASE_NS), (layout.END_LOW, USUAL_END_NS)):
        widths[column] = np.where(widths[column] == ABSENT, usual, widths[column])
    return widths


def _frames(
    exchanges: HumidityExchanges, rows: Int64Array, with_spikes: npt.NDArray[np.bool_]
) -> Frames:
    widths = widths_in(exchanges, rows)
    edges = np.zeros((EDGES, rows.size))
    add_up(widths, edges)
    for place in np.flatnonzero(with_spikes).tolist():
        index = int(rows[place])
        starts, lengths = exchanges.spikes_in(index)
        own = np.concatenate((starts, starts + lengths)) - int(exchanges.body_ns[index])
        every = np.sort(np.concatenate((edges[:, place], own[own > 0])))
        edges[:, place] = every[:EDGES]
    return Frames(rows, edges, of_rows(exchanges.packed, rows))


def lengths_of(edges_ns: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """How long each pulse lasts, ns; infinite from an edge that never comes on.

    Args:
        edges_ns: (e, m), infinite for those that never come.
    """
    with np.errstate(invalid="ignore"):
        found: npt.NDArray[np.float64] = np.diff(edges_ns, axis=0)
    found[np.isnan(found)] = np.inf
    return found
