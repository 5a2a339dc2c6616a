"""What is wrong with the lines rather than with one pulse of them."""

import numpy as np

from pivet.decode.echo import DecodeMark, EchoExchanges, layout
from pivet.decode.interface import ABSENT
from pivet.signal.trace import BoolArray

SWAPPED_NS = 116 * layout.US
"""The shortest echo; longer than any trigger and any wait of a swapped pair."""


def swapped(exchanges: EchoExchanges) -> BoolArray:
    """Triggers as long as echoes, and echoes as short as triggers ahead of them.

    Args:
        exchanges: decoded, columns of n exchanges.
    """
    if not (exchanges.trigger_ns >= SWAPPED_NS).any():
        return np.zeros(len(exchanges), dtype=bool)
    found: BoolArray = (exchanges.trigger_ns >= SWAPPED_NS) & (exchanges.flight_ns != ABSENT)
    found &= (exchanges.flight_ns < layout.TRIGGER_BELOW_NS) & (exchanges.wait_ns > SWAPPED_NS)
    alone = (exchanges.marks & DecodeMark.TRIGGER_UNSEEN) != 0
    alone &= exchanges.flight_ns < layout.TRIGGER_BELOW_NS
    pair = alone[:-1] & (exchanges.trigger_ns[1:] >= SWAPPED_NS)
    pair &= np.diff(exchanges.start_ns) < layout.ECHO_LATEST_NS
    found[:-1] |= pair
    found[1:] |= pair
    return found


def torn_by_spikes(exchanges: EchoExchanges) -> BoolArray:
    """Whether a spike that was taken out may have parted an echo from a pulse beside it.

    Args:
        exchanges: decoded, columns of n exchanges.
    """
    spikes = exchanges.spike_start_ns
    if not spikes.size:
        return np.zeros(len(exchanges), dtype=bool)
    rise, fall = exchanges.rise_ns, exchanges.rise_ns + exchanges.flight_ns
    found = np.zeros(len(exchanges), dtype=bool)
    for first, last in (
        (rise + layout.RAGGED_NS, np.minimum(rise + layout.STRAY_NS, fall)),
        (np.maximum(fall - layout.STRAY_NS, rise), fall - layout.RAGGED_NS),
    ):
        found |= np.searchsorted(spikes, last) > np.searchsorted(spikes, first)
    return np.asarray(found & (exchanges.flight_ns != ABSENT))
