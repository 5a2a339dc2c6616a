"""Which constants a 1-Wire host should have, by what its devices did."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from pivet.decode.interface import ABSENT
from pivet.decode.onewire import OneWireExchanges, Speaker
from pivet.insight.grid import DRAWN, SIDE, Grid, drawn_rows
from pivet.insight.onewire.reading import owners_of
from pivet.insight.pulses import BoolArray, Int64Array
from pivet.insight.readers import Reader
from pivet.insight.suggestion import Constant, Found, Suggestion

LATEST_SAMPLE_US = 15.0
"""Later than this after the fall no device has to hold a 0 (1-Wire standard, read slot)."""

LEAST_RECOVERY_US = 1.0
MOST_RISE_US = 20.0

Chosen = Sequence[tuple[OneWireExchanges, Int64Array]]
Sides = tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]


def read_sides(exchanges: OneWireExchanges) -> Sides:
    """The longest low of a read 1 and the shortest of a read 0 of each transaction, (n,), µs.

    -inf and inf where there is none.

    Args:
        exchanges: decoded, columns of n transactions.
    """
    by_device = exchanges.speaker == Speaker.DEVICE
    owner, low = owners_of(exchanges), exchanges.low_ns / 1000
    one, zero = np.full(len(exchanges), -np.inf), np.full(len(exchanges), np.inf)
    is_one = exchanges.bit == 1
    np.maximum.at(one, owner[by_device & is_one], low[by_device & is_one])
    np.minimum.at(zero, owner[by_device & ~is_one], low[by_device & ~is_one])
    return one, zero


def suggest(chosen: Chosen, reader: Reader) -> Suggestion:
    """The constants with which a host reads all of some transactions, of several files.

    Args:
        chosen: transactions and which of them.
        reader: the rise that it is to allow for.
    """
    number = sum(at.size for _, at in chosen)
    sides = [tuple(side[at] for side in read_sides(exchanges)) for exchanges, at in chosen]
    one = max((float(side[0].max()) for side in sides if side[0].size), default=-np.inf)
    zero = min((float(side[1].min()) for side in sides if side[1].size), default=np.inf)
    found = Found(one + reader.rise_us, zero + reader.rise_us)
    if not found.holds:
        why = "no device sent both a 0 and a 1"
        if np.isfinite(one) and np.isfinite(zero):
            why = f"a read 1 lasts up to {one:.1f} µs, a read 0 from {zero:.1f} µs on"
        return Suggestion(number, (), why_not=why)
    sample = min(found.middle_us, max(LATEST_SAMPLE_US, found.low_us))
    by_standard = (
        ""
        if sample == found.middle_us
        else (f"; the standard promises a 0 only up to {LATEST_SAMPLE_US:g} µs")
    )
    constants = [
        Constant(
            "threshold_us",
            "look after the fall",
            sample,
            f"a read 1 is low for up to {found.low_us:.1f} µs, a read 0 for at least "
            f"{found.high_us:.1f} µs{by_standard}",
        ),
        _slot(chosen, reader),
        *_presence(chosen),
        *_reset(chosen),
    ]
    return Suggestion(number, tuple(constants), found.low_us, found.high_us)


def _slots_of(exchanges: OneWireExchanges, at: Int64Array) -> BoolArray:
    return np.isin(owners_of(exchanges), at)


def _slot(chosen: Chosen, reader: Reader) -> Constant:
    longest = max(
        float(exchanges.low_ns[_slots_of(exchanges, at)].max(initial=0)) / 1000
        for exchanges, at in chosen
    )
    least = longest + reader.rise_us + LEAST_RECOVERY_US
    return Constant(
        "slot_us",
        "slot",
        float(np.ceil(least / 5) * 5),
        f"the longest low lasts {longest + reader.rise_us:.1f} µs, and the line is to be up for "
        f"{LEAST_RECOVERY_US:g} µs",
    )


def _presence(chosen: Chosen) -> list[Constant]:
    """When to look for presence: while all devices that were seen hold it."""
    begins, ends = [], []
    for exchanges, at in chosen:
        rows = at[(exchanges.wait_ns[at] != ABSENT) & ~exchanges.fast[at]]
        begins += (exchanges.wait_ns[rows] / 1000).tolist()
        ends += ((exchanges.wait_ns[rows] + exchanges.presence_ns[rows]) / 1000).tolist()
    if not begins or max(begins) >= min(ends):
        return []
    low, high = max(begins), min(ends)
    return [
        Constant(
            "presence_us",
            "look for presence",
            (low + high) / 2,
            f"all devices hold the line from {low:.1f} to {high:.1f} µs after the release",
        )
    ]


def _reset(chosen: Chosen) -> list[Constant]:
    """The reset that devices were seen to answer; of others nobody knows."""
    answered = np.concatenate(
        [
            exchanges.reset_ns[at[(exchanges.wait_ns[at] != ABSENT) & ~exchanges.fast[at]]]
            for exchanges, at in chosen
        ]
    )
    if not answered.size:
        return []
    low, high = float(answered.min()) / 1000, float(answered.max()) / 1000
    return [
        Constant(
            "reset_us",
            "reset",
            float(np.median(answered)) / 1000,
            f"resets of {low:.1f} to {high:.1f} µs were answered; others were not tried",
        )
    ]


def map_of(
    exchanges: OneWireExchanges, at: Int64Array, reader: Reader, drawn: int = DRAWN
) -> Grid | None:
    """When the host looks, against how much later the line rises.

    Args:
        exchanges: decoded, columns of n transactions.
        at: indices of some of them, rising.
        reader: the host.
        drawn: how many transactions are drawn.
    """
    one, zero = read_sides(exchanges)
    at = at[np.isfinite(one[at]) | np.isfinite(zero[at])]
    if not at.size:
        return None
    rows = drawn_rows(at, drawn, np.random.default_rng(reader.seed))
    good = one[rows] < zero[rows]
    low, high = np.sort(one[rows][good]), np.sort(zero[rows][good])
    finite = high[np.isfinite(high)]
    x = np.linspace(1.0, 1.3 * float(np.median(finite)) if finite.size else 30.0, SIDE)
    y = np.linspace(0.0, MOST_RISE_US, SIDE)
    look = x[None, :] - y[:, None]
    right = np.searchsorted(low, look, side="right") - np.searchsorted(high, look, side="right")
    return Grid(
        "threshold_us",
        "rise_us",
        "look after the fall, µs",
        "later rise, µs",
        x,
        y,
        right / rows.size,
        rows.size,
        "transactions in which devices send",
    )
