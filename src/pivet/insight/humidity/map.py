"""Maps over two constants of a reader of humidity frames."""

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import HumidityExchanges
from pivet.insight.grid import DRAWN, SIDE, Grid, drawn_rows
from pivet.insight.humidity import loop_map
from pivet.insight.humidity.frames import (
    BIT_HIGH,
    BIT_LOW,
    Frames,
    frames_in,
    lengths_of,
    whole_frames,
)
from pivet.insight.humidity.reading import WAITED, ns
from pivet.insight.pulses import Int64Array
from pivet.insight.readers import Reader
from pivet.progress import Progress, each, part, silent

FloatArray = npt.NDArray[np.float64]

MOST_STALL_US = 80.0

ACROSS = {
    "width": ("threshold_us", "threshold"),
    "sample": ("threshold_us", "look after the rise"),
    "poll": ("period_us", "turn of the loop"),
}
"""The constant across the map of each kind of reader, and its name for people."""

BLOCK = 2048
"""How many frames at once stay in the processor's cache."""


def map_of(
    exchanges: HumidityExchanges,
    at: Int64Array,
    reader: Reader,
    drawn: int = DRAWN,
    progress: Progress = silent,
) -> Grid | None:
    """Which share of exchanges a firmware would read right; None where none is whole.

    Args:
        exchanges: decoded, columns of n exchanges.
        at: indices of some of them, rising.
        reader: the firmware; its threshold (or period) and its stalls are those of the map.
        drawn: how many exchanges are drawn.
        progress: called now and then.
    """
    at = np.intersect1d(at, whole_frames(exchanges), assume_unique=True)
    if not at.size:
        return None
    rng = np.random.default_rng(reader.seed)
    most = MOST_STALL_US if reader.stall is None else max(reader.stall.length_us * 2, 1.0)
    stalls = np.linspace(0.0, most, SIDE)
    rows = drawn_rows(at, drawn, rng)
    (frames,) = frames_in(exchanges, rows, rows.size)
    progress(0.0)  # each of these takes a while
    loop = reader.kind == "poll"
    x = loop_map.periods() if loop else _thresholds(frames)
    progress(0.0)
    right = (loop_map.count_right if loop else _counts)(frames, reader, x, stalls, rng, progress)
    across, label = ACROSS[reader.kind]
    return Grid(
        across,
        "stall_us",
        f"{label}, µs",
        "stall, µs",
        x,
        stalls,
        right / rows.size,
        rows.size,
        "one stall in each exchange, anywhere in it",
    )


def _thresholds(frames: Frames) -> FloatArray:
    highs = lengths_of(frames.edges_ns)[BIT_HIGH] / 1000
    low, high = np.quantile(highs, (0.001, 0.999)).tolist()
    return np.linspace(0.4 * low, 1.3 * high, SIDE)


def _counts(
    frames: Frames,
    reader: Reader,
    x: FloatArray,
    stalls: FloatArray,
    rng: np.random.Generator,
    progress: Progress,
) -> FloatArray:
    """How many frames each pair of constants reads right, (m, k)."""
    where, phase = rng.random(len(frames)), rng.random(len(frames))
    found = np.zeros((stalls.size, x.size))
    for first in range(0, len(frames), BLOCK):
        rows = slice(first, min(first + BLOCK, len(frames)))
        few = Frames(frames.at[rows], frames.edges_ns[:, rows], frames.sent[:, rows])
        own = part(progress, first / len(frames), rows.stop / len(frames))
        found += _block(few, reader, x, stalls, where[rows], phase[rows], own)
    return found


def _block(
    frames: Frames,
    reader: Reader,
    x: FloatArray,
    stalls: FloatArray,
    where: FloatArray,
    phase: FloatArray,
    progress: Progress,
) -> FloatArray:
    """The same of a few frames; whole ns are exact in float32 up to 16 ms."""
    zeros = np.unpackbits(frames.sent, axis=0) == 0
    edges = frames.edges_ns[: WAITED.stop + 1].astype(np.float32)
    step = np.float32(ns(reader.resolution_us) if reader.kind == "width" else 0.0)
    thresholds = np.round(x * 1000, 6)
    found = np.empty((stalls.size, x.size))
    for row, stall_us in enumerate(each(stalls.tolist(), progress)):
        length = np.float32(ns(stall_us))
        starts = edges[0] - length + where.astype(np.float32) * (edges[-1] - edges[0] + length)
        if reader.kind == "width":
            seen = np.where((edges >= starts) & (edges < starts + length), starts + length, edges)
        else:
            seen = edges - np.clip(edges - starts, np.float32(0.0), length)
        lengths = np.diff(seen, axis=0)
        good = lengths.min(axis=0) > 0
        if step:
            ticks = np.floor(seen / step + phase.astype(np.float32))
            lengths = np.diff(ticks, axis=0) * step
        if reader.timeout_us is not None:
            good &= lengths.max(axis=0) <= ns(reader.timeout_us)
        highs = lengths[BIT_HIGH]
        low = np.where(zeros, highs, np.float32(-np.inf)).max(axis=0)
        high = np.where(zeros, np.float32(np.inf), highs).min(axis=0)
        if reader.kind == "sample":
            apart = highs[:-1] + lengths[BIT_LOW.start + 2 : BIT_LOW.stop : 2]
            high = np.minimum(high, apart.min(axis=0))
        good &= low < high
        # A high that is longer than the threshold is a 1: the longest 0 may be as long as it.
        found[row] = np.searchsorted(np.sort(low[good]), thresholds, side="right")
        found[row] -= np.searchsorted(np.sort(high[good]), thresholds, side="right")
    return found
