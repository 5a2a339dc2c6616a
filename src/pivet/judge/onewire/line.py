"""What is wrong with the line rather than with one pulse of it: causes of many symptoms."""

import numpy as np
import numpy.typing as npt

from pivet.decode.interface import ABSENT
from pivet.decode.onewire import OneWireExchanges
from pivet.judge.notices import Flags, noted
from pivet.judge.onewire.classes import HOLD, ONE, SLOT, ZERO, SlotClasses
from pivet.judge.onewire.notices import Notice
from pivet.judge.onewire.scratchpads import Scratchpads
from pivet.sheets.onewire import POLLED

SPLIT_NS, BOUNCED = 42_000, 0.2
"""At standard speed no slot follows another so soon; where so many do, the line bounces."""

SCATTER_NS, SCATTER_ONE_NS, GROWN = 6_000, 7_000, 0.6
"""Lows of one kind that differ by more than this, ones as short as this among them; on a line that
rises slowly all ones have grown, to this share of the longest."""

SLOW_ONE_NS, ALIKE_NS = 13_000, 4_000
"""A 1 grown to this length, and read zeros that are hardly longer: they are ones too."""


def line_notices(exchanges: OneWireExchanges, classes: SlotClasses, pads: Scratchpads) -> Flags:
    """Notices on what breaks transactions: a line that rises slowly, a read that breaks off.

    Args:
        exchanges: decoded, columns of n exchanges.
        classes: the pulses by window.
        pads: the scratchpads that were read.
    """
    ones, zeros = classes.most_ns[ONE], classes.least_ns[HOLD]
    least = classes.least_ns[ONE]
    slow = (ones >= SLOW_ONE_NS) & (zeros != ABSENT) & (zeros <= ones + ALIKE_NS)
    slow &= least >= GROWN * ones
    pitch = classes.least_ns[SLOT]
    split = (pitch != ABSENT) & (pitch < SPLIT_NS)
    bounced = split & (_short_share(exchanges) >= BOUNCED) if split.any() else split
    spread = (ones - least > SCATTER_NS) & (least != ABSENT) & (least < SCATTER_ONE_NS)
    hold = (classes.most_ns[ZERO] - classes.least_ns[ZERO] > SCATTER_NS) | (
        classes.most_ns[HOLD] - classes.least_ns[HOLD] > SCATTER_NS
    )
    part = (exchanges.slot_count % 8 != 0) & (exchanges.command >= 0) & (exchanges.steps < 0)
    part &= ~np.isin(exchanges.function, POLLED) & ~exchanges.ended
    silent = ~pads.holds & ~pads.ones & (pads.data[-2:] == 0xFF).all(axis=0)
    part[pads.at] |= silent
    return noted(
        (slow, Notice.SLOW_RISE),
        (part, Notice.BROKEN_OFF),
        (bounced, Notice.REFLECTIONS),
        (split & ~bounced, Notice.SPLIT_SLOTS),
        (spread & hold & ~bounced, Notice.SCATTER),
    )


def _short_share(exchanges: OneWireExchanges) -> npt.NDArray[np.float64]:
    """Share of each transaction's slots that another follows too soon, float64 (n,)."""
    share = np.zeros(len(exchanges))
    rows = np.flatnonzero(exchanges.slot_count)
    if rows.size:
        soon = np.append(np.diff(exchanges.fall_ns) < SPLIT_NS, False)
        first = exchanges.first_slot[rows]
        share[rows] = np.add.reduceat(soon, first, dtype=np.int64) / exchanges.slot_count[rows]
    return share
