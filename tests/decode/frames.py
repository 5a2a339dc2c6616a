"""Edges of made-up frames for tests, by hand and not by the stand-in."""

import numpy as np
import numpy.typing as npt
from hypothesis import strategies as st

Int64Array = npt.NDArray[np.int64]

ZERO_US, ONE_US, LOW_US = 26.0, 70.0, 50.0


def frame_widths(
    data: bytes, ask_us: float = 1000.0, clock: float = 1.0, rise_us: float = 0.0
) -> list[float]:
    """Widths in µs of an exchange, from the ask to the end."""
    bits = np.unpackbits(np.frombuffer(data, dtype=np.uint8))
    widths = [ask_us, 30.0, 80.0 * clock + rise_us, 80.0 * clock - rise_us]
    for bit in bits:
        widths += [LOW_US * clock + rise_us, (ONE_US if bit else ZERO_US) * clock - rise_us]
    return [*widths, LOW_US * clock + rise_us]


def edges_from(widths_us: list[float], start_us: float = 0.0) -> Int64Array:
    """Edge times in ns of pulses that follow each other, from a falling edge on."""
    times = start_us + np.concatenate(([0.0], np.cumsum(widths_us)))
    return np.round(times * 1000).astype(np.int64)


def with_sum(payload: bytes) -> bytes:
    """Four bytes and their sum."""
    return payload + bytes([sum(payload) % 256])


payloads = st.binary(min_size=4, max_size=4)


@st.composite
def edge_trains(draw: st.DrawFn, most: int = 260) -> Int64Array:
    """Any rising edges, from spikes to idle, with the widths of frames among them."""
    width = st.one_of(
        st.integers(1, 3000),
        st.sampled_from([26_000, 50_000, 70_000, 80_000, 30_000, 18_000_000, 1_000_000]),
        st.integers(10_000, 150_000),
        st.integers(200_000, 3_000_000),
        st.integers(90_000_000, 120_000_000),
    )
    widths = draw(st.lists(width, min_size=0, max_size=most))
    return np.cumsum(np.array(widths, dtype=np.int64)) if widths else np.empty(0, np.int64)
