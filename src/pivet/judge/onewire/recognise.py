"""Whether a line carries 1-Wire transactions."""

import numpy as np

from pivet.decode.interface import ABSENT
from pivet.decode.onewire import OneWireExchanges
from pivet.judge.judgement import Likeness
from pivet.judge.onewire.judged import BLIND_NS, COARSE_NS
from pivet.sheets.onewire import Rom

KNOWN_SHARE = 0.5
"""Of the transactions with a ROM command so many must have one of the standard, and somebody must
have answered one: the answer of a humidity sensor looks like presence too, but no command follows
it; and a device with a loose wire answers now and then."""

REST_NS = 5_000_000
"""Resets come so far apart at least; closer together they are a clock."""

ASK_NS = (300_000, 750_000)
ASKS_SPREAD = 0.05
"""Lone lows of this length, alike to this share, are resets that nobody answers, or too short ones;
a humidity sensor's ask is longer."""

FEW, MORE_REST_NS = 4, 25_000_000
"""More of them stand farther apart: a servo turned over comes every 20 ms."""


def likeness(exchanges: OneWireExchanges, step_ns: int = 1) -> Likeness:
    """How much a line looks like a 1-Wire line, captured in a step.

    Args:
        exchanges: decoded, columns of n exchanges.
        step_ns: of the capture, ns.
    """
    if not len(exchanges):
        return Likeness.POSSIBLE
    found = Likeness.POSSIBLE if step_ns >= BLIND_NS else _by_commands(exchanges)
    if step_ns >= COARSE_NS and found is not Likeness.ANSWERED:
        return _by_resets(exchanges, step_ns)
    return found


def _by_commands(exchanges: OneWireExchanges) -> Likeness:
    """By what hosts say after a reset, and whether somebody answered any of it."""
    present = exchanges.presence_ns != ABSENT
    said = exchanges.command >= 0
    known = np.isin(exchanges.command, list(Rom))
    if present.any() and said.any():
        share = np.count_nonzero(known) / np.count_nonzero(said)
        answered = share >= KNOWN_SHARE and bool((known & present).any())
        return Likeness.ANSWERED if answered else Likeness.POSSIBLE
    silent = not said.any() or bool(known[said].all())
    length = exchanges.reset_ns
    fits = (length >= ASK_NS[0]) & (length <= ASK_NS[1]) & ~exchanges.fast
    apart = REST_NS if len(exchanges) <= FEW else MORE_REST_NS
    rested = bool((np.diff(exchanges.start_ns) >= apart).all())
    rested &= bool(np.ptp(length) <= ASKS_SPREAD * length.max())
    whole = not exchanges.stray_edges.size and rested and silent
    return Likeness.ASKED if whole and bool(fits.all()) else Likeness.POSSIBLE


def _by_resets(exchanges: OneWireExchanges, step_ns: int) -> Likeness:
    """A capture too coarse for bits still shows resets, each with presence and a pause after."""
    reset, presence = exchanges.reset_ns, exchanges.presence_ns
    whole = (reset >= RESET_NS[0] - step_ns) & (reset <= RESET_NS[1] + step_ns)
    whole &= presence != ABSENT
    rows = np.flatnonzero(whole & (exchanges.slot_count > 0))
    release = exchanges.start_ns[rows] + reset[rows]
    phase = exchanges.fall_ns[exchanges.first_slot[rows]] - release
    whole[rows] &= phase >= PHASE_NS - step_ns
    slots = int(exchanges.slot_count[whole].sum()) > 0
    most = np.count_nonzero(whole) >= MOST_RESETS * len(exchanges)
    return Likeness.ANSWERED if slots and most else Likeness.POSSIBLE


RESET_NS, PHASE_NS = (430_000, 1_000_000), 420_000
MOST_RESETS = 0.7
"""Of the transactions of a coarse capture, so many begin with a reset, presence and a pause."""
