"""Whether a line carries 1-Wire transactions."""

import numpy as np

from pivet.decode.interface import ABSENT
from pivet.decode.onewire import OneWireExchanges
from pivet.judge.judgement import Likeness
from pivet.sheets.onewire import Rom

KNOWN_SHARE = 0.5
"""Of the transactions with a ROM command so many must have one of the standard: the answer of
a humidity sensor looks like presence too, but no command follows it."""

REST_NS = 5_000_000
"""Resets come so far apart at least; closer together they are a clock."""

ASK_NS = (430_000, 750_000)
"""Lone lows of this length are resets that nobody answers; a humidity sensor's ask is longer."""


def likeness(exchanges: OneWireExchanges) -> Likeness:
    """How much a line looks like a 1-Wire line."""
    if not len(exchanges):
        return Likeness.POSSIBLE
    present = exchanges.presence_ns != ABSENT
    said = exchanges.command >= 0
    known = np.isin(exchanges.command, list(Rom))
    if present.any() and said.any():
        share = np.count_nonzero(known & present) / np.count_nonzero(said)
        return Likeness.ANSWERED if share >= KNOWN_SHARE else Likeness.POSSIBLE
    silent = not said.any() or bool(known[said].all())
    length = exchanges.reset_ns
    fits = (length >= ASK_NS[0]) & (length <= ASK_NS[1]) & ~exchanges.fast
    rested = bool((np.diff(exchanges.start_ns) >= REST_NS).all())
    whole = not exchanges.stray_edges.size and rested and silent
    return Likeness.ASKED if whole and bool(fits.all()) else Likeness.POSSIBLE
