"""Edges of 1-Wire transactions for tests, by hand and not by the stand-in."""

import numpy as np
import numpy.typing as npt
from hypothesis import strategies as st

Int64Array = npt.NDArray[np.int64]
Low = tuple[float, float]
"""A low and the high behind it, µs."""

RESET: list[Low] = [(500.0, 30.0), (120.0, 350.0)]
RESET_ALONE: list[Low] = [(500.0, 500.0)]
FAST_RESET: list[Low] = [(60.0, 3.0), (12.0, 36.0)]


def written(data: bytes, one: float = 6.0, zero: float = 65.0, slot: float = 72.0) -> list[Low]:
    """Bytes as a host writes them."""
    bits = np.unpackbits(np.frombuffer(data, dtype=np.uint8), bitorder="little").tolist()
    return [(low, slot - low) for low in (one if bit else zero for bit in bits)]


def read(data: bytes, one: float = 4.0, hold: float = 30.0, slot: float = 72.0) -> list[Low]:
    """Bytes as a device answers them."""
    return written(data, one, hold, slot)


def fast(data: bytes) -> list[Low]:
    """Bytes as a host writes them at overdrive speed."""
    return written(data, 1.5, 8.0, 11.0)


def edges_of(lows: list[Low], start_us: float = 1000.0) -> Int64Array:
    """Edge times in ns of lows and the highs behind them."""
    widths = np.array(lows).ravel()
    times = start_us + np.concatenate(([0.0], np.cumsum(widths)))[:-1]
    return np.round(times * 1000).astype(np.int64)


@st.composite
def slot_trains(draw: st.DrawFn, most: int = 160) -> Int64Array:
    """Any rising edges, with the widths of 1-Wire pulses among them."""
    common = [1_500, 6_000, 8_000, 15_000, 30_000, 62_000, 65_000, 120_000, 480_000, 500_000]
    width = st.one_of(
        st.sampled_from(common),
        st.integers(1, 2_000),
        st.integers(1_000, 70_000),
        st.integers(200_000, 1_000_000),
        st.integers(1_000_000, 9_000_000),
    )
    widths = draw(st.lists(width, min_size=0, max_size=most))
    return np.cumsum(np.array(widths, dtype=np.int64)) if widths else np.empty(0, np.int64)
